// The page of a fit with limits among its responses.
#include <truecurve/assess/intervals.hpp>
#include <truecurve/report/censored_text.hpp>

#include "deductions.hpp"
#include "page.hpp"

#include <algorithm>
#include <cmath>

#include <fmt/format.h>

namespace truecurve {
namespace {

using detail::Align;
using detail::csv_field;
using detail::csv_number;
using detail::Grid;
using detail::headed;
using detail::item;
using detail::level_text;
using detail::number_or_dash;
using detail::paragraph;
using detail::plural;
using detail::with_unit;

std::string written_name(Distribution distribution) {
  return distribution == Distribution::weibull ? "Weibull" : std::string(name(distribution));
}

std::string headline(const CensoredResults& r) {
  const Observations& rows = r.fit.data.rows;
  std::string limits;
  for (const auto& [censoring, words] :
       {std::pair{Censoring::below, "known to lie below a limit"}, {Censoring::above, "known to lie above a limit"}}) {
    const std::size_t count = r.fit.data.count(censoring);
    if (count > 0) limits += fmt::format(", {} {}", count, words);
  }
  return fmt::format("{}\nfitted to {} of {}{} measured{}\n\n", r.fit.estimate.model().text(),
                     plural(rows.size(), "row"), rows.source().name.empty() ? "the table" : rows.source().name,
                     limits.empty() ? ", all" : fmt::format(": {}", r.fit.data.count(Censoring::none)), limits);
}

std::string meaning_sentence(const CensoredResults& r) {
  const std::string& y = r.fit.data.rows.response().name;
  std::string text =
      "The parameters have the greatest likelihood: rows of which a limit is known count with the "
      "probability of lying beyond it, and the scatter is estimated with the curve. ";
  switch (r.fit.distribution) {
    case Distribution::normal:
      return text + fmt::format("{} scatters normally about the curve, with the standard deviation {}.", y,
                                r.fit.scatter_name());
    case Distribution::lognormal:
      return text + fmt::format(
                        "{} scatters lognormally: the curve is its median, and {} the standard deviation of "
                        "ln({}).",
                        y, r.fit.scatter_name(), y);
    case Distribution::weibull: break;
  }
  return text + fmt::format(
                    "{} has a Weibull distribution: the curve is its scale, which 36.8 % exceed, and {} its shape "
                    "(1: a failure is as likely at any age; above 1: more likely with age).",
                    y, r.fit.scatter_name());
}

std::string parameters_grid(const CensoredResults& r) {
  Grid grid({{"name", Align::left},
             {"value", Align::point},
             {"standard uncertainty", Align::point},
             {level_text(r.level) + " profile interval", Align::left},
             {"unit", Align::left}});
  for (const ParameterInterval& p : r.parameters)
    grid.add({p.name, with_uncertainty(p.value, p.standard_uncertainty), rounded(p.standard_uncertainty, 2),
              std::isnan(p.low) || std::isnan(p.high) ? "-" : interval_text(p.low, p.high, p.standard_uncertainty),
              p.unit});
  for (const FixedParameter& held : r.fit.estimate.model().fixed())
    grid.add({held.name, shortest(held.value), "fixed", "", ""});
  return grid.text();
}

std::string quantiles_text(const CensoredResults& r) {
  if (r.quantiles.empty()) return "";
  const Observations& rows = r.fit.data.rows;
  std::vector<Grid::Heading> headings;
  for (const auto& predictor : rows.predictors()) headings.push_back({headed(predictor), Align::point});
  headings.push_back({"share below", Align::point});
  headings.push_back({"share above", Align::point});
  headings.push_back({headed(rows.response()), Align::point});
  headings.push_back({level_text(r.level) + " profile interval", Align::left});
  Grid grid(headings);
  bool beyond = false;
  for (const CensoredQuantile& q : r.quantiles) {
    std::vector<std::string> cells;
    for (const double at : q.at) cells.push_back(shortest(at));
    cells.push_back(fmt::format("{:.6g} %", 100 * q.share));
    cells.push_back(fmt::format("{:.6g} %", 100 * (1 - q.share)));
    cells.push_back(with_uncertainty(q.value, q.standard_uncertainty));
    cells.push_back(std::isnan(q.interval.low) || std::isnan(q.interval.high)
                        ? "-"
                        : interval_text(q.interval.low, q.interval.high, q.standard_uncertainty));
    grid.add(std::move(cells));
    beyond = beyond || q.share < r.lowest_share || q.share > r.highest_share;
  }
  std::string text = "\nQuantiles\n" + grid.text();
  if (beyond)
    text +=
        paragraph(fmt::format("The measured rows reach from the share {} to {}: quantiles beyond rest on the form of "
                              "the distribution alone, which their intervals take for granted.",
                              detail::share_text(r.lowest_share), detail::share_text(r.highest_share)));
  return text;
}

std::string distributions_text(const CensoredResults& r) {
  if (r.distributions.size() < 2) return "";
  Grid grid({{"distribution", Align::left},
             {"log likelihood", Align::point},
             {"AICc", Align::point},
             {"difference", Align::point}});
  const double least = r.distributions.front().aicc;
  for (const DistributionRank& d : r.distributions)
    grid.add({written_name(d.distribution), fmt::format("{:.2f}", d.log_likelihood),
              std::isnan(d.aicc) ? "-" : fmt::format("{:.2f}", d.aicc),
              std::isnan(d.aicc) ? "-" : fmt::format("{:.2f}", d.aicc - least)});
  return "\nOther distributions about the same curve\n" + grid.text();
}

// What the parameters would be without the limits, or with them as values.
std::string otherwise_text(const CensoredResults& r) {
  const auto& o = r.otherwise;
  if (r.fit.data.count(Censoring::none) == r.fit.data.of.size()) return "";
  std::vector<Grid::Heading> headings = {{"rows with a limit", Align::left}};
  for (const ParameterInterval& p : r.parameters) headings.push_back({p.name, Align::point});
  Grid grid(headings);
  const auto add = [&](const char* treatment, const auto& value_of) {
    std::vector<std::string> cells = {treatment};
    for (std::size_t j = 0; j < r.parameters.size(); ++j) cells.push_back(value_of(j));
    grid.add(std::move(cells));
  };
  add("count as limits",
      [&](std::size_t j) { return with_uncertainty(r.parameters[j].value, r.parameters[j].standard_uncertainty); });
  std::string far;
  const auto compare = [&](const char* treatment, const Vector& values, const char* words) {
    if (values.size() == 0) {
      add(treatment, [](std::size_t) { return std::string("-"); });
      return;
    }
    double most = 0;
    std::size_t which = 0;
    for (std::size_t j = 0; j < r.parameters.size(); ++j) {
      const double off = (values[j] - r.parameters[j].value) / r.parameters[j].standard_uncertainty;
      if (std::abs(off) > std::abs(most)) {
        most = off;
        which = j;
      }
    }
    add(treatment, [&](std::size_t j) { return rounded(values[j], 4); });
    far += fmt::format("{}{} would make {} {} by {} standard uncertainties", far.empty() ? "" : "; ", words,
                       r.parameters[which].name, most > 0 ? "larger" : "smaller", rounded(std::abs(most), 2));
  };
  compare("left out", o.left_out, "leaving them out");
  compare("taken as measured", o.as_measured, "taking the limits as measured values");
  if (!far.empty()) far[0] = static_cast<char>(std::toupper(far[0]));
  return "\nWhat the limits tell\n" + grid.text() + (far.empty() ? "" : paragraph(far + ". Both are biased."));
}

std::string cautions_text(const CensoredResults& r) {
  std::string text;
  for (const std::string& remark : r.remarks) text += item(remark);
  for (const LeftOut& left : r.fit.data.rows.left_out())
    text += item(fmt::format("Left out: row {}: {}.", left.row, left.reason));
  return text.empty() ? "" : "\nCautions\n" + text;
}

}  // namespace

std::string censored_text(const CensoredResults& r, const Deductions& deductions) {
  const CensoredFit& fit = r.fit;
  std::string text = headline(r) + paragraph(detail::parameters_sentence(r.parameters)) + "\n" +
                     paragraph(meaning_sentence(r)) + "\nParameters\n" + parameters_grid(r);
  text += detail::deductions_text(deductions, r.level);
  text += quantiles_text(r);
  text += fmt::format(
      "\nQuality\n  log likelihood  {:.2f}\n  AIC             {:.2f}\n  AICc            {}\n  BIC             "
      "{:.2f}\n",
      fit.log_likelihood, fit.aic, std::isnan(fit.aicc) ? "-" : fmt::format("{:.2f}", fit.aicc), fit.bic);
  return text + distributions_text(r) + otherwise_text(r) + cautions_text(r);
}

std::string censored_csv(const CensoredResults& r) {
  std::string text = "name,value,standard_uncertainty,low,high,unit\n";
  for (const ParameterInterval& p : r.parameters)
    text += fmt::format("{},{},{},{},{},{}\n", csv_field(p.name), csv_number(p.value),
                        csv_number(p.standard_uncertainty), csv_number(p.low), csv_number(p.high), csv_field(p.unit));
  const Observations& rows = r.fit.data.rows;
  for (const CensoredQuantile& q : r.quantiles) {
    std::string place;
    for (std::size_t k = 0; k < rows.predictors().size(); ++k)
      place += fmt::format(" at {}={}", rows.predictors()[k].name, shortest(q.at[k]));
    text += fmt::format("{},{},{},{},{},{}\n", csv_field(fmt::format("quantile {}{}", shortest(q.share), place)),
                        csv_number(q.value), csv_number(q.standard_uncertainty), csv_number(q.interval.low),
                        csv_number(q.interval.high), csv_field(rows.response().unit));
  }
  return text;
}

std::string censored_comparison_text(const CensoredComparison& comparison) {
  const CensoredCandidate& best = comparison.ranked.front();
  const Observations& rows = best.fit.data.rows;
  std::string text =
      fmt::format("{} candidates for {} rows{}: {} measured, {} with a limit\n\n", comparison.ranked.size(),
                  rows.size(), rows.source().name.empty() ? "" : " of " + rows.source().name,
                  best.fit.data.count(Censoring::none), rows.size() - best.fit.data.count(Censoring::none));
  const auto named = [](const CensoredCandidate& c) {
    return fmt::format("{} ({})", c.name, written_name(c.fit.distribution));
  };
  constexpr double alike = 2;  // Burnham and Anderson (2002), 2.6
  std::string others;
  for (std::size_t i = 1; i < comparison.ranked.size(); ++i) {
    if (comparison.ranked[i].difference < alike) others += (others.empty() ? "" : ", ") + named(comparison.ranked[i]);
  }
  text += paragraph(
      std::isnan(best.fit.aicc)
          ? std::string("There are too few rows for AICc: the candidates are not ranked.")
          : fmt::format(
                "{} has the smallest AICc.{}", named(best),
                others.empty() ? "" : fmt::format(" Within 2 of it, and hardly told apart from it: {}.", others)));
  Grid grid({{"candidate", Align::left},
             {"distribution", Align::left},
             {"parameters", Align::right},
             {"log likelihood", Align::point},
             {"AICc", Align::point},
             {"difference", Align::point},
             {"weight", Align::point},
             {"BIC", Align::point}},
            detail::narrow_gap);
  const auto two = [](double value) { return std::isnan(value) ? std::string("-") : fmt::format("{:.2f}", value); };
  for (const CensoredCandidate& c : comparison.ranked)
    grid.add({c.name, written_name(c.fit.distribution), fmt::format("{}", c.fit.joint.size()),
              two(c.fit.log_likelihood), two(c.fit.aicc), two(c.difference),
              std::isnan(c.weight) ? "-" : fmt::format("{:.3f}", c.weight), two(c.fit.bic)});
  text += "\n" + grid.text() +
          paragraph(
              "The scatter counts as a parameter; the likelihood is that of the responses, rows with a limit count "
              "with the probability of lying beyond it.");
  std::string careful;
  for (const auto& [name, reason] : comparison.failed) careful += item(fmt::format("{}: {}.", name, reason));
  return careful.empty() ? text : text + "\nCould not be fitted\n" + careful;
}

std::string censored_comparison_csv(const CensoredComparison& comparison) {
  std::string text = "candidate,distribution,parameters,log_likelihood,aicc,difference,weight,bic\n";
  for (const CensoredCandidate& c : comparison.ranked)
    text += fmt::format("{},{},{},{},{},{},{},{}\n", csv_field(c.name), name(c.fit.distribution), c.fit.joint.size(),
                        csv_number(c.fit.log_likelihood), csv_number(c.fit.aicc), csv_number(c.difference),
                        csv_number(c.weight), csv_number(c.fit.bic));
  return text;
}

}  // namespace truecurve
