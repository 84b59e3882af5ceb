// truecurve look: what is in a file, and what two of its columns look like together.
#include <truecurve/assess/straighten.hpp>
#include <truecurve/base/error.hpp>
#include <truecurve/figure/look_figure.hpp>
#include <truecurve/report/look_page.hpp>

#include "columns.hpp"
#include "command.hpp"
#include "progress.hpp"

#include <memory>
#include <ostream>

#include <fmt/format.h>

namespace truecurve::app {
namespace {

struct LookCommand {
  DataOptions data;
  OutputOptions output;
  std::string smoothness;
};

int run_look(const LookCommand& options, const Streams& streams) {
  const Table table = read_table(options.data, streams);
  std::vector<PageSection> pair;
  const bool both = options.data.x.size() == 1 && !options.data.y.empty();
  if (!both && (!options.data.x.empty() || !options.data.y.empty() || !options.output.figures.empty())) {
    throw Error({.code = ErrorCode::bad_argument,
                 .message = "two columns are needed to look at them together",
                 .subject = "--x",
                 .remedy = "write --x COLUMN --y COLUMN"});
  }
  Drawing drawing(streams);
  if (both) {
    const std::string x = table.column(options.data.x[0]).name;
    const std::string y = table.column(options.data.y).name;
    const Observations observations(
        with_elapsed_times(table, {x, y}, streams),
        {.response = y, .predictors = {x}, .left_out = rows_left_out(table, options.data.leave_out)});
    const double smoothness = options.smoothness.empty() ? not_a_number : number_of(options.smoothness, "--smoothness");
    drawing.to(options.output.figures,
               [&](const std::string& file) { draw_look(observations, file, smoothness, options.output.layout); });
    pair = pair_sections(observations);
  }
  const auto page = [&] {
    Page made = look_page(table);
    made.sections.insert(made.sections.end(), pair.begin(), pair.end());
    return made;
  };
  deliver({.page = page, .record = {}}, options.output, streams);
  return drawing.told(0);
}

}  // namespace

Command add_look(CLI::App& parser, const Streams& streams) {
  auto options = std::make_shared<LookCommand>();
  Arguments command(parser, "look",
                    "Show what is in a file: columns with units and ranges, replicates, missing and suspicious values");
  add_file(command, options->data);
  command.add("--x", options->data.x, "Column to look at another against").takes("NAME");
  command.add("--y", options->data.y, "Column to look at").takes("NAME");
  command
      .add("--leave-out", options->data.leave_out,
           "Rows not to look at: numbers \"3,7\" or a condition \"x > 50\"; may be repeated")
      .takes("ROWS|CONDITION");
  add_names(command, options->data);
  add_format(command, options->output, Kept::not_at_all);
  add_figure(command, options->output, "--y against --x, a smooth guide and the axes that straighten it,");
  command
      .add("--smoothness", options->smoothness,
           "Share of the points that each place of the guide uses (default: by cross-validation)")
      .takes("NUMBER");
  command.example("truecurve look demo/viscosity.csv --x T --y eta --figure look.png");
  return [options, streams] { return run_look(*options, streams); };
}

}  // namespace truecurve::app
