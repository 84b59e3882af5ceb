// truecurve look: what is in a file.
#include "command.hpp"

#include <truecurve/report/text.hpp>

#include <memory>
#include <ostream>

namespace truecurve::app {

Command add_look(CLI::App& parser, Streams streams) {
  struct Options {
    DataOptions data;
    bool csv = false;
  };
  auto options = std::make_shared<Options>();
  CLI::App* command = parser.add_subcommand("look", "Show what is in a file: columns, units, rows, summary, missing and suspicious values");
  add_file(*command, options->data);
  add_aliases(*command, options->data);
  command->add_option_function<std::string>("--format", [options](const std::string& text) { options->csv = text == "csv"; }, "What standard output gets: text (default) or csv")
      ->check(CLI::IsMember({"text", "csv"}))->type_name("text|csv");
  command->footer("Example:\n  truecurve look demo/thermometers.csv");
  return [options, streams] {
    const Table table = read_table(options->data, streams);
    streams.out << (options->csv ? look_csv(table) : look_text(table));
    return 0;
  };
}

}  // namespace truecurve::app
