// The parser of arguments behind its face.
#include "arguments.hpp"

#include <truecurve/base/error.hpp>
#include <truecurve/base/numeric.hpp>
#include <truecurve/io/files.hpp>

#include "command.hpp"

#include <charconv>
#include <cmath>
#include <sstream>

#include <CLI/CLI.hpp>
#include <fmt/format.h>

namespace truecurve::app {
namespace {

// The parser's groups of options, which the help does not show, say what their files are for.
const char* const read_file = "reads";
const char* const written_file = "writes";

// A check follows a colon: its choices in braces, or its name in capitals.
std::string without_checks(const std::string& type) {
  for (const std::string_view number : {"FLOAT", "INT", "UINT"}) {
    if (type.starts_with(number)) return "NUMBER";
  }
  for (auto at = type.find(':'); at != std::string::npos; at = type.find(':', at + 1)) {
    const char next = at + 1 < type.size() ? type[at + 1] : ' ';
    if (next == '{' || (next >= 'A' && next <= 'Z')) return type.substr(0, at);
  }
  return type;
}

}  // namespace

Argument& Argument::required() {
  option_->required();
  return *this;
}

Argument& Argument::takes(const std::string& form) {
  option_->type_name(form);
  return *this;
}

Argument& Argument::one_of(const std::vector<std::string>& words) {
  std::string form;
  for (const std::string& word : words) form += (form.empty() ? "" : "|") + word;
  option_->check(CLI::IsMember(words))->type_name(form);
  return *this;
}

Argument& Argument::reads() {
  option_->group(read_file);
  return *this;
}

Argument& Argument::writes() {
  option_->group(written_file);
  return takes("FILE");
}

Argument& Argument::within(double low, double high) {
  option_->check([low, high](const std::string& text) {
    double value = not_a_number;
    std::from_chars(text.data(), text.data() + text.size(), value);
    return value >= low && value <= high
               ? ""
               : fmt::format("{} is not between {} and {}", text, shortest(low), shortest(high));
  });
  return *this;
}

Argument& Argument::excludes(const Argument& other) {
  option_->excludes(other.option_);
  return *this;
}

Argument& Argument::needs(const Argument& other) {
  option_->needs(other.option_);
  return *this;
}

Arguments::Arguments(CLI::App& parser, const char* name, const char* summary)
    : command_(parser.add_subcommand(name, summary)) {}

Argument Arguments::add(const char* name, std::string& value, const std::string& help) {
  return Argument(command_->add_option(name, value, help)->capture_default_str());
}

Argument Arguments::add(const char* name, std::vector<std::string>& values, const std::string& help) {
  CLI::Option* option = command_->add_option(name, values, help);
  // An option takes one value each time it is given; what stands without a name is one list.
  if (name[0] == '-') option->take_all()->allow_extra_args(false);
  return Argument(option);
}

// Numbers are read and shown with a point, whatever the locale of the program is.
Argument Arguments::add(const char* name, double& value, const std::string& help) {
  const std::string option = name;
  CLI::Option* const made = command_->add_option_function<std::string>(
      name, [&value, option](const std::string& text) { value = number_of(text, option.c_str()); }, help);
  made->type_name("NUMBER");
  if (std::isfinite(value)) made->default_str(shortest(value));
  return Argument(made);
}

Argument Arguments::add_share(const char* name, double& value, const std::string& help) {
  const std::string option = name;
  CLI::Option* const made = command_->add_option_function<std::string>(
      name,
      [&value, option](const std::string& text) {
        const bool percent = text.ends_with('%');
        value = number_of(percent ? text.substr(0, text.size() - 1) : text, option.c_str()) / (percent ? 100 : 1);
        if (value > 0 && value < 1) return;
        throw Error({.code = ErrorCode::bad_argument,
                     .message = fmt::format("{} {} is not between 0 and 1", option, text),
                     .subject = option,
                     .value = text,
                     .remedy = value > 1 && value < 100
                                   ? fmt::format("write {}, or {}%", shortest(value / 100), shortest(value))
                                   : "write a share such as 0.95, or 95%"});
      },
      help);
  made->type_name("NUMBER|PERCENT%");
  if (std::isfinite(value)) made->default_str(shortest(value));
  return Argument(made);
}

Argument Arguments::add(const char* name, int& value, const std::string& help) {
  return Argument(command_->add_option(name, value, help)->default_str(fmt::format("{}", value)));
}

Argument Arguments::add(const char* name, std::size_t& value, const std::string& help) {
  return Argument(command_->add_option(name, value, help)->default_str(fmt::format("{}", value)));
}

Argument Arguments::add(const char* name, const std::function<void(const std::string&)>& take,
                        const std::string& help) {
  return Argument(command_->add_option_function<std::string>(name, take, help));
}

Argument Arguments::add_flag(const char* name, bool& value, const std::string& help) {
  return Argument(command_->add_flag(name, value, help));
}

void Arguments::example(const std::string& line) { command_->footer("Example:\n  " + line); }

void require_files_apart(const CLI::App& command) {
  struct Named {
    std::string argument;
    std::string file;
  };
  std::vector<Named> read;
  std::vector<Named> written;
  for (const CLI::Option* option : command.get_options()) {
    for (const std::string& file : option->results()) {
      if (option->get_group() == read_file && file != "-") read.push_back({option->get_name(), file});
      if (option->get_group() == written_file && file != "-") written.push_back({option->get_name(), file});
    }
  }
  for (std::size_t i = 0; i < written.size(); ++i) {
    const auto& [argument, file] = written[i];
    if (file.empty())
      throw Error({.code = ErrorCode::bad_argument,
                   .message = fmt::format("{} is given an empty name", argument),
                   .subject = argument,
                   .remedy = "name the file to write"});
    require_writable(file);
    for (const Named& other : read) {
      if (is_same_file(file, other.file))
        throw Error({.code = ErrorCode::bad_argument,
                     .message = fmt::format("{} would overwrite '{}', which is read", argument, other.file),
                     .subject = argument,
                     .value = file,
                     .remedy = "choose another name; nothing was written"});
    }
    for (std::size_t k = 0; k < i; ++k) {
      if (is_same_file(file, written[k].file))
        throw Error({.code = ErrorCode::bad_argument,
                     .message = argument == written[k].argument
                                    ? fmt::format("{} names '{}' twice", argument, file)
                                    : fmt::format("{} and {} both name '{}'", written[k].argument, argument, file),
                     .subject = argument,
                     .value = file,
                     .remedy = "give each a name of its own; nothing was written"});
    }
  }
}

const ArgumentDescription* CommandDescription::find(const std::string& wanted) const {
  for (const ArgumentDescription& argument : arguments) {
    for (const std::string& known : argument.names) {
      if (known == wanted) return &argument;
    }
  }
  return nullptr;
}

CommandDescription describe(const CLI::App& command) {
  CommandDescription description{.name = command.get_name(), .summary = command.get_description()};
  const std::string footer = command.get_footer();
  if (const auto at = footer.find("\n  "); at != std::string::npos) description.example = footer.substr(at + 3);
  for (const CLI::Option* option : command.get_options()) {
    ArgumentDescription argument{.help = option->get_description(),
                                 .is_positional = option->get_positional(),
                                 .is_required = option->get_required(),
                                 .may_be_repeated = option->get_expected_max() > 1,
                                 .is_file_read = option->get_group() == read_file};
    if (argument.is_positional) {
      argument.names = {option->get_name(true)};
    } else {
      for (const std::string& name : option->get_snames()) argument.names.push_back("-" + name);
      for (const std::string& name : option->get_lnames()) argument.names.push_back("--" + name);
      if (option->get_expected_max() > 0) argument.takes = without_checks(option->get_type_name());
    }
    // A count of none is none.
    argument.if_not_given = option->get_default_str() == "0" ? "" : option->get_default_str();
    description.arguments.push_back(argument);
  }
  return description;
}

std::vector<CommandDescription> describe_commands() {
  std::istringstream no_input;
  std::ostringstream nowhere;
  CLI::App parser;
  (void)add_commands(parser, {no_input, nowhere, nowhere});
  std::vector<CommandDescription> commands;
  for (const CLI::App* command : parser.get_subcommands([](const CLI::App*) { return true; }))
    commands.push_back(describe(*command));
  return commands;
}

}  // namespace truecurve::app
