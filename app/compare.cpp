// truecurve compare: candidates side by side, and which one to take.
#include <truecurve/base/error.hpp>
#include <truecurve/compare/compare.hpp>
#include <truecurve/figure/comparison_figure.hpp>
#include <truecurve/io/comparison_record.hpp>
#include <truecurve/report/comparison_page.hpp>

#include "candidate_text.hpp"
#include "censored.hpp"
#include "progress.hpp"

#include <algorithm>
#include <memory>
#include <ostream>
#include <set>

#include <fmt/format.h>

namespace truecurve::app {
namespace {

// Of the catalogue's polynomials these are tried; higher degrees without a reason only follow the scatter.
constexpr std::pair<int, int> tried_degrees{2, 4};

struct CompareCommand {
  DataOptions data;
  OutputOptions output;
  ModelOptions common;
  std::vector<std::string> candidates;
  bool all_shapes = false;
  std::string hold_out;
  double level = 0.95;
  int folds = 0;
  std::uint64_t seed = 1;
  FigureFiles residual_figures;
  FigureFiles criterion_figures;
  CensoredCommand censored;
};

std::vector<CandidateText> wanted_candidates(const CompareCommand& options) {
  std::vector<CandidateText> wanted;
  for (const std::string& text : options.candidates) {
    for (CandidateText& candidate : candidates_of(text, options.common)) wanted.push_back(std::move(candidate));
  }
  if (options.all_shapes) {
    for (const Shape& shape : shapes()) {
      if (shape.name == "product-of-powers") continue;  // of one predictor it is the power
      const std::string text = shape.name == "polynomial(k)"
                                   ? fmt::format("polynomial({}..{})", tried_degrees.first, tried_degrees.second)
                                   : std::string(shape.name);
      for (CandidateText& candidate : candidates_of(text, options.common)) wanted.push_back(std::move(candidate));
    }
  }
  if (wanted.size() < (options.censored.distribution == "all" ? 1U : 2U)) {
    throw Error({.code = ErrorCode::bad_argument,
                 .message = wanted.empty() ? "there is no candidate to compare" : "one candidate can't be compared",
                 .subject = "CANDIDATE",
                 .remedy = "give two or more, a ladder such as polynomial(1..5), or --all-shapes"});
  }
  std::set<std::string> names;
  for (CandidateText& candidate : wanted) {
    const std::string name = candidate.name;
    for (int again = 2; !names.insert(candidate.name).second; ++again)
      candidate.name = fmt::format("{} ({})", name, again);
  }
  return wanted;
}

CandidateModel candidate_model(const CandidateText& candidate, const CompareCommand& options, Table& table,
                               const Streams& streams) {
  DataOptions data = options.data;
  if (candidate.ignores_uncertainties) data.uncertainties.clear();
  Task task = task_of(data, candidate.model, table, streams);
  if (candidate.ignores_uncertainties)
    task.observations = task.observations.with_response(task.observations.responses(), {});
  return {candidate.name, std::move(task.model), std::move(task.observations), std::move(task.options)};
}

// Of responses with limits: what least squares alone has is refused.
int run_censored_comparison(const CompareCommand& options, const std::vector<CandidateText>& wanted,
                            const Streams& streams) {
  if (options.censored.distribution.empty()) {
    throw Error({.code = ErrorCode::bad_argument,
                 .message = "--censored needs to know how the responses scatter",
                 .subject = "--censored",
                 .remedy = "add --distribution normal, lognormal, weibull or all"});
  }
  const std::string remedy = "omit it: with --distribution limits are compared by their likelihood";
  const bool counted = options.data.counts || !options.data.trials.empty() || !options.data.event.empty();
  refuse_beside("--distribution",
                {{!options.hold_out.empty(), "--hold-out"},
                 {options.folds > 0, "--folds"},
                 {options.all_shapes, "--all-shapes"},
                 {!options.data.uncertainties.empty(), "--u"},
                 {counted, "--counts, --trials or --event"},
                 {!options.residual_figures.empty(), "--figure-residuals"},
                 {!options.criterion_figures.empty(), "--figure-criterion"}},
                remedy);
  // Of all candidates, or after a semicolon of one.
  for (const CandidateText& candidate : wanted)
    refuse_beside("--distribution",
                  {{!candidate.model.spread.empty(), "a spread"},
                   {!candidate.model.within.empty(), "a parameter kept within limits"},
                   {candidate.model.uncertainty != UncertaintyBasis::automatic, "--uncertainty"}},
                  remedy);
  std::vector<CensoredWish> wishes;
  wishes.reserve(wanted.size());
  for (const CandidateText& candidate : wanted) wishes.push_back({candidate.name, candidate.model});
  return compare_censored(wishes, options.censored, options.data, options.output, streams);
}

int run_compare(const CompareCommand& options, const Streams& streams) {
  const std::vector<CandidateText> wanted = wanted_candidates(options);
  if (is_asked_for(options.censored)) return run_censored_comparison(options, wanted, streams);
  Table table = read_table(options.data, streams);
  std::vector<CandidateModel> candidates;
  candidates.reserve(wanted.size());
  for (const CandidateText& candidate : wanted)
    candidates.push_back(candidate_model(candidate, options, table, streams));
  HoldOut hold_out;
  if (!options.hold_out.empty()) {
    hold_out.reason = options.hold_out;
    for (const LeftOut& row : rows_left_out(table, {options.hold_out})) hold_out.rows.push_back(row.row);
  }
  say(streams, fmt::format("fitting {} candidates", candidates.size()));
  const Comparison comparison =
      compare_candidates(candidates, {.level = options.level, .folds = options.folds, .seed = options.seed}, hold_out,
                         options.all_shapes ? UnsuitableRows::candidate_dropped : UnsuitableRows::left_out_for_all);
  (void)comparison.candidates.front().fit.estimate().coverage_factor(options.level);
  Drawing drawing(streams);
  drawing.to(options.output.figures,
             [&](const std::string& file) { draw_comparison(comparison, file, options.output.layout); });
  drawing.to(options.residual_figures, [&](const std::string& file) { draw_comparison_residuals(comparison, file); });
  drawing.to(options.criterion_figures, [&](const std::string& file) { draw_criterion(comparison, file); });
  deliver({.page = [&] { return comparison_page(comparison); },
           .record = [&] { return comparison_record(comparison, options.level); }},
          options.output, streams);
  const bool any_converged = std::any_of(comparison.candidates.begin(), comparison.candidates.end(),
                                         [](const Candidate& c) { return !c.has(RemarkCode::not_converged); });
  if (any_converged) return drawing.told(0);
  remark(streams, "no candidate's search converged; do not use the numbers");
  return drawing.told(4);
}

}  // namespace

Command add_compare(CLI::App& parser, const Streams& streams) {
  auto options = std::make_shared<CompareCommand>();
  Arguments command(parser, "compare", "Candidates side by side, and a suggestion with its reason");
  add_file(command, options->data);
  command.add(
      "CANDIDATE", options->candidates,
      "A shape or an equation, a ladder polynomial(1..5), and after semicolons options for that candidate alone: "
      "\"exponential; linearized\", \"line; spread proportional\", \"y = a*x^b; start b=2; fix a=1\", "
      "\"line; u none; name plain\"");
  command.add_flag("--all-shapes", options->all_shapes,
                   "Try every shape of the catalogue that can be fitted to these data");
  add_choice(command, options->data);
  add_counting(command, options->data);
  add_names(command, options->data);
  add_scatter(command, options->common);
  add_censored_comparison(command, options->censored);
  command
      .add("--hold-out", options->hold_out,
           "Rows not to be fitted but predicted: a condition \"t > 100\" or numbers \"17,18\"")
      .takes("CONDITION|ROWS");
  command.add("--folds", options->folds, "k-fold cross-validation with this number of groups, too").within(2, 1000000);
  command.add("--seed", options->seed, "Seed of the random grouping for --folds");
  command.add_share("--level", options->level, "Level of the intervals in the record, between 0 and 1");
  add_output(command, options->output, "comparison");
  add_figure(command, options->output, "the curves over the data");
  add_drawing(command, "--figure-residuals", options->residual_figures, "the residuals of each candidate on one scale");
  add_drawing(command, "--figure-criterion", options->criterion_figures,
              "the difference of each candidate's AICc from the lowest");
  command.example("truecurve compare demo/density.csv \"polynomial(1..5)\" --x w_Sn --y rho");
  return [options, streams] { return run_compare(*options, streams); };
}

}  // namespace truecurve::app
