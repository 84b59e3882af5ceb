// The page of a fit with limits among its responses.
#include <truecurve/assess/intervals.hpp>
#include <truecurve/report/censored_page.hpp>

#include "parts.hpp"
#include "words.hpp"

#include <algorithm>
#include <cmath>

#include <fmt/format.h>

namespace truecurve {
namespace {

using detail::headed;
using detail::level_text;
using detail::of_source;

std::string written_name(Distribution distribution) {
  return distribution == Distribution::weibull ? "Weibull" : std::string(name(distribution));
}

std::string subject_of(const CensoredResults& r) {
  const Observations& rows = r.fit.data.rows;
  std::string limits;
  for (const auto& [censoring, words] :
       {std::pair{Censoring::below, "known to lie below a limit"}, {Censoring::above, "known to lie above a limit"}}) {
    const std::size_t count = r.fit.data.count(censoring);
    if (count > 0) limits += fmt::format(", {} {}", count, words);
  }
  return fmt::format("fitted to {} of {}{} measured{}", plural(rows.size(), "row"),
                     rows.source().name.empty() ? "the table" : rows.source().name,
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

std::string bounded_text(double low, double high, double uncertainty) {
  return std::isnan(low) || std::isnan(high) ? "-" : interval_text(low, high, uncertainty);
}

PageTable parameters_table(const CensoredResults& r) {
  PageTable table({{"name", Align::left},
                   {"value", Align::point},
                   {"standard uncertainty", Align::point},
                   {level_text(r.level) + " profile interval", Align::left},
                   {"unit", Align::left}});
  for (const ParameterInterval& p : r.parameters)
    table.add({p.name, with_uncertainty(p.value, p.standard_uncertainty), rounded(p.standard_uncertainty, 2),
               bounded_text(p.low, p.high, p.standard_uncertainty), p.unit});
  detail::add_held(table, r.fit.estimate.model());
  return table;
}

void add_quantiles(Page& page, const CensoredResults& r) {
  const Observations& rows = r.fit.data.rows;
  PageTable table;
  for (const auto& predictor : rows.predictors()) table.headings.push_back({headed(predictor), Align::point});
  table.headings.push_back({"share below", Align::point});
  table.headings.push_back({"share above", Align::point});
  table.headings.push_back({headed(rows.response()), Align::point});
  table.headings.push_back({level_text(r.level) + " profile interval", Align::left});
  bool beyond = false;
  for (const CensoredQuantile& q : r.quantiles) {
    std::vector<std::string> cells;
    for (const double at : q.at) cells.push_back(shortest(at));
    cells.push_back(fmt::format("{:.6g} %", 100 * q.share));
    cells.push_back(fmt::format("{:.6g} %", 100 * (1 - q.share)));
    cells.push_back(with_uncertainty(q.value, q.standard_uncertainty));
    cells.push_back(bounded_text(q.interval.low, q.interval.high, q.standard_uncertainty));
    table.add(std::move(cells));
    beyond = beyond || q.share < r.lowest_share || q.share > r.highest_share;
  }
  PageSection& section = page.section("Quantiles");
  section.show(std::move(table));
  if (beyond)
    section.say(
        fmt::format("The measured rows reach from the share {} to {}: quantiles beyond are based on the form of the "
                    "distribution alone, which their intervals take for granted.",
                    detail::share_text(r.lowest_share), detail::share_text(r.highest_share)));
}

std::string two_decimals(double value) { return std::isnan(value) ? "-" : fmt::format("{:.2f}", value); }

PageTable quality_table(const CensoredFit& fit) {
  PageTable table({{""}, {"", Align::point}}, PageTable::narrow);
  table.add({"log likelihood", two_decimals(fit.log_likelihood)});
  table.add({"AIC", two_decimals(fit.aic)});
  table.add({"AICc", two_decimals(fit.aicc)});
  table.add({"BIC", two_decimals(fit.bic)});
  return table;
}

PageTable distributions_table(const CensoredResults& r) {
  if (r.distributions.size() < 2) return {};
  PageTable table({{"distribution", Align::left},
                   {"log likelihood", Align::point},
                   {"AICc", Align::point},
                   {"difference", Align::point}});
  const double least = r.distributions.front().aicc;
  for (const DistributionRank& d : r.distributions)
    table.add({written_name(d.distribution), two_decimals(d.log_likelihood), two_decimals(d.aicc),
               two_decimals(d.aicc - least)});
  return table;
}

// What the parameters would be without the limits, or with them as values.
void add_otherwise(Page& page, const CensoredResults& r) {
  const auto& o = r.otherwise;
  if (r.fit.data.count(Censoring::none) == r.fit.data.of.size()) return;
  std::vector<Heading> headings = {{"rows with a limit", Align::left}};
  for (const ParameterInterval& p : r.parameters) headings.push_back({p.name, Align::point});
  PageTable table(headings);
  const auto add = [&](const char* treatment, const auto& value_of) {
    std::vector<std::string> cells = {treatment};
    for (std::size_t j = 0; j < r.parameters.size(); ++j) cells.push_back(value_of(j));
    table.add(std::move(cells));
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
  PageSection& section = page.section("What the limits tell");
  section.show(std::move(table));
  if (!far.empty()) section.say(far + ". Both are biased.");
}

PageData data_of(const CensoredResults& r) {
  PageData data{.names = {"name", "value", "standard_uncertainty", "low", "high", "unit"}};
  for (const ParameterInterval& p : r.parameters)
    data.rows.push_back({p.name, p.value, p.standard_uncertainty, p.low, p.high, p.unit});
  const Observations& rows = r.fit.data.rows;
  for (const CensoredQuantile& q : r.quantiles) {
    std::string place;
    for (std::size_t k = 0; k < rows.predictors().size(); ++k)
      place += fmt::format(" at {}={}", rows.predictors()[k].name, shortest(q.at[k]));
    data.rows.push_back({fmt::format("quantile {}{}", shortest(q.share), place), q.value, q.standard_uncertainty,
                         q.interval.low, q.interval.high, rows.response().unit});
  }
  return data;
}

}  // namespace

Page censored_page(const CensoredResults& r, const Deductions& deductions) {
  Page page{.title = r.fit.estimate.model().text(), .subject = subject_of(r), .data = data_of(r)};
  page.lead.say(detail::parameters_sentence(r.parameters));
  page.lead.say(meaning_sentence(r));
  page.section("Parameters").show(parameters_table(r));
  detail::add_deductions(page, deductions, r.level);
  add_quantiles(page, r);
  page.section("Quality").show(quality_table(r.fit));
  page.section("Other distributions about the same curve").show(distributions_table(r));
  add_otherwise(page, r);
  for (const std::string& remark : r.remarks) page.caution(remark);
  detail::add_left_out(page, r.fit.data.rows.left_out());
  return page;
}

namespace {

std::string named(const CensoredCandidate& c) {
  return fmt::format("{} ({})", c.name, written_name(c.fit.distribution));
}

std::string ranking_sentence(const CensoredComparison& comparison) {
  constexpr double alike = 2;  // Burnham and Anderson (2002), 2.6
  const CensoredCandidate& best = comparison.ranked.front();
  if (std::isnan(best.fit.aicc)) return "There are too few rows for AICc: the candidates are not ranked.";
  std::string others;
  for (std::size_t i = 1; i < comparison.ranked.size(); ++i) {
    if (comparison.ranked[i].difference < alike) others += (others.empty() ? "" : ", ") + named(comparison.ranked[i]);
  }
  return fmt::format(
      "{} has the smallest AICc.{}", named(best),
      others.empty() ? "" : fmt::format(" Within 2 of it, and about equally well supported: {}.", others));
}

}  // namespace

Page censored_comparison_page(const CensoredComparison& comparison) {
  const CensoredCandidate& best = comparison.ranked.front();
  const Observations& rows = best.fit.data.rows;
  Page page{
      .title = rows.response().name,
      .subject = fmt::format("{} for {}{}: {} measured, {} with a limit", plural(comparison.ranked.size(), "candidate"),
                             plural(rows.size(), "row"), of_source(rows.source()), best.fit.data.count(Censoring::none),
                             rows.size() - best.fit.data.count(Censoring::none)),
      .data = {.names = {"candidate", "distribution", "parameters", "log_likelihood", "aicc", "difference", "weight",
                         "bic"}}};
  page.lead.say(ranking_sentence(comparison));
  PageTable table({{"candidate", Align::left},
                   {"distribution", Align::left},
                   {"parameters", Align::right},
                   {"log likelihood", Align::point},
                   {"AICc", Align::point},
                   {"difference", Align::point},
                   {"weight", Align::point},
                   {"BIC", Align::point}},
                  PageTable::narrow);
  for (const CensoredCandidate& c : comparison.ranked) {
    table.add({c.name, written_name(c.fit.distribution), fmt::format("{}", c.fit.joint.size()),
               two_decimals(c.fit.log_likelihood), two_decimals(c.fit.aicc), two_decimals(c.difference),
               std::isnan(c.weight) ? "-" : fmt::format("{:.3f}", c.weight), two_decimals(c.fit.bic)});
    page.data.rows.push_back({c.name, std::string(name(c.fit.distribution)), c.fit.joint.size(), c.fit.log_likelihood,
                              c.fit.aicc, c.difference, c.weight, c.fit.bic});
  }
  page.lead.show(std::move(table));
  page.lead.say(
      "The scatter counts as a parameter; the likelihood is that of the responses, rows with a limit count with the "
      "probability of lying beyond it.");
  PageSection& failed = page.section("Could not be fitted");
  for (const auto& [name, reason] : comparison.failed) failed.list(fmt::format("{}: {}.", name, reason));
  return page;
}

}  // namespace truecurve
