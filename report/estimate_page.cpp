// The pages of what is asked of a stored estimate: places, roots, derived quantities.
#include <truecurve/assess/means.hpp>
#include <truecurve/assess/polynomial.hpp>
#include <truecurve/report/estimate_page.hpp>

#include "parts.hpp"
#include "words.hpp"

#include <algorithm>
#include <cmath>

#include <fmt/format.h>

namespace truecurve {
namespace {

using detail::curved_remark;
using detail::headed;
using detail::joined_remarks;
using detail::level_text;
using detail::with_unit;

std::string outside_text(double outside) {
  if (outside == 0) return "";
  return std::isinf(outside) ? "outside the data"
         : outside < 0.005   ? "outside the data by less than 1 % of their range"
                             : fmt::format("outside the data by {:.0f} % of their range", 100 * outside);
}

std::string band_text(const Interval& interval, double value) {
  return std::isnan(interval.low)
             ? "-"
             : interval_text(interval.low, interval.high, std::max(interval.high - value, value - interval.low) / 2);
}

}  // namespace

PageSection about_section(const Estimate& estimate, double origin) {
  const PolynomialAbout about = polynomial_about(estimate, origin);
  PageTable table({{"power", Align::right}, {"coefficient", Align::point}, {"standard uncertainty", Align::point}});
  for (std::size_t d = 0; d < about.coefficients.size(); ++d) {
    const double u = about.standard_uncertainties[d];
    table.add(
        {fmt::format("{}", d), with_uncertainty(about.coefficients[d], u), std::isfinite(u) ? rounded(u, 2) : "-"});
  }
  PageSection section{
      .heading = fmt::format("The same curve in powers of ({} - {:.6g})", estimate.predictors()[0].name, origin)};
  section.show(std::move(table));
  return section;
}

namespace {

PageData prediction_data(const Estimate& estimate, std::span<const Vector> points, std::span<const BandPoint> values,
                         Level level) {
  PageData data;
  for (const Quantity& predictor : estimate.predictors()) data.names.push_back(predictor.name);
  data.names.push_back(estimate.response().name);
  for (const char* name :
       {"standard_uncertainty", "confidence_low", "confidence_high", "prediction_low", "prediction_high",
        "outside_data", "mean", "mean_standard_uncertainty", "mean_low", "mean_high"})
    data.names.emplace_back(name);
  const std::vector<MeanPoint> mean = means(estimate, points, level);
  for (std::size_t i = 0; i < values.size(); ++i) {
    std::vector<Datum> row;
    for (const Vector& x : points) row.emplace_back(x[i]);
    const BandPoint& p = values[i];
    const MeanPoint& m = mean[i];
    for (const double number :
         {p.value, p.standard_uncertainty, p.confidence.low, p.confidence.high, p.prediction.low, p.prediction.high,
          p.outside, m.value, m.standard_uncertainty, m.interval.low, m.interval.high})
      row.emplace_back(number);
    data.rows.push_back(std::move(row));
  }
  return data;
}

PageTable prediction_table(const Estimate& estimate, std::span<const Vector> points, std::span<const BandPoint> values,
                           Level level) {
  PageTable table;
  for (const Quantity& predictor : estimate.predictors()) table.headings.push_back({headed(predictor), Align::point});
  // Where equal scatter of a transformed left side was assumed the curve is the median, and the mean another number.
  const bool has_mean = estimate.new_observation().form == Scatter::Form::left_side;
  const std::vector<MeanPoint> mean = has_mean ? means(estimate, points, level) : std::vector<MeanPoint>();
  table.headings.push_back({headed(estimate.response()) + (has_mean ? ", median" : ""), Align::point});
  table.headings.push_back({fmt::format("{} confidence band", level_text(level)), Align::left});
  table.headings.push_back({"prediction band", Align::left});
  if (has_mean) {
    table.headings.push_back({"mean", Align::point});
    table.headings.push_back({fmt::format("{} interval of the mean", level_text(level)), Align::left});
  }
  table.headings.push_back({"", Align::left});
  for (std::size_t i = 0; i < values.size(); ++i) {
    const BandPoint& point = values[i];
    std::vector<std::string> cells;
    for (const Vector& x : points) cells.push_back(shortest(x[i]));
    cells.push_back(with_uncertainty(point.value, point.standard_uncertainty));
    cells.push_back(band_text(point.confidence, point.value));
    cells.push_back(band_text(point.prediction, point.value));
    if (has_mean) {
      cells.push_back(std::isnan(mean[i].value) ? "-" : with_uncertainty(mean[i].value, mean[i].standard_uncertainty));
      cells.push_back(band_text(mean[i].interval, mean[i].value));
    }
    cells.push_back(outside_text(point.outside));
    table.add(std::move(cells));
  }
  return table;
}

}  // namespace

Page prediction_page(const Estimate& estimate, std::span<const Vector> points, std::span<const BandPoint> values,
                     Level level) {
  Page page{.title = estimate.model().text(), .data = prediction_data(estimate, points, values, level)};
  page.lead.say(detail::values_sentence(estimate, points, values));
  page.lead.show(prediction_table(estimate, points, values, level));
  detail::add_limit_cautions(page, estimate);
  if (estimate.is_counted())
    page.caution(fmt::format("{} is counted: a new number scatters as its mean says, and has no prediction band here.",
                             estimate.response().name));
  if (std::any_of(values.begin(), values.end(), [](const BandPoint& point) { return point.outside > 0; }))
    page.caution("Extrapolated outside the data: the bands hold only if the model does.");
  return page;
}

namespace {

// A place without an uncertainty of its own is rounded to the width of its interval.
std::string place_text(const Root& root) {
  const double width = std::isinf(root.interval.high)  ? 2 * (root.value - root.interval.low)
                       : std::isinf(root.interval.low) ? 2 * (root.interval.high - root.value)
                                                       : root.interval.high - root.interval.low;
  if (std::isfinite(root.standard_uncertainty)) return with_uncertainty(root.value, root.standard_uncertainty);
  return limit_text(root.value, width / 4);
}

// Along an asymptote there is no nearest place.
bool is_approached(const Root& root) {
  return root.is_nearest && std::isinf(root.interval.low) != std::isinf(root.interval.high);
}

// "from x = 12 on and up to x = 3"
std::string stretches(const Quantity& x, std::span<const Root> roots) {
  std::string list;
  for (const Root& root : roots) {
    const bool is_upper = std::isinf(root.interval.high);
    const double from = is_upper ? root.interval.low : root.interval.high;
    list += fmt::format("{}{} {} = {}{}", list.empty() ? "" : " and ", is_upper ? "from" : "up to", x.name,
                        with_unit(rounded(from, 4), x.unit), is_upper ? " on" : "");
  }
  return list;
}

// Where it was looked for in vain.
std::string nowhere_sentence(const Estimate& estimate, const std::string& wanted, const SolveOptions& options) {
  const Quantity& x = estimate.predictors()[0];
  const Range& data = estimate.ranges()[0];
  const bool given = !std::isnan(options.low) || !std::isnan(options.high);
  const double low = std::isnan(options.low) ? data.low : options.low;
  const double high = std::isnan(options.high) ? data.high : options.high;
  return fmt::format("{} is not reached between {} = {} and {}{}.", wanted, x.name, shortest(low),
                     with_unit(shortest(high), x.unit), given ? "" : " (the range of the data)");
}

std::string places_sentence(const Quantity& x, const std::string& wanted, std::span<const Root> roots) {
  const auto place = [&] { return fmt::format("{} = {}", x.name, with_unit(place_text(roots[0]), x.unit)); };
  const auto is_nearest = [](const Root& root) { return root.is_nearest; };
  const bool any_nearest = std::any_of(roots.begin(), roots.end(), is_nearest);
  const bool all_nearest = std::all_of(roots.begin(), roots.end(), is_nearest);
  if (std::all_of(roots.begin(), roots.end(), is_approached))
    return fmt::format("{} is not reached; the curve comes near it, within their uncertainty, {}.", wanted,
                       stretches(x, roots));
  if (all_nearest && roots.size() == 1)
    return fmt::format("{} is not reached; the curve comes nearest to it at {}, within their uncertainty.", wanted,
                       place());
  if (roots.size() == 1) return fmt::format("{} is reached at {}.", wanted, place());
  return fmt::format("{} is reached{} at {} places.", wanted, any_nearest ? " or compatible with the curve" : "",
                     roots.size());
}

}  // namespace

Page solution_page(const Estimate& estimate, double response, std::span<const Root> roots,
                   const SolveOptions& options) {
  const Quantity& x = estimate.predictors()[0];
  Page page{.title = estimate.model().text(),
            .data = {.names = {"value", "standard_uncertainty", "low", "high", "outside_data", "reached"}}};
  const std::string wanted =
      fmt::format("{} = {}", estimate.response().name,
                  with_unit(options.response_uncertainty > 0 ? with_uncertainty(response, options.response_uncertainty)
                                                             : shortest(response),
                            estimate.response().unit));
  if (roots.empty()) {
    page.lead.say(nowhere_sentence(estimate, wanted, options));
    return page;
  }
  page.lead.say(places_sentence(x, wanted, roots));
  const bool by_profile = std::all_of(roots.begin(), roots.end(), [](const Root& root) { return root.is_by_profile; });
  PageTable table({{headed(x), Align::point},
                   {"standard uncertainty", Align::point},
                   {level_text(options.level) + (by_profile ? " profile interval" : " interval"), Align::left},
                   {"", Align::left}});
  for (const Root& root : roots) {
    const bool known = std::isfinite(root.standard_uncertainty);
    const bool approached = is_approached(root);
    table.add({approached ? "-" : place_text(root), known ? rounded(root.standard_uncertainty, 2) : "-",
               band_text(root.interval, root.value),
               joined_remarks({approached        ? "compatible, not reached"
                               : root.is_nearest ? "nearest place, not reached"
                                                 : "",
                               approached ? "" : outside_text(root.outside)})});
    page.data.rows.push_back({root.value, root.standard_uncertainty, root.interval.low, root.interval.high,
                              root.outside, root.is_nearest ? "no" : "yes"});
  }
  page.lead.show(std::move(table));
  detail::add_limit_cautions(page, estimate);
  return page;
}

Page derivation_page(const Estimate& estimate, const Deductions& deductions, Level level) {
  Page page{.title = estimate.model().text(),
            .data = {.names = {"name", "value", "standard_uncertainty", "low", "high", "unit", "expression"}}};
  std::string sentence;
  detail::add_limit_cautions(page, estimate);
  for (const DerivedQuantity& q : deductions.derived) {
    sentence += fmt::format("{}{} is {}", sentence.empty() ? "" : ", ", q.name,
                            with_unit(with_uncertainty(q.value, q.standard_uncertainty), q.unit));
    page.caution(curved_remark(q, level));
    page.data.rows.push_back(
        {q.name, q.value, q.standard_uncertainty, q.interval.low, q.interval.high, q.unit, q.expression});
  }
  if (!sentence.empty()) page.lead.say(sentence + ".");
  detail::add_deductions(page, deductions, level);
  return page;
}

}  // namespace truecurve
