// What every command of the tool has in common: its streams, its options, its exit codes.
#pragma once

#include <truecurve/data/observations.hpp>
#include <truecurve/data/table.hpp>
#include <truecurve/fit/options.hpp>
#include <truecurve/io/csv.hpp>
#include <truecurve/model/model.hpp>

#include "arguments.hpp"
#include "output.hpp"
#include "run.hpp"

#include <functional>
#include <initializer_list>
#include <span>
#include <string>
#include <utility>
#include <vector>

namespace truecurve::app {

/// One command: adds itself to the parser and returns what to do when it is chosen.
using Command = std::function<int()>;
#define COMMAND(name) Command add_##name(CLI::App& parser, const Streams& streams);
#include "commands.def"
#undef COMMAND

/// Every command with its name, added to the parser, in the order of the work.
std::vector<std::pair<std::string, Command>> add_commands(CLI::App& parser, const Streams& streams);

/// The options that choose data, the same in every command that reads a table.
struct DataOptions {
  std::string file;
  CsvOptions table{};  ///< which of its lines, sheets and cells
  std::vector<std::string> aliases;
  std::vector<std::string> units;
  std::vector<std::string> leave_out;
  std::string order;
  std::vector<std::string> uncertainties;
  std::vector<std::string> x;
  std::string y;
  std::string event;   ///< the word that is the event, or empty
  std::string trials;  ///< column or number
  bool counts = false;
  std::string exposure;  ///< column or number
};

/// --skip, --block, --sheet and --cells: which table of a file, as the help calls it; with the option that names the
/// file, where it is one.
void add_table_choice(Arguments& command, CsvOptions& options, const std::string& file,
                      const Argument* named = nullptr);
void add_file(Arguments& command, DataOptions& options);
void add_names(Arguments& command, DataOptions& options);
void add_choice(Arguments& command, DataOptions& options);
/// --event, --trials, --counts and --exposure, which say how a response was counted.
void add_counting(Arguments& command, DataOptions& options);
/// Refuses the first of these options that is given, as it does not go with `option`. Throws Error (bad_argument).
void refuse_beside(const char* option, std::initializer_list<std::pair<bool, const char*>> others,
                   const std::string& remedy);
/// --counts and --exposure alone.
void add_counts(Arguments& command, DataOptions& options);
/// What they say together; throws Error (bad_argument) where they contradict one another.
[[nodiscard]] Counting counting_of(const DataOptions& options, const Table& table);
/// Reads FILE (or standard input for -) and applies aliases and units.
[[nodiscard]] Table read_table(const DataOptions& options, const Streams& streams);

/// The rows given by --leave-out, by number or by condition, each with its reason.
[[nodiscard]] std::vector<LeftOut> rows_left_out(const Table& table, const std::vector<std::string>& texts);

/// Whether --leave-out invalid was given.
[[nodiscard]] bool leaves_out_invalid(const std::vector<std::string>& texts);

/// The whole text of a file, or of standard input for -.
[[nodiscard]] std::string read_text(const std::string& file, const Streams& streams);

/// A number in full; throws Error (bad_argument) that names the option.
[[nodiscard]] double number_of(const std::string& text, const char* option);

/// "0..10", "0..", "..10"; an end that is left away is NaN. Throws Error (bad_argument) that names the option.
[[nodiscard]] std::pair<double, double> range_of(const std::string& text, const char* option);

/// The uncertainty given by --u for the response.
[[nodiscard]] Uncertainty response_uncertainty(const DataOptions& options, const Table& table,
                                               const std::string& response);

/// "name=value" taken apart, without the blanks about them and the quotation marks about the name; one of `names` may
/// hold the sign itself. Throws Error (bad_argument) that names the option.
[[nodiscard]] std::pair<std::string, std::string> assignment(const std::string& text, const char* option,
                                                             std::span<const std::string> names = {});

/// All names by which the columns of a table are found.
[[nodiscard]] std::vector<std::string> names_of(const Table& table);

}  // namespace truecurve::app
