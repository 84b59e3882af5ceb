// truecurve help: commands and topics explained.
#include <truecurve/base/error.hpp>
#include <truecurve/report/renderers.hpp>

#include "command.hpp"
#include "manual.hpp"
#include "progress.hpp"
#include "terminal.hpp"
#include "topics.hpp"

#include <memory>
#include <ostream>

#include <fmt/format.h>

namespace truecurve::app {
namespace {

Page overview() {
  Page page;
  PageTable commands({{""}, {"", Align::sentence}}, PageTable::narrow);
  for (const CommandDescription& command : describe_commands()) commands.add({command.name, command.summary});
  page.section("Commands").show(std::move(commands));
  PageTable explained({{""}, {"", Align::sentence}}, PageTable::narrow);
  for (const Topic& topic : topics()) explained.add({topic.name, topic.title});
  page.section("Topics").show(std::move(explained));
  page.section("").say("truecurve help NAME explains one of them.");
  return page;
}

int explain(const std::string& name, Streams streams) {
  if (name.empty()) {
    show(streams, overview());
    return 0;
  }
  std::vector<std::string> names;
  for (const Topic& topic : topics()) {
    if (topic.name == name) {
      show(streams, Page{.title = fmt::format("{}: {}", topic.name, topic.title)});
      streams.out << on_page(topic.text, streams.terminal.columns);
      return 0;
    }
    names.push_back(topic.name);
  }
  for (const CommandDescription& command : describe_commands()) {
    if (command.name == name) {
      streams.out << help_text(command, streams.terminal.columns);
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
