// The command line: finds the command, turns errors into exit codes.
#include <truecurve/base/error.hpp>
#include <truecurve/base/version.hpp>
#include <truecurve/io/files.hpp>

#include "command.hpp"
#include "completion.hpp"
#include "manual.hpp"
#include "option_words.hpp"
#include "progress.hpp"
#include "terminal.hpp"

#include <algorithm>
#include <filesystem>
#include <ostream>

#include <CLI/CLI.hpp>
#include <fmt/format.h>
#include <fmt/ranges.h>

namespace truecurve::app {
namespace {

int exit_code(ErrorKind kind) {
  switch (kind) {
    case ErrorKind::usage: return 2;
    case ErrorKind::data: return 3;
    case ErrorKind::fit: return 4;
    case ErrorKind::output: return 5;
    case ErrorKind::internal: return 1;
  }
  return 1;
}

std::string unknown_command(const std::vector<std::string>& arguments, const CLI::App& parser) {
  for (const std::string& argument : arguments) {
    if (argument.starts_with("-")) continue;
    std::vector<std::string> names;
    for (const CLI::App* command : parser.get_subcommands([](const CLI::App*) { return true; }))
      names.push_back(command->get_name());
    if (std::find(names.begin(), names.end(), argument) != names.end()) return "";
    const std::string nearest = nearest_name(argument, names);
    std::string list;
    for (const std::string& name : names) list += (list.empty() ? "" : ", ") + name;
    return fmt::format("there is no command '{}'\n  {}the commands are: {}", argument,
                       nearest.empty() ? "" : fmt::format("did you mean '{}'? ", nearest), list);
  }
  return "";
}

// An option that the command does not have, with the nearest that it has.
std::string unknown_option(const std::vector<std::string>& arguments) {
  for (const CommandDescription& command : describe_commands()) {
    if (arguments.empty() || arguments[0] != command.name) continue;
    for (const std::string& argument : arguments) {
      const std::string name = argument.substr(0, argument.find('='));
      if (!name.starts_with("--") || name.size() < 3 || command.find(name) != nullptr) continue;
      std::vector<std::string> names;
      for (const ArgumentDescription& known : command.arguments) {
        if (!known.is_positional) names.push_back(known.names.back());
      }
      const std::string nearest = nearest_name(name, names);
      return fmt::format("{} has no option {}{}", command.name, name,
                         nearest.empty() ? "" : fmt::format("; did you mean {}?", nearest));
    }
  }
  return "";
}

// Words beyond those that the command takes.
std::string too_many_words(const std::vector<std::string>& arguments) {
  for (const CommandDescription& command : describe_commands()) {
    if (arguments.empty() || arguments[0] != command.name) continue;
    std::vector<std::string> places;
    for (const ArgumentDescription& known : command.arguments) {
      if (known.is_positional) places.push_back(known.names[0]);
    }
    std::vector<std::string> words;
    for (std::size_t i = 1; i < arguments.size(); ++i) {
      const bool is_option = arguments[i].starts_with("--");
      const ArgumentDescription* option = is_option ? command.find(arguments[i]) : nullptr;
      if (is_option && option == nullptr) return "";
      if (!is_option) words.push_back(arguments[i]);
      if (option != nullptr && !option->takes.empty() && arguments[i].find('=') == std::string::npos) ++i;
    }
    if (words.size() <= places.size() || places.empty()) return "";
    const bool are_files = places[0] == "FILE" && words.size() > 1 && std::filesystem::exists(words[0]) &&
                           std::filesystem::exists(words[1]);
    if (are_files)
      return fmt::format("{} takes one FILE, and two are given: '{}' and '{}'", command.name, words[0], words[1]);
    const std::string& further = words[places.size()];
    return fmt::format("{} takes {} and no further word, and '{}' is given; {}", command.name,
                       fmt::join(places, " and "), further,
                       command.find("--model") != nullptr ? fmt::format("a model is given with --model '{}'", further)
                                                          : "what has blanks stands in quotation marks");
  }
  return "";
}

// The command that the parser has found; what it wrote appears once it has succeeded.
int run_chosen(const CLI::App& parser, const std::vector<std::pair<std::string, Command>>& commands, Together& files) {
  for (const auto& [name, command] : commands) {
    if (!parser.got_subcommand(name)) continue;
    require_files_apart(*parser.get_subcommand(name));
    const int code = command();
    if (code == 0) files.publish();
    return code;
  }
  return 2;
}

}  // namespace

std::vector<std::pair<std::string, Command>> add_commands(CLI::App& parser, const Streams& streams) {
  return {
#define COMMAND(name) {#name, add_##name(parser, streams)},
#include "commands.def"
#undef COMMAND
  };
}

int run(std::vector<std::string> arguments, Streams streams) {
  CLI::App parser("Fits curves to laboratory data and reports how certain the results are.", "truecurve");
  parser.set_version_flag("-V,--version", fmt::format("truecurve {}", version), "Print the version and end");
  // It may stand anywhere, a command's options included.
  const bool is_silent = std::erase(arguments, "--no-progress") > 0;
  parser.add_flag_callback(
      "--no-progress", [] {}, "Do not show progress on the terminal");
  parser.require_subcommand(1);
  parser.formatter_fn(
      [&parser, columns = streams.terminal.columns](const CLI::App* app, const std::string&, CLI::AppFormatMode) {
        return app == &parser ? overview_text(describe(parser), columns) : help_text(describe(*app), columns);
      });
  Together files;
  streams.files = &files;
  Progress progress(streams.error);
  streams.progress = &progress;
  const auto complain = [&](const std::string& text) {
    progress.end();
    streams.error << complaint(text, streams.terminal.remarks);
  };
  const auto commands = add_commands(parser, streams);
  try {
    if (arguments.size() > 2 && arguments[0] == "completion" && arguments[1] == "--words") {
      for (const std::string& word : completions({arguments.begin() + 2, arguments.end()})) streams.out << word << '\n';
      return 0;
    }
    if (arguments.empty()) {
      complain("no command is given\n  truecurve help lists the commands");
      return 2;
    }
    std::vector<std::string> reversed(arguments.rbegin(), arguments.rend());
    parser.parse(reversed);
    if (streams.terminal.shows_progress && !is_silent) progress.begin();
    return run_chosen(parser, commands, files);
  } catch (const CLI::ParseError& error) {
    if (error.get_exit_code() == 0) return parser.exit(error, streams.out, streams.error);
    std::string unknown = unknown_command(arguments, parser);
    if (unknown.empty()) unknown = unknown_option(arguments);
    if (unknown.empty()) unknown = too_many_words(arguments);
    std::string help = "truecurve --help";
    for (const auto& [name, command] : commands) {
      if (parser.got_subcommand(name)) help = fmt::format("truecurve {} --help", name);
    }
    complain(fmt::format("{}\n  {} shows what can be given", unknown.empty() ? error.what() : unknown, help));
    return 2;
  } catch (const Error& error) {
    complain(text_of(error.details(), option_words));
    return exit_code(kind(error.code()));
  } catch (const std::bad_alloc&) {
    complain("there is not enough memory for these data");
    return 1;
  } catch (const std::exception& error) {
    complain(fmt::format("internal fault: {}\n  please report this with the command and the data", error.what()));
    return 1;
  }
}

}  // namespace truecurve::app
