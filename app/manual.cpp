// Sets manual pages.
#include "manual.hpp"

#include <truecurve/base/version.hpp>
#include <truecurve/report/renderers.hpp>

#include "command.hpp"
#include "topics.hpp"

#include <algorithm>
#include <sstream>

#include <fmt/format.h>

namespace truecurve::app {
namespace {

// What man(7) would take for a command, and hyphens that are to be typed.
std::string roff(const std::string& text) {
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
  return fmt::format(".TH {} {} \"{}\" \"True Curve {}\" \"True Curve\"\n.SH NAME\n{} \\- {}\n", roff(capitals),
                     section, release_date, version, roff(name), roff(title));
}

std::string example(const std::string& text) { return fmt::format(".EX\n{}.EE\n", roff(text)); }

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
      result += roff(line) + "\n";
      opens = false;
    }
  }
  close();
  return result;
}

std::string names_in(const std::vector<std::string>& names) {
  std::string text;
  for (const std::string& name : names) text += (text.empty() ? "" : ", ") + name;
  return text;
}

std::string words_of(const ArgumentDescription& argument) {
  return argument.help + (argument.if_not_given.empty() ? "" : fmt::format(" (default: {})", argument.if_not_given));
}

std::string shown_in_usage(const ArgumentDescription& argument) {
  return argument.names[0] + (argument.may_be_repeated ? " ..." : "");
}

std::string entries_of(const CommandDescription& command, bool positional) {
  std::string text;
  for (const ArgumentDescription& argument : command.arguments) {
    if (argument.is_positional != positional) continue;
    text += fmt::format(".TP\n\\fB{}\\fR{}\n{}\n", roff(names_in(argument.names)),
                        argument.takes.empty() ? "" : fmt::format(" \\fI{}\\fR", roff(argument.takes)),
                        roff(words_of(argument)));
  }
  return text;
}

std::string command_page(const CommandDescription& command) {
  std::string text = heading("truecurve-" + command.name, 1, command.summary);
  text += fmt::format(".SH SYNOPSIS\n\\fBtruecurve {}\\fR", command.name);
  for (const ArgumentDescription& argument : command.arguments) {
    if (!argument.is_positional) continue;
    const std::string shown = roff(shown_in_usage(argument));
    text += argument.is_required ? fmt::format(" \\fI{}\\fR", shown) : fmt::format(" [\\fI{}\\fR]", shown);
  }
  text += " [\\fIOPTIONS\\fR]\n";
  if (const std::string arguments = entries_of(command, true); !arguments.empty())
    text += ".SH ARGUMENTS\n" + arguments;
  text += ".SH OPTIONS\n" + entries_of(command, false);
  if (!command.example.empty()) text += ".SH EXAMPLE\n" + example("  " + command.example + "\n");
  return text + ".SH SEE ALSO\n\\fBtruecurve\\fR(1)\n";
}

std::string overview_page(const std::vector<CommandDescription>& commands) {
  std::string text = heading("truecurve", 1, "fits curves to laboratory data and reports how certain the results are");
  text += ".SH SYNOPSIS\n\\fBtruecurve\\fR \\fICOMMAND\\fR [\\fIARGUMENTS\\fR] [\\fIOPTIONS\\fR]\n.SH COMMANDS\n";
  for (const CommandDescription& command : commands)
    text += fmt::format(".TP\n\\fB{}\\fR\n{}\n", roff(command.name), roff(command.summary));
  text +=
      ".SH TOPICS\nEach has a page \\fBtruecurve\\-\\fITOPIC\\fR(7), also shown by \\fBtruecurve help\\fR "
      "\\fITOPIC\\fR.\n";
  for (const Topic& topic : topics()) text += fmt::format(".TP\n\\fB{}\\fR\n{}\n", roff(topic.name), roff(topic.title));
  const auto exits =
      std::find_if(topics().begin(), topics().end(), [](const Topic& topic) { return topic.name == "exits"; });
  return text + ".SH EXIT STATUS\n" + body(exits->text);
}

std::string entry(const std::string& head, const std::string& words, std::size_t columns) {
  return "  " + head + "\n" + on_page(words, columns, 6);
}

std::string arguments_text(const CommandDescription& command, std::size_t columns) {
  std::string text;
  for (const bool positional : {true, false}) {
    for (const ArgumentDescription& argument : command.arguments) {
      if (argument.is_positional == positional)
        text += entry(names_in(argument.names) + (argument.takes.empty() ? "" : " " + argument.takes),
                      words_of(argument), columns);
    }
  }
  return text;
}

}  // namespace

std::vector<ManualPage> manual_pages() {
  const std::vector<CommandDescription> commands = describe_commands();
  std::vector<ManualPage> pages = {{"truecurve.1", overview_page(commands)}};
  for (const CommandDescription& command : commands)
    pages.push_back({"truecurve-" + command.name + ".1", command_page(command)});
  for (const Topic& topic : topics())
    pages.push_back({"truecurve-" + topic.name + ".7", heading("truecurve-" + topic.name, 7, topic.title) +
                                                           ".SH DESCRIPTION\n" + body(topic.text) +
                                                           ".SH SEE ALSO\n\\fBtruecurve\\fR(1)\n"});
  return pages;
}

std::string help_text(const CommandDescription& command, std::size_t columns) {
  std::string usage = "truecurve " + command.name;
  for (const ArgumentDescription& argument : command.arguments) {
    if (!argument.is_positional) continue;
    usage += argument.is_required ? " " + shown_in_usage(argument) : " [" + shown_in_usage(argument) + "]";
  }
  return on_page(usage + " [OPTIONS]", columns) + "\n" + on_page(command.summary + ".", columns) + "\n" +
         arguments_text(command, columns) + "\nExample:\n  " + command.example + "\n";
}

std::string overview_text(const CommandDescription& program, std::size_t columns) {
  std::string text = "truecurve COMMAND ...\n\n" + on_page(program.summary, columns) + "\n";
  for (const CommandDescription& command : describe_commands()) text += entry(command.name, command.summary, columns);
  return text + "\n" + arguments_text(program, columns) + "\n" +
         on_page(
             "truecurve COMMAND --help explains a command, with an example; truecurve help lists what else is "
             "explained.",
             columns);
}

}  // namespace truecurve::app
