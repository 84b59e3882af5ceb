// truecurve completion: scripts with which a shell asks what can stand next, and the answers.
#include "completion.hpp"

#include <truecurve/base/error.hpp>
#include <truecurve/io/csv.hpp>
#include <truecurve/io/record.hpp>
#include <truecurve/model/shapes.hpp>

#include "command.hpp"
#include "topics.hpp"

#include <algorithm>
#include <filesystem>
#include <fstream>
#include <iterator>
#include <map>
#include <memory>
#include <ostream>
#include <sstream>

namespace truecurve::app {
namespace {

using Words = std::vector<std::string>;

constexpr const char* bash = R"(# truecurve in bash: source <(truecurve completion bash)
_truecurve() {
  local IFS=$'\n' word=${COMP_WORDS[COMP_CWORD]}
  COMPREPLY=($(truecurve completion --words "${COMP_WORDS[@]:1:COMP_CWORD}" 2> /dev/null))
  if ((${#COMPREPLY[@]} == 0)); then
    compopt -o filenames 2> /dev/null
    [[ $word == = ]] && word=
    COMPREPLY=($(compgen -f -- "$word"))
  fi
}
complete -F _truecurve truecurve
)";

constexpr const char* zsh = R"(#compdef truecurve
# truecurve in zsh: truecurve completion zsh > a file _truecurve in a folder of $fpath
_truecurve() {
  local -a found
  found=("${(@f)$(truecurve completion --words "${(@)words[2,CURRENT]}" 2> /dev/null)}")
  found=("${(@)found:#}")
  if (( ${#found} )); then compadd -- "${found[@]}"; else _files; fi
}
if [ "$funcstack[1]" = _truecurve ]; then _truecurve "$@"; else compdef _truecurve truecurve; fi
)";

constexpr const char* fish =
    R"(# truecurve in fish: truecurve completion fish > a file truecurve.fish in a folder of $fish_complete_path
function __truecurve_words
    set -l before (commandline -opc)
    set -l begun (commandline -ct)
    truecurve completion --words $before[2..-1] "$begun" 2> /dev/null
end
complete -c truecurve -n 'test (count (__truecurve_words)) -gt 0' -f -a '(__truecurve_words)'
)";

const std::map<std::string, const char*>& scripts() {
  static const std::map<std::string, const char*> all = {{"bash", bash}, {"fish", fish}, {"zsh", zsh}};
  return all;
}

Words names_of_columns(const std::string& file) {
  // A shell should not wait for a long table.
  constexpr std::uintmax_t largest = 20'000'000;
  std::error_code code;
  if (std::filesystem::file_size(file, code) > largest || code) return {};
  Words names;
  try {
    const Table table = read_csv(std::filesystem::path(file));
    for (const Column& column : table.columns()) names.push_back(column.name);
  } catch (const Error&) {  // no table: nothing to offer
  }
  return names;
}

// What may stand before the = of an option's value: of a record its predictors or its response, of a table its columns.
Words names_before_value(const std::string& file, const std::string& option) {
  Words names;
  if (file.ends_with(".json")) {
    try {
      std::ifstream text(file);
      const Estimate estimate = read_fit_record(std::string(std::istreambuf_iterator<char>(text), {}), file);
      if (option == "--for") names.push_back(estimate.response().name);
      if (option == "--at") {
        for (const Quantity& predictor : estimate.predictors()) names.push_back(predictor.name);
      }
    } catch (const Error&) {  // no record of a fit: nothing to offer
    }
  } else if (option == "--u" || option == "--unit") {
    names = names_of_columns(file);
  }
  for (std::string& name : names) name += "=";
  return names;
}

// The words of "text|json|csv": this command writes in small letters what is meant literally.
Words literals(const std::string& type) {
  Words result;
  std::istringstream parts(type);
  for (std::string part; std::getline(parts, part, '|');) {
    if (!part.empty() && part.find_first_not_of("abcdefghijklmnopqrstuvwxyz-") == std::string::npos)
      result.push_back(part);
  }
  return result;
}

// A command line as far as it is written.
struct Line {
  Words positional{};
  const ArgumentDescription* awaits = nullptr;  // the option whose value comes next
};

Line line_of(const CommandDescription& command, const Words& words, std::size_t first) {
  Line line;
  for (std::size_t i = first; i + 1 < words.size(); ++i) {
    if (line.awaits != nullptr) {
      line.awaits = nullptr;
    } else if (words[i].starts_with("--")) {
      const ArgumentDescription* option = command.find(words[i]);
      if (option != nullptr && !option->takes.empty()) line.awaits = option;
    } else {
      line.positional.push_back(words[i]);
    }
  }
  return line;
}

Words positional_words(const CommandDescription& command, const Line& line) {
  Words places;
  for (const ArgumentDescription& argument : command.arguments) {
    if (argument.is_positional) places.push_back(argument.names[0]);
  }
  if (places.empty()) return {};
  const std::string& name = places[std::min(line.positional.size(), places.size() - 1)];
  Words result;
  if (name == "MODEL" || name == "CANDIDATE") {
    for (const Shape& shape : shapes()) {
      std::string word(shape.name);
      if (word.ends_with("(k)")) word.replace(word.size() - 2, 1, "2");  // a degree, to be written over
      result.push_back(word);
    }
  } else if (name == "SHELL") {
    for (const auto& [shell, script] : scripts()) result.push_back(shell);
  } else if (name == "TOPIC") {
    for (const Topic& topic : topics()) result.push_back(topic.name);
  }
  return result;
}

Words names_of_options(const CommandDescription& command) {
  Words names;
  for (const ArgumentDescription& argument : command.arguments) {
    if (!argument.is_positional) names.push_back(argument.names.back());
  }
  return names;
}

// A shell that breaks words at = hands over three of them for --format=json.
Words joined(const Words& words) {
  Words result;
  for (const std::string& word : words) {
    if (word != "=") result.push_back(word);
  }
  if (!words.empty() && words.back() == "=") result.push_back("");
  return result;
}

int print_script(const std::string& shell, const Streams& streams) {
  const auto at = scripts().find(shell);
  if (at == scripts().end()) {
    throw Error({.code = ErrorCode::bad_argument,
                 .message = "there is no completion for '" + shell + "'",
                 .subject = "SHELL",
                 .value = shell,
                 .remedy = "write bash, zsh or fish"});
  }
  streams.out << at->second;
  return 0;
}

}  // namespace

std::vector<std::string> completions(const std::vector<std::string>& given) {
  const Words words = joined(given);
  if (words.empty()) return {};
  const std::vector<CommandDescription> commands = describe_commands();
  Words names;
  for (const CommandDescription& known : commands) names.push_back(known.name);
  Words found;
  const std::string& begun = words.back();
  std::size_t at = 0;
  while (at + 1 < words.size() && words[at].starts_with("-")) ++at;
  if (at + 1 >= words.size()) {
    found = begun.starts_with("-") ? Words{"--help", "--version", "--no-progress"} : names;
  } else if (const auto command =
                 std::find_if(commands.begin(), commands.end(),
                              [&](const CommandDescription& known) { return known.name == words[at]; });
             command != commands.end()) {
    const Line line = line_of(*command, words, at + 1);
    if (line.awaits != nullptr) {
      const std::string& type = line.awaits->takes;
      const bool has_file = !line.positional.empty();
      found = type == "NAME" && has_file ? names_of_columns(line.positional[0])
              : type.starts_with("NAME=") && has_file
                  ? names_before_value(line.positional[0], line.awaits->names.back())
                  : literals(type);
    } else {
      found = begun.starts_with("-") ? names_of_options(*command) : positional_words(*command, line);
      if (command->name == "help" && !begun.starts_with("-")) found.insert(found.end(), names.begin(), names.end());
    }
  }
  std::erase_if(found, [&begun](const std::string& word) { return !word.starts_with(begun); });
  return found;
}

Command add_completion(CLI::App& parser, const Streams& streams) {
  auto shell = std::make_shared<std::string>();
  Arguments command(parser, "completion", "Print a script that completes commands, options and columns");
  command.add("SHELL", *shell, "bash, zsh or fish").required();
  command.example("truecurve completion bash");
  return [shell, streams] { return print_script(*shell, streams); };
}

}  // namespace truecurve::app
