// truecurve solve: the x at which the curve of a record reaches a response.
#include <truecurve/assess/solve.hpp>
#include <truecurve/base/error.hpp>
#include <truecurve/io/record.hpp>
#include <truecurve/report/estimate_page.hpp>

#include "command.hpp"
#include "progress.hpp"

#include <memory>
#include <ostream>
#include <tuple>

#include <fmt/format.h>

namespace truecurve::app {
namespace {

struct SolveCommand {
  std::string record;
  std::string response;
  std::string between;
  std::string reading_uncertainty;
  double level = 0.95;
  OutputOptions output;
};

int run_solve(const SolveCommand& options, const Streams& streams) {
  const std::string record = read_text(options.record, streams);
  const Estimate estimate = read_fit_record(record, options.record);
  const auto [name, value] = assignment(options.response, "--for");
  if (name != estimate.response().name) {
    throw Error({.code = ErrorCode::unknown_name,
                 .message = fmt::format("--for: '{}' is not the response of '{}'", name, estimate.model().text()),
                 .subject = name,
                 .remedy = fmt::format("write --for {}=VALUE", estimate.response().name)});
  }
  SolveOptions solve_options{.level = options.level};
  if (!options.reading_uncertainty.empty())
    solve_options.response_uncertainty = number_of(options.reading_uncertainty, "--reading-uncertainty");
  if (!options.between.empty()) {
    std::tie(solve_options.low, solve_options.high) = range_of(options.between, "--between");
  }
  const double response = number_of(value, "--for");
  std::vector<Root> roots = solve(estimate, response, solve_options);
  // Of a counted response the interval is that of the profile likelihood, where the record has the rows.
  if (const auto counted = read_counted_fit(record, options.record); counted && options.reading_uncertainty.empty()) {
    say(streams, "computing the profiles of the places");
    for (Root& root : roots) {
      const Interval made = root.is_nearest ? Interval{} : profile_place(*counted, response, root.value, options.level);
      if (std::isnan(made.low) || std::isnan(made.high)) continue;
      root.interval = made;
      root.is_by_profile = true;
    }
  }
  deliver({.page = [&] { return solution_page(estimate, response, roots, solve_options); },
           .record = [&] { return solution_record(estimate, response, roots, solve_options); }},
          options.output, streams);
  if (!roots.empty()) return 0;
  remark(streams, options.between.empty()
                      ? "no place was found in the range of the data: look elsewhere with --between LOW..HIGH"
                      : fmt::format("no place was found in --between {}", options.between));
  return 4;
}

}  // namespace

Command add_solve(CLI::App& parser, const Streams& streams) {
  auto options = std::make_shared<SolveCommand>();
  Arguments command(parser, "solve", "Find where a fitted curve reaches a response, with its interval");
  command.add("RECORD", options->record, "Record written by truecurve fit ... --output; - reads standard input")
      .reads()
      .required();
  command.add("--for", options->response, "The response to be reached").required().takes("NAME=VALUE");
  command.add("--between", options->between, "Range to look in (default: the range of the data)").takes("LOW..HIGH");
  command
      .add("--reading-uncertainty", options->reading_uncertainty,
           "Standard uncertainty of the response (default: it is exact)")
      .takes("NUMBER");
  command.add_share("--level", options->level, "Level of the intervals, between 0 and 1");
  add_output(command, options->output, "result");
  command.example("truecurve solve demo/density.json --for rho=8.8");
  return [options, streams] { return run_solve(*options, streams); };
}

}  // namespace truecurve::app
