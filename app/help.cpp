// truecurve help: commands and topics explained.
#include <truecurve/base/error.hpp>
#include <truecurve/report/renderers.hpp>

#include "command.hpp"
#include "glossary.hpp"
#include "manual.hpp"
#include "progress.hpp"
#include "terminal.hpp"
#include "topics.hpp"

#include <memory>
#include <ostream>

#include <fmt/format.h>
#include <fmt/ranges.h>

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
  std::string words;
  for (const GlossaryEntry& entry : glossary()) words += (words.empty() ? "" : ", ") + std::string(entry.word);
  page.section("Words of the reports").say(words + ".");
  page.section("").say("truecurve help NAME explains one of them.");
  return page;
}

int explain(const std::vector<std::string>& said, const Streams& streams) {
  // "help detection limit" is one name.
  const std::string name = fmt::format("{}", fmt::join(said, " "));
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
  if (const GlossaryEntry* entry = glossary_entry(name)) {
    Page page{.title = std::string(entry->word)};
    page.lead.say(std::string(entry->text));
    show(streams, page);
    return 0;
  }
  for (std::string& word : glossary_words()) names.push_back(std::move(word));
  const std::string nearest = nearest_name(name, names);
  throw Error(
      {.code = ErrorCode::bad_argument,
       .message = fmt::format("nothing is explained under '{}'", name),
       .subject = "TOPIC",
       .value = name,
       .remedy = nearest.empty() ? "truecurve help lists what is" : fmt::format("did you mean '{}'?", nearest)});
}

}  // namespace

Command add_help(CLI::App& parser, const Streams& streams) {
  auto name = std::make_shared<std::vector<std::string>>();
  Arguments command(parser, "help", "Explain a command, a topic or a word of the reports; without a name, list all");
  command.add("TOPIC", *name, "A command, a topic or a word: AICc, LOD, outlier");
  command.example("truecurve help uncertainty");
  return [name, streams] { return explain(*name, streams); };
}

}  // namespace truecurve::app
