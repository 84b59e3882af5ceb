// What a command takes: a thin face over the parser of arguments, whose templates are compiled once, in arguments.cpp.
#pragma once

#include <cstdint>
#include <functional>
#include <string>
#include <vector>

namespace CLI {
class App;
class Option;
}  // namespace CLI

namespace truecurve::app {

/// One option or positional argument while it is described.
class Argument {
 public:
  explicit Argument(CLI::Option* option) : option_(option) {}

  Argument& required();
  /// What it takes, in capitals; words meant literally in small letters: "ROWS|CONDITION|invalid".
  Argument& takes(const std::string& form);
  /// One of these words.
  Argument& one_of(const std::vector<std::string>& words);
  /// It names a file that is read ("-": standard input), or one that is written: no command reads and writes one file.
  Argument& reads();
  Argument& writes();
  Argument& within(double low, double high);
  Argument& excludes(const Argument& other);
  Argument& needs(const Argument& other);

 private:
  CLI::Option* option_;
};

/// The arguments of one command. A name without dashes is a positional argument; a list may be repeated; a number shows
/// what it is if not given.
class Arguments {
 public:
  /// Adds a command to the parser.
  Arguments(CLI::App& parser, const char* name, const char* summary);

  Argument add(const char* name, std::string& value, const std::string& help);
  Argument add(const char* name, std::vector<std::string>& values, const std::string& help);
  Argument add(const char* name, double& value, const std::string& help);
  /// A number between 0 and 1, which may be written in percent: 0.95, 95%.
  Argument add_share(const char* name, double& value, const std::string& help);
  Argument add(const char* name, int& value, const std::string& help);
  Argument add(const char* name, std::size_t& value, const std::string& help);
  Argument add(const char* name, const std::function<void(const std::string&)>& take, const std::string& help);
  Argument add_flag(const char* name, bool& value, const std::string& help);
  /// A command line that works, from the root of the source tree.
  void example(const std::string& line);

 private:
  CLI::App* command_;
};

/// Looks, before anything is computed, at the files that a parsed command names: each that it writes can be written,
/// and is neither one that it reads nor written twice. Throws Error (bad_argument, cannot_write).
void require_files_apart(const CLI::App& command);

/// What a command says of an argument.
struct ArgumentDescription {
  std::vector<std::string> names{};  ///< "-h", "--help"; of a positional argument its name
  std::string takes{};               ///< empty for flags and positional arguments
  std::string help{};
  std::string if_not_given{};
  bool is_positional = false;
  bool is_required = false;
  bool may_be_repeated = false;
  bool is_file_read = false;  ///< whether it names a file that is read
};

struct CommandDescription {
  std::string name{};
  std::string summary{};
  std::string example{};
  std::vector<ArgumentDescription> arguments{};

  /// The option of that name (with its dashes), or nullptr.
  [[nodiscard]] const ArgumentDescription* find(const std::string& name) const;
};

[[nodiscard]] CommandDescription describe(const CLI::App& command);
/// Every command, in the order of the work.
[[nodiscard]] std::vector<CommandDescription> describe_commands();

}  // namespace truecurve::app
