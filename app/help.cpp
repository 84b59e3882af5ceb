// truecurve help: commands and topics explained.
#include <truecurve/base/error.hpp>
#include <truecurve/report/page_width.hpp>

#include "command.hpp"
#include "manual.hpp"
#include "topics.hpp"

#include <algorithm>
#include <memory>
#include <ostream>

#include <fmt/format.h>

namespace truecurve::app {
namespace {

std::string overview(const CLI::App& parser) {
  std::string text = "Commands\n";
  for (const CLI::App* command : parser.get_subcommands([](const CLI::App*) { return true; }))
    text += fmt::format("  {:<12} {}\n", command->get_name(), command->get_description());
  text += "\nTopics\n";
  for (const Topic& topic : topics()) text += fmt::format("  {:<12} {}\n", topic.name, topic.title);
  return text + "\ntruecurve help NAME explains one of them.\n";
}

int explain(const std::string& name, const CLI::App& parser, Streams streams) {
  if (name.empty()) {
    show(streams, overview(parser));
    return 0;
  }
  const auto topic =
      std::find_if(topics().begin(), topics().end(), [&name](const Topic& entry) { return entry.name == name; });
  if (topic != topics().end()) {
    show(streams, fmt::format("{}: {}\n{}", topic->name, topic->title, on_page(topic->text)));
    return 0;
  }
  std::vector<std::string> names;
  for (const Topic& entry : topics()) names.push_back(entry.name);
  for (const CLI::App* command : parser.get_subcommands([](const CLI::App*) { return true; })) {
    if (command->get_name() == name) {
      streams.out << help_text(*command);
      return 0;
    }
    names.push_back(command->get_name());
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
  CLI::App* command = parser.add_subcommand("help", "Explain a command or a topic; alone: list them");
  command->add_option("TOPIC", *name, "A command or a topic");
  command->footer("Example:\n  truecurve help uncertainty");
  return [name, streams, &parser] { return explain(*name, parser, streams); };
}

}  // namespace truecurve::app
