// truecurve help: commands and topics explained.
#include <truecurve/base/error.hpp>
#include <truecurve/report/page_width.hpp>

#include "command.hpp"
#include "manual.hpp"
#include "topics.hpp"

#include <memory>
#include <ostream>

#include <fmt/format.h>

namespace truecurve::app {
namespace {

std::string overview() {
  std::string text = "Commands\n";
  for (const CommandDescription& command : describe_commands())
    text += fmt::format("  {:<12} {}\n", command.name, command.summary);
  text += "\nTopics\n";
  for (const Topic& topic : topics()) text += fmt::format("  {:<12} {}\n", topic.name, topic.title);
  return text + "\ntruecurve help NAME explains one of them.\n";
}

int explain(const std::string& name, Streams streams) {
  if (name.empty()) {
    show(streams, overview());
    return 0;
  }
  std::vector<std::string> names;
  for (const Topic& topic : topics()) {
    if (topic.name == name) {
      show(streams, fmt::format("{}: {}\n{}", topic.name, topic.title, on_page(topic.text)));
      return 0;
    }
    names.push_back(topic.name);
  }
  for (const CommandDescription& command : describe_commands()) {
    if (command.name == name) {
      streams.out << help_text(command);
      return 0;
    }
    names.push_back(command.name);
  }
  const std::string nearest = nearest_name(name, names);
  throw Error(
      {.code = ErrorCode::bad_argument,
       .message = fmt::format("nothing is explained under '{}'", name),
       .subject = "TOPIC",
       .value = name,
       .remedy = nearest.empty() ? "truecurve help lists what is" : fmt::format("did you mean '{}'?", nearest)});
}

}  // namespace

Command add_help(CLI::App& parser, Streams streams) {
  auto name = std::make_shared<std::string>();
  Arguments command(parser, "help", "Explain a command or a topic; alone: list them");
  command.add("TOPIC", *name, "A command or a topic");
  command.example("truecurve help uncertainty");
  return [name, streams] { return explain(*name, streams); };
}

}  // namespace truecurve::app
