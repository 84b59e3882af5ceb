// truecurve fit: one model, all its numbers.
#include <truecurve/assess/trust.hpp>
#include <truecurve/base/error.hpp>
#include <truecurve/figure/checks_figure.hpp>
#include <truecurve/figure/fit_figure.hpp>
#include <truecurve/figure/profile_figure.hpp>
#include <truecurve/fit/fit.hpp>
#include <truecurve/fit/preview.hpp>
#include <truecurve/io/penalised_record.hpp>
#include <truecurve/io/record.hpp>
#include <truecurve/report/estimate_page.hpp>
#include <truecurve/report/fit_page.hpp>
#include <truecurve/report/penalised_page.hpp>

#include "censored.hpp"
#include "equation_options.hpp"
#include "model_options.hpp"
#include "progress.hpp"

#include <memory>
#include <numeric>
#include <optional>
#include <ostream>

#include <fmt/format.h>

namespace truecurve::app {
namespace {

struct FitCommand {
  DataOptions data;
  OutputOptions output;
  ModelOptions model;
  double level = 0.95;
  std::vector<std::string> derive;
  std::vector<std::string> hypotheses;
  FigureFiles check_figures;
  FigureFiles profile_figures;
  FigureFiles region_figures;
  bool show_start = false;
  bool figure_equation = false;
  Intervals intervals = Intervals::automatic;
  std::string about;
  CensoredCommand censored;
  bool penalised = false;
  bool rows = false;
  EquationOptions equation;
};

// What there is none of where the scatter is estimated with the curve.
void refuse_beside_distribution(const FitCommand& options) {
  refuse_beside("--distribution",
                {{options.penalised, "--penalised"},
                 {!options.check_figures.empty(), "--figure-checks"},
                 {!options.profile_figures.empty(), "--figure-profiles"},
                 {!options.region_figures.empty(), "--figure-regions"},
                 {options.show_start, "--show-start"},
                 {!options.about.empty(), "--about"},
                 {options.intervals == Intervals::symmetric, "--interval symmetric"}},
                "omit it: intervals are those of the profile, and --figure-probability draws the probability plot");
  refuse_beside(
      "--distribution",
      {{options.rows, "--rows"},
       {options.figure_equation, "--show-equation"},
       {options.equation.is_wanted(), "--equation"}},
      "omit it; the equation of the curve is printed from the record: truecurve predict RECORD --equation text");
}

int run_penalised(const Task& task, const FitCommand& options, const Streams& streams) {
  if (!options.output.figures.empty() || !options.check_figures.empty() || !options.profile_figures.empty() ||
      !options.region_figures.empty()) {
    throw Error({.code = ErrorCode::bad_argument,
                 .message = "--figure is given with --penalised, which has none",
                 .subject = "--penalised",
                 .remedy = "keep the record (--output) and read the curve with truecurve predict"});
  }
  refuse_beside("--penalised",
                {{options.model.uncertainty != UncertaintyBasis::automatic, "--uncertainty"},
                 {!options.model.within.empty(), "--within"},
                 {options.intervals == Intervals::symmetric, "--interval symmetric"},
                 {options.rows, "--rows"},
                 {!options.about.empty(), "--about"}},
                "omit one of the two");
  say(streams, "fitting");
  const PenalisedEstimates found = penalised_estimates(task.model, task.observations, options.level, task.options);
  const Deductions deductions = deduce(found.estimate, options.level, options.derive, options.hypotheses);
  deliver({.page = [&] { return penalised_page(found, task.observations, options.level, deductions); },
           .record = [&] { return penalised_record(found, task.observations, options.level, deductions); },
           .instead = equation_text(found.estimate, options.level, options.equation)},
          options.output, streams);
  if (found.converged) return 0;
  remark(streams, "the search did not converge; do not use the numbers");
  return 4;
}

// What is drawn into the figure of the curve needs one.
void require_figure(const FitCommand& options) {
  if (!options.output.figures.empty()) return;
  const auto fail = [](const std::string& option, const std::string& instead) {
    throw Error({.code = ErrorCode::bad_argument,
                 .message = fmt::format("{} draws into the figure of --figure, which is not given", option),
                 .subject = option,
                 .remedy = "add --figure FILE.png, or " + instead});
  };
  if (options.show_start) fail("--show-start", "look at the start alone with truecurve preview");
  if (options.figure_equation) fail("--show-equation", "print the equation alone with --equation text");
}

// The polynomial written about another origin, where that is asked for.
std::optional<PageSection> about_origin(const Fit& result, const std::string& about) {
  if (about.empty()) return std::nullopt;
  const Vector& x = result.observations().predictor(0);
  const double mean = std::accumulate(x.begin(), x.end(), 0.0) / static_cast<double>(x.size());
  return about_section(result.estimate(), about == "mean" ? mean : number_of(about, "--about"));
}

int run_fit(const FitCommand& options, const Streams& streams) {
  require_equation_alone(options.equation, options.output);
  require_figure(options);
  if (is_asked_for(options.censored)) {
    refuse_beside_distribution(options);
    return run_censored({.censored = options.censored,
                         .data = options.data,
                         .model = options.model,
                         .output = options.output,
                         .level = options.level,
                         .derive = options.derive,
                         .hypotheses = options.hypotheses},
                        streams);
  }
  const Task task = task_of(options.data, options.model, streams);
  if (options.penalised) return run_penalised(task, options, streams);
  const Observations& observations = task.observations;
  say(streams, "fitting");
  const Fit result = fit(task.model, observations, task.options);
  const double level = options.level;
  (void)result.estimate().coverage_factor(level);  // a bad level is refused before anything is written
  const Deductions deductions = deduce(result.estimate(), level, options.derive, options.hypotheses);
  say(streams, "computing the profiles of the parameters");
  const Trust trust =
      trust_of(result, level, options.intervals == Intervals::profile ? Profiles::always : Profiles::where_cheap);
  const std::optional<PageSection> about = about_origin(result, options.about);
  FigureOptions figure{.level = level, .equation = options.figure_equation, .layout = options.output.layout};
  if (options.show_start) figure.start = preview(task.model, observations, task.options).estimate;
  Drawing drawing(streams);
  drawing.to(options.output.figures, [&](const std::string& file) { draw_fit(result, file, figure); });
  drawing.to(options.profile_figures, [&](const std::string& file) { draw_profiles(result, file, level); });
  drawing.to(options.region_figures, [&](const std::string& file) { draw_regions(result, file, level); });
  drawing.to(options.check_figures, [&](const std::string& file) { draw_checks(result, file); });
  const auto page = [&] {
    Page made = fit_page(result, {.level = level,
                                  .deductions = deductions,
                                  .trust = trust,
                                  .intervals = options.intervals,
                                  .rows = options.rows});
    if (about) made.sections.push_back(*about);
    return made;
  };
  const RecordRows rows = options.rows ? RecordRows::all : RecordRows::none;
  deliver({.page = page,
           .record = [&] { return fit_record(result, level, deductions, trust, rows); },
           .instead = equation_text(result.estimate(), level, options.equation)},
          options.output, streams);
  if (result.solver().converged) return drawing.told(0);
  remark(streams, fmt::format("the search did not converge ({}); do not use the numbers", name(result.solver().stop)));
  return drawing.told(4);
}

}  // namespace

Command add_fit(CLI::App& parser, const Streams& streams) {
  auto options = std::make_shared<FitCommand>();
  Arguments command(parser, "fit", "Fit one model: parameters with uncertainties, chi-squared, quality of the fit");
  add_file(command, options->data);
  add_model(command, options->model);
  add_choice(command, options->data);
  add_counting(command, options->data);
  add_names(command, options->data);
  add_scatter(command, options->model);
  add_censored(command, options->censored);
  command.add_flag("--penalised", options->penalised,
                   "Of events or counts behind a link (\"ln(p/(1-p)) = a + b*x\"): the likelihood with Firth's (1993) "
                   "penalty, finite for separated outcomes, too");
  command.add_share("--level", options->level, "Confidence level of the intervals and bands, between 0 and 1");
  command
      .add(
          "--interval",
          [options](const std::string& text) {
            options->intervals = text == "profile" ? Intervals::profile : Intervals::symmetric;
          },
          "symmetric: estimate ± k u (default of measured responses); profile: profile-likelihood interval, "
          "re-optimising the other parameters (default of counted ones)")
      .one_of({"symmetric", "profile"});
  command
      .add("--derive", options->derive, "A quantity derived from the parameters: \"t_half = ln(2)/k\"; may be repeated")
      .takes("NAME=EXPRESSION");
  command
      .add("--hypothesis", options->hypotheses,
           "An equation between parameters to be tested: \"p + q = -1\"; may be repeated")
      .takes("EQUATION");
  command.add("--about", options->about, "Show a polynomial's coefficients also about this origin: a number, or mean")
      .takes("NUMBER|mean");
  add_drawing(command, "--figure-checks", options->check_figures, "the residual checks");
  add_drawing(command, "--figure-profiles", options->profile_figures, "the profile of each parameter");
  add_drawing(command, "--figure-regions", options->region_figures, "the joint region of each pair of parameters");
  command.add_flag("--show-start", options->show_start, "Draw the curve at its starting values in --figure too");
  command.add_flag(
      "--rows", options->rows,
      "Also every row: the fitted value, the residual, its standardized size, leverage, Cook's distance; in "
      "the record and as CSV, too");
  add_equation(command, options->equation);
  command.add_flag("--show-equation", options->figure_equation,
                   "Write the equation with its numbers, n, S and R² into --figure");
  add_output(command, options->output, "result");
  add_figure(command, options->output, "the fit");
  command.example("truecurve fit demo/thermometers.csv line --x t_ref --y t_test --figure thermometers.png");
  return [options, streams] { return run_fit(*options, streams); };
}

}  // namespace truecurve::app
