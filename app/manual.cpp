// Sets manual pages.
#include "manual.hpp"

#include <truecurve/base/version.hpp>
#include <truecurve/report/page_width.hpp>

#include "command.hpp"
#include "topics.hpp"

#include <algorithm>
#include <sstream>

#include <fmt/format.h>

namespace truecurve::app {
namespace {

// What man(7) would take for a command, and hyphens that are to be typed.
std::string plain(const std::string& text) {
  std::string result;
  bool at_start = true;
  for (const char c : text) {
    if (at_start && (c == '.' || c == '\'')) result += "\\&";
    if (c == '\\') {
      result += "\\e";
    } else if (c == '-') {
      result += "\\-";
    } else {
      result += c;
    }
    at_start = c == '\n';
  }
  return result;
}

std::string heading(const std::string& name, int section, const std::string& title) {
  std::string capitals = name;
  std::transform(capitals.begin(), capitals.end(), capitals.begin(),
                 [](unsigned char c) { return static_cast<char>(std::toupper(c)); });
  return fmt::format(".TH {} {} \"{}\" \"True Curve {}\" \"True Curve\"\n.SH NAME\n{} \\- {}\n", plain(capitals),
                     section, release_date, version, plain(name), plain(title));
}

std::string example(const std::string& text) { return fmt::format(".EX\n{}.EE\n", plain(text)); }

// Paragraphs as they are, indented lines as examples.
std::string body(const std::string& text) {
  std::istringstream lines(text);
  std::string result;
  std::string shown;
  bool opens = true;
  const auto close = [&] {
    while (shown.ends_with("\n\n")) shown.pop_back();
    if (!shown.empty()) result += (result.empty() ? "" : ".PP\n") + example(shown);
    shown.clear();
  };
  for (std::string line; std::getline(lines, line);) {
    if (line.starts_with("    ")) {
      shown += line + "\n";
      opens = true;
    } else if (line.empty()) {
      if (!shown.empty()) shown += "\n";
      opens = true;
    } else {
      close();
      if (opens && !result.empty()) result += ".PP\n";
      result += plain(line) + "\n";
      opens = false;
    }
  }
  close();
  return result;
}

std::string options_of(const CLI::App& command, bool positional) {
  std::string text;
  for (const CLI::Option* option : command.get_options()) {
    if (option->get_positional() != positional) continue;
    const std::string name = positional ? option->get_name(true) : option->get_name(false, true);
    std::string head = fmt::format("\\fB{}\\fR", plain(name));
    const bool takes_value = !positional && option->get_expected_max() > 0;
    if (takes_value) head += fmt::format(" \\fI{}\\fR", plain(value_of(*option)));
    text += ".TP\n" + head + "\n" + plain(option->get_description());
    if (takes_value && !option->get_default_str().empty())
      text += fmt::format(" (if not given: {})", plain(option->get_default_str()));
    text += "\n";
  }
  return text;
}

std::string command_page(const CLI::App& command) {
  const std::string name = "truecurve-" + command.get_name();
  std::string text = heading(name, 1, command.get_description());
  text += fmt::format(".SH SYNOPSIS\n\\fBtruecurve {}\\fR", command.get_name());
  for (const CLI::Option* option : command.get_options()) {
    if (!option->get_positional()) continue;
    const std::string shown = plain(option->get_name(true)) + (option->get_expected_max() > 1 ? " ..." : "");
    text += option->get_required() ? fmt::format(" \\fI{}\\fR", shown) : fmt::format(" [\\fI{}\\fR]", shown);
  }
  text += " [\\fIOPTIONS\\fR]\n";
  if (const std::string arguments = options_of(command, true); !arguments.empty())
    text += ".SH ARGUMENTS\n" + arguments;
  text += ".SH OPTIONS\n" + options_of(command, false);
  const std::string footer = command.get_footer();
  if (const auto at = footer.find('\n'); at != std::string::npos)
    text += ".SH EXAMPLE\n" + example(footer.substr(at + 1) + "\n");
  return text + ".SH SEE ALSO\n\\fBtruecurve\\fR(1)\n";
}

std::string overview_page(const std::vector<CLI::App*>& commands) {
  std::string text = heading("truecurve", 1, "fits curves to laboratory data and says how sure the numbers are");
  text += ".SH SYNOPSIS\n\\fBtruecurve\\fR \\fICOMMAND\\fR [\\fIARGUMENTS\\fR] [\\fIOPTIONS\\fR]\n.SH COMMANDS\n";
  for (const CLI::App* command : commands)
    text += fmt::format(".TP\n\\fB{}\\fR\n{}\n", plain(command->get_name()), plain(command->get_description()));
  text +=
      ".SH TOPICS\nEach has a page \\fBtruecurve\\-\\fITOPIC\\fR(7), also shown by \\fBtruecurve help\\fR "
      "\\fITOPIC\\fR.\n";
  for (const Topic& topic : topics())
    text += fmt::format(".TP\n\\fB{}\\fR\n{}\n", plain(topic.name), plain(topic.title));
  const auto exits =
      std::find_if(topics().begin(), topics().end(), [](const Topic& topic) { return topic.name == "exits"; });
  return text + ".SH EXIT STATUS\n" + body(exits->text);
}

}  // namespace

std::vector<ManualPage> manual_pages() {
  std::istringstream no_input;
  std::ostringstream nowhere;
  CLI::App parser;
  (void)add_commands(parser, {no_input, nowhere, nowhere});
  const auto commands = parser.get_subcommands([](CLI::App*) { return true; });
  std::vector<ManualPage> pages = {{"truecurve.1", overview_page(commands)}};
  for (const CLI::App* command : commands)
    pages.push_back({"truecurve-" + command->get_name() + ".1", command_page(*command)});
  for (const Topic& topic : topics())
    pages.push_back({"truecurve-" + topic.name + ".7", heading("truecurve-" + topic.name, 7, topic.title) +
                                                           ".SH DESCRIPTION\n" + body(topic.text) +
                                                           ".SH SEE ALSO\n\\fBtruecurve\\fR(1)\n"});
  return pages;
}

std::string value_of(const CLI::Option& option) {
  const std::string type = option.get_type_name();
  for (const std::string_view number : {"FLOAT", "INT", "UINT"}) {
    if (type.starts_with(number)) return "NUMBER";
  }
  // A check follows a colon: its choices in braces, or its name in capitals.
  for (auto at = type.find(':'); at != std::string::npos; at = type.find(':', at + 1)) {
    const char next = at + 1 < type.size() ? type[at + 1] : ' ';
    if (next == '{' || (next >= 'A' && next <= 'Z')) return type.substr(0, at);
  }
  return type;
}

std::string help_text(const CLI::App& command) {
  const auto subcommands = command.get_subcommands([](const CLI::App*) { return true; });
  const bool is_whole = !subcommands.empty();
  std::string usage = is_whole ? "truecurve COMMAND ..." : "truecurve " + command.get_name();
  std::string entries;
  const auto entry = [&entries](const std::string& head, const std::string& words) {
    entries += "  " + head + "\n" + on_page(words, 6);
  };
  for (const CLI::App* subcommand : subcommands) entry(subcommand->get_name(), subcommand->get_description());
  if (is_whole) entries += "\n";
  for (const CLI::Option* option : command.get_options()) {
    if (!option->get_positional()) continue;
    const std::string name = option->get_name(true);
    const std::string shown = name + (option->get_expected_max() > 1 ? " ..." : "");
    usage += option->get_required() ? " " + shown : " [" + shown + "]";
    entry(name, option->get_description());
  }
  for (const CLI::Option* option : command.get_options()) {
    if (option->get_positional()) continue;
    const bool takes_value = option->get_expected_max() > 0;
    std::string words = option->get_description();
    if (takes_value && !option->get_default_str().empty())
      words += fmt::format(" (if not given: {})", option->get_default_str());
    std::string name = option->get_name(false, true);
    if (const auto comma = name.find(','); comma != std::string::npos) name.insert(comma + 1, " ");
    entry(name + (takes_value ? " " + value_of(*option) : ""), words);
  }
  const std::string description = command.get_description();
  return on_page(usage + (is_whole ? "" : " [OPTIONS]")) + "\n" +
         on_page(description + (description.ends_with('.') ? "" : ".")) + "\n" + entries + "\n" +
         on_page(command.get_footer());
}

}  // namespace truecurve::app
