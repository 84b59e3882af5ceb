// truecurve fit --distribution: limits among the responses.
#include "censored.hpp"

#include <truecurve/assess/censored.hpp>
#include <truecurve/base/error.hpp>
#include <truecurve/figure/censored_figure.hpp>
#include <truecurve/io/censored_record.hpp>
#include <truecurve/report/censored_page.hpp>

#include "grid_values.hpp"
#include "progress.hpp"

#include <map>
#include <ostream>

#include <fmt/format.h>

namespace truecurve::app {
namespace {

// Options that belong to least squares or to counts.
void require_alone(const CensoredRequest& r) {
  const auto refuse = [](const char* option, const char* why) {
    throw Error({.code = ErrorCode::bad_argument,
                 .message = fmt::format("{} does not go with --distribution: {}", option, why),
                 .subject = option,
                 .remedy = "omit one of the two"});
  };
  if (r.censored.distribution.empty()) {
    const char* given = !r.censored.said_by.empty()               ? "--censored"
                        : !r.censored.probability_figures.empty() ? "--figure-probability"
                                                                  : "--quantiles";
    throw Error({.code = ErrorCode::bad_argument,
                 .message = fmt::format("{} needs to know how the responses scatter", given),
                 .subject = given,
                 .remedy = "add --distribution normal, lognormal or weibull"});
  }
  const char* const estimated = "the scatter is estimated with the curve";
  if (!r.data.uncertainties.empty()) refuse("--u", estimated);
  if (!r.model.spread.empty()) refuse("--spread", estimated);
  if (r.model.uncertainty != UncertaintyBasis::automatic) refuse("--uncertainty", estimated);
  if (!r.model.within.empty()) refuse("--within", "parameters are not limited there; hold one by --fix");
  if (r.model.route == Route::linearized) refuse("--route", "a curve is fitted as it is");
  if (leaves_out_invalid(r.data.leave_out))
    refuse("--leave-out invalid", "there is no transform here; leave rows out by number or condition");
  if (r.data.counts || !r.data.trials.empty() || !r.data.event.empty())
    refuse("--counts, --trials or --event", "the response is measured");
}

// The scatter is estimated: a column of uncertainties has no place.
Choice without_uncertainties(Choice columns) {
  columns.response_uncertainty = Uncertainty::none();
  return columns;
}

void tell_of_uncertainties(const Table& table, const Choice& columns, const Streams& streams) {
  const Column* stated = table.uncertainty_of(table.column(columns.response));
  if (stated != nullptr)
    remark(streams, fmt::format("the uncertainties in '{}' are not used: with --distribution the scatter is estimated "
                                "with the curve",
                                stated->name));
}

Distribution distribution_of(const std::string& text) {
  static const std::map<std::string, Distribution> distributions = {
      {"normal", Distribution::normal}, {"lognormal", Distribution::lognormal}, {"weibull", Distribution::weibull}};
  return distributions.at(text);
}

}  // namespace

void add_censored(Arguments& command, CensoredCommand& options) {
  command
      .add("--distribution", options.distribution,
           "How single responses scatter about the curve, the scatter estimated with it by maximum likelihood: cells "
           "such "
           "as \"<0.05\" and \">1e7\" then count as limits")
      .one_of({"normal", "lognormal", "weibull"});
  command
      .add("--censored", options.said_by,
           "With --distribution: column of the words none, below and above, which say that a response lies below or "
           "above the number given")
      .takes("COLUMN");
  command
      .add("--quantiles", options.quantiles,
           "With --distribution: shares whose quantiles are shown, 0.01 for what 99 % exceed (default: 0.01, 0.1 and "
           "0.5)")
      .takes("SHARE,SHARE,...");
  command
      .add("--quantiles-at", options.places,
           "With predictors: where; x=5 or x=1,2,3, once for every predictor (default: no quantiles)")
      .takes("NAME=VALUES");
  command
      .add("--figure-probability", options.probability_figures,
           "With --distribution: draw the probability plot to this file: .png, .svg or .pdf")
      .takes("FILE");
}

void add_censored_comparison(Arguments& command, CensoredCommand& options) {
  command
      .add(
          "--distribution", options.distribution,
          "How single responses scatter about the curves, the scatter estimated with them: cells such as \"<0.05\" and "
          "\">1e7\" then count as limits; all tries each")
      .one_of({"normal", "lognormal", "weibull", "all"});
  command
      .add("--censored", options.said_by,
           "With --distribution: column of the words none, below and above, which say that a response lies below or "
           "above the number given")
      .takes("COLUMN");
}

int compare_censored(const std::vector<CensoredWish>& wanted, const CensoredCommand& censored, const DataOptions& data,
                     const OutputOptions& output, const Streams& streams) {
  if (!output.record_file.empty() || !output.figures.empty() || output.format == Format::json) {
    throw Error({.code = ErrorCode::not_supported,
                 .message = "a comparison by --distribution has a page and CSV, and no record or figure",
                 .subject = "--distribution",
                 .remedy = "fit the candidate that is taken (truecurve fit ... --distribution), which has both"});
  }
  std::vector<Distribution> distributions;
  if (censored.distribution == "all") {
    distributions = {Distribution::normal, Distribution::lognormal, Distribution::weibull};
  } else {
    distributions = {distribution_of(censored.distribution)};
  }
  Table table = read_table(data, streams);
  CensoredComparison comparison;
  std::vector<CensoredCandidate> candidates;
  for (const CensoredWish& wish : wanted) {
    const ModelAndColumns chosen = model_and_columns(data, wish.model, table, streams);
    const CensoredRows rows = censored_rows(table, without_uncertainties(chosen.columns), censored.said_by);
    for (const Distribution distribution : distributions) {
      say(streams, fmt::format("fitting {}", wish.name));
      try {
        CensoredFit made = fit_censored(
            chosen.model, rows,
            {.distribution = distribution, .starts = starts_of(wish.model), .fixed = fixed_of(wish.model)});
        if (!made.converged)
          throw Error({.code = ErrorCode::not_finite, .message = "the search did not converge", .subject = wish.name});
        candidates.push_back({wish.name, std::move(made)});
      } catch (const Error& error) {
        const std::string what = error.what();
        comparison.failed.emplace_back(fmt::format("{} ({})", wish.name, name(distribution)),
                                       what.substr(0, what.find('\n')));
      }
    }
  }
  if (candidates.empty()) {
    throw Error({.code = ErrorCode::not_finite,
                 .message = fmt::format("no candidate could be fitted: {}: {}", comparison.failed.front().first,
                                        comparison.failed.front().second),
                 .subject = "candidates",
                 .remedy = "see what truecurve fit says of one of them"});
  }
  comparison.ranked = ranked_by_aicc(std::move(candidates));
  deliver({.page = [&] { return censored_comparison_page(comparison); }, .record = {}}, output, streams);
  return 0;
}

bool is_asked_for(const CensoredCommand& options) {
  return !options.distribution.empty() || !options.said_by.empty() || !options.quantiles.empty() ||
         !options.places.empty() || !options.probability_figures.empty();
}

int run_censored(const CensoredRequest& request, const Streams& streams) {
  require_alone(request);
  Table table = read_table(request.data, streams);
  const ModelAndColumns chosen = model_and_columns(request.data, request.model, table, streams);
  const CensoredRows rows = censored_rows(table, without_uncertainties(chosen.columns), request.censored.said_by);
  tell_of_uncertainties(table, chosen.columns, streams);
  CensoredOptions options{.distribution = distribution_of(request.censored.distribution),
                          .starts = starts_of(request.model),
                          .fixed = fixed_of(request.model)};
  say(streams, "fitting");
  const CensoredFit fit = fit_censored(chosen.model, rows, options);
  const Deductions deductions = deduce(fit.estimate, request.level, request.derive, request.hypotheses);
  const std::vector<double> shares = grid_values(
      request.censored.quantiles.empty() ? std::string("0.01,0.1,0.5") : request.censored.quantiles, "--quantiles");
  std::vector<Vector> places;
  if (rows.rows.predictors().empty()) {
    places.emplace_back();
  } else if (!request.censored.places.empty()) {
    const std::vector<Vector> columns = places_of(request.censored.places, fit.estimate, "--quantiles-at");
    for (std::size_t i = 0; i < columns.front().size(); ++i) {
      Vector place(columns.size());
      for (std::size_t k = 0; k < columns.size(); ++k) place[k] = columns[k][i];
      places.push_back(place);
    }
  } else if (!request.censored.quantiles.empty()) {
    throw Error({.code = ErrorCode::bad_argument,
                 .message = "--quantiles is given without the place at which they are wanted",
                 .subject = "--quantiles",
                 .remedy = fmt::format("add --quantiles-at {}=VALUE", rows.rows.predictors()[0].name)});
  }
  say(streams, "computing the profiles of the parameters and quantiles");
  const CensoredResults results = censored_results(fit, shares, places, request.level);
  Drawing drawing(streams);
  drawing.to(request.output.figures,
             [&](const std::string& file) { draw_censored(fit, file, request.level, request.output.layout); });
  drawing.to(request.censored.probability_figures,
             [&](const std::string& file) { draw_probability(fit, file, request.level); });
  deliver({.page = [&] { return censored_page(results, deductions); },
           .record = [&] { return censored_record(results, deductions); }},
          request.output, streams);
  if (fit.converged) return drawing.told(0);
  remark(streams, "the search did not converge; do not use the numbers");
  return 4;
}

}  // namespace truecurve::app
