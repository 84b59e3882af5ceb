// The pages of what is asked of a stored estimate: places, roots, derived quantities.
#include <truecurve/assess/means.hpp>
#include <truecurve/assess/polynomial.hpp>
#include <truecurve/report/text.hpp>

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
using detail::curved_remark;
using detail::deductions_text;
using detail::Grid;
using detail::item;
using detail::joined_remarks;
using detail::level_text;
using detail::limits_caution;
using detail::paragraph;
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
             : interval_text(interval.low, interval.high,
                             std::max(std::abs(interval.high - value), std::abs(value - interval.low)) / 2);
}

}  // namespace

std::string about_text(const Estimate& estimate, double origin) {
  const PolynomialAbout about = polynomial_about(estimate, origin);
  const std::string& x = estimate.predictors()[0].name;
  Grid grid({{"power", Align::right}, {"coefficient", Align::point}, {"standard uncertainty", Align::point}});
  for (std::size_t d = 0; d < about.coefficients.size(); ++d) {
    const double u = about.standard_uncertainties[d];
    grid.add(
        {fmt::format("{}", d), with_uncertainty(about.coefficients[d], u), std::isfinite(u) ? rounded(u, 2) : "-"});
  }
  return fmt::format("\nThe same curve in powers of ({} - {})\n", x, fmt::format("{:.6g}", origin)) + grid.text();
}

std::string prediction_text(const Estimate& estimate, std::span<const Vector> points, std::span<const BandPoint> values,
                            Level level) {
  const auto headed = [](const Quantity& q) {
    return q.unit.empty() ? q.name : fmt::format("{} ({})", q.name, q.unit);
  };
  std::string text = estimate.model().text() + "\n\n";
  std::vector<Grid::Heading> headings;
  for (const Quantity& predictor : estimate.predictors()) headings.push_back({headed(predictor), Align::point});
  // Where equal scatter of a transformed left side was assumed the curve is the median, and the mean another number.
  const bool has_mean = estimate.new_observation().form == Scatter::Form::left_side;
  const std::vector<MeanPoint> mean = has_mean ? means(estimate, points, level) : std::vector<MeanPoint>();
  headings.push_back({headed(estimate.response()) + (has_mean ? ", median" : ""), Align::point});
  headings.push_back({fmt::format("{} confidence band", level_text(level)), Align::left});
  headings.push_back({"prediction band", Align::left});
  if (has_mean) {
    headings.push_back({"mean", Align::point});
    headings.push_back({fmt::format("{} interval of the mean", level_text(level)), Align::left});
  }
  headings.push_back({"", Align::left});
  Grid grid(headings);
  bool outside = false;
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
    outside = outside || point.outside > 0;
    grid.add(std::move(cells));
  }
  text += grid.text();
  std::string careful = limits_caution(estimate);
  if (estimate.is_counted())
    careful +=
        item(fmt::format("{} is counted: a new number scatters as its mean says, and has no prediction band here.",
                         estimate.response().name));
  if (outside) careful += item("Extrapolated outside the data: the bands hold only if the model does.");
  return careful.empty() ? text : text + "\n" + careful;
}

std::string prediction_csv(const Estimate& estimate, std::span<const Vector> points, std::span<const BandPoint> values,
                           Level level) {
  std::string text;
  for (const Quantity& predictor : estimate.predictors()) text += csv_field(predictor.name) + ",";
  text += csv_field(estimate.response().name) +
          ",standard_uncertainty,confidence_low,confidence_high,prediction_low,prediction_high,outside_data,mean,"
          "mean_standard_uncertainty,mean_low,mean_high\n";
  const std::vector<MeanPoint> mean = means(estimate, points, level);
  for (std::size_t i = 0; i < values.size(); ++i) {
    for (const Vector& x : points) text += csv_number(x[i]) + ",";
    const BandPoint& p = values[i];
    const MeanPoint& m = mean[i];
    text += fmt::format("{},{},{},{},{},{},{},{},{},{},{}\n", csv_number(p.value), csv_number(p.standard_uncertainty),
                        csv_number(p.confidence.low), csv_number(p.confidence.high), csv_number(p.prediction.low),
                        csv_number(p.prediction.high), csv_number(p.outside), csv_number(m.value),
                        csv_number(m.standard_uncertainty), csv_number(m.interval.low), csv_number(m.interval.high));
  }
  return text;
}

std::string solution_text(const Estimate& estimate, double response, std::span<const Root> roots,
                          const SolveOptions& options) {
  const Quantity& x = estimate.predictors()[0];
  std::string text = estimate.model().text() + "\n\n";
  const std::string wanted = with_unit(
      options.response_uncertainty > 0 ? with_uncertainty(response, options.response_uncertainty) : shortest(response),
      estimate.response().unit);
  if (roots.empty()) {
    const Range& data = estimate.ranges()[0];
    const bool given = !std::isnan(options.low) || !std::isnan(options.high);
    const double low = std::isnan(options.low) ? data.low : options.low;
    const double high = std::isnan(options.high) ? data.high : options.high;
    return text + paragraph(fmt::format("{} = {} is not reached between {} = {} and {}{}.", estimate.response().name,
                                        wanted, x.name, shortest(low), with_unit(shortest(high), x.unit),
                                        given ? "" : " (the range of the data)"));
  }
  // A place without an uncertainty of its own is rounded to the width of its interval.
  const auto value_text = [](const Root& root) {
    const double width = std::isinf(root.interval.high)  ? 2 * (root.value - root.interval.low)
                         : std::isinf(root.interval.low) ? 2 * (root.interval.high - root.value)
                                                         : root.interval.high - root.interval.low;
    if (std::isfinite(root.standard_uncertainty) || !std::isfinite(width) || !(width > 0))
      return with_uncertainty(root.value, root.standard_uncertainty);
    const std::string twice = interval_text(root.value, root.value, width / 4);
    return twice.substr(0, twice.find(" to "));
  };
  // Along an asymptote there is no nearest place.
  const auto is_approached = [](const Root& root) {
    return root.is_nearest && std::isinf(root.interval.low) != std::isinf(root.interval.high);
  };
  const auto stretches = [&] {
    std::string list;
    for (const Root& root : roots) {
      const bool is_upper = std::isinf(root.interval.high);
      const double from = is_upper ? root.interval.low : root.interval.high;
      list += fmt::format("{}{} {} = {}{}", list.empty() ? "" : " and ", is_upper ? "from" : "up to", x.name,
                          with_unit(rounded(from, 4), x.unit), is_upper ? " on" : "");
    }
    return list;
  };
  const auto place = [&](const Root& root) {
    return fmt::format("{} = {}", x.name, with_unit(value_text(root), x.unit));
  };
  const bool any_nearest = std::any_of(roots.begin(), roots.end(), [](const Root& root) { return root.is_nearest; });
  const bool all_nearest = std::all_of(roots.begin(), roots.end(), [](const Root& root) { return root.is_nearest; });
  text += paragraph(
      std::all_of(roots.begin(), roots.end(), is_approached)
          ? fmt::format("{} = {} is not reached; the curve comes near it, within their uncertainty, {}.",
                        estimate.response().name, wanted, stretches())
      : all_nearest && roots.size() == 1
          ? fmt::format("{} = {} is not reached; the curve comes nearest to it at {}, within their uncertainty.",
                        estimate.response().name, wanted, place(roots[0]))
      : roots.size() == 1 ? fmt::format("{} = {} is reached at {}.", estimate.response().name, wanted, place(roots[0]))
                          : fmt::format("{} = {} is reached{} at {} places.", estimate.response().name, wanted,
                                        any_nearest ? " or compatible with the curve" : "", roots.size()));
  const bool by_profile = std::all_of(roots.begin(), roots.end(), [](const Root& root) { return root.is_by_profile; });
  Grid grid({{x.unit.empty() ? x.name : fmt::format("{} ({})", x.name, x.unit), Align::point},
             {"standard uncertainty", Align::point},
             {level_text(options.level) + (by_profile ? " profile interval" : " interval"), Align::left},
             {"", Align::left}});
  for (const Root& root : roots) {
    const bool known = std::isfinite(root.standard_uncertainty);
    const bool approached = is_approached(root);
    grid.add({approached ? "-" : value_text(root), known ? rounded(root.standard_uncertainty, 2) : "-",
              std::isnan(root.interval.low) ? "-" : band_text(root.interval, root.value),
              joined_remarks({approached        ? "compatible, not reached"
                              : root.is_nearest ? "nearest place, not reached"
                                                : "",
                              approached ? "" : outside_text(root.outside)})});
  }
  const std::string careful = limits_caution(estimate);
  return text + "\n" + grid.text() + (careful.empty() ? "" : "\n" + careful);
}

std::string solution_csv(std::span<const Root> roots) {
  std::string text = "value,standard_uncertainty,low,high,outside_data,reached\n";
  for (const Root& r : roots)
    text += fmt::format("{},{},{},{},{},{}\n", csv_number(r.value), csv_number(r.standard_uncertainty),
                        csv_number(r.interval.low), csv_number(r.interval.high), csv_number(r.outside),
                        r.is_nearest ? "no" : "yes");
  return text;
}

std::string derivation_text(const Estimate& estimate, const Deductions& deductions, Level level) {
  std::string text = estimate.model().text() + "\n\n";
  std::string sentence;
  std::string careful = limits_caution(estimate);
  for (const DerivedQuantity& q : deductions.derived) {
    sentence += fmt::format("{}{} is {}", sentence.empty() ? "" : ", ", q.name,
                            with_uncertainty(q.value, q.standard_uncertainty));
    careful += curved_remark(q, level);
  }
  if (!sentence.empty()) text += paragraph(sentence + ".");
  text += deductions_text(deductions, level);
  return careful.empty() ? text : text + "\nCautions\n" + careful;
}

std::string derivation_csv(const Deductions& deductions) {
  std::string text = "name,value,standard_uncertainty,low,high,expression\n";
  for (const DerivedQuantity& q : deductions.derived)
    text +=
        fmt::format("{},{},{},{},{},{}\n", csv_field(q.name), csv_number(q.value), csv_number(q.standard_uncertainty),
                    csv_number(q.interval.low), csv_number(q.interval.high), csv_field(q.expression));
  return text;
}

}  // namespace truecurve
