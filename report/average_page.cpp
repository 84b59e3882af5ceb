// The page of a curve averaged over candidates.
#include <truecurve/report/comparison_page.hpp>

#include "parts.hpp"
#include "words.hpp"

#include <algorithm>
#include <cmath>

#include <fmt/format.h>

namespace truecurve {
namespace {

using detail::bounds_text;
using detail::headed;

// "logistic (0.812), gompertz (0.188), 2 with less than 0.0005"
std::string weights_text(std::span<const WeightedEstimate> curves) {
  std::string names;
  std::size_t slight = 0;
  for (const WeightedEstimate& curve : curves) {
    slight += curve.weight < 0.0005;
    if (curve.weight >= 0.0005)
      names += fmt::format("{}{} ({:.3f})", names.empty() ? "" : ", ", curve.name, curve.weight);
  }
  return slight > 0 ? fmt::format("{}, {} with less than 0.0005", names, slight) : names;
}

PageTable averaged_table(std::span<const WeightedEstimate> curves, std::span<const Vector> points,
                         std::span<const AveragedPoint> values, Level level,
                         std::span<const WeightedEstimate>::iterator suggested) {
  const Estimate& first = curves.front().estimate;
  PageTable table({}, PageTable::narrow);
  for (const Quantity& predictor : first.predictors()) table.headings.push_back({headed(predictor), Align::point});
  table.headings.push_back({headed(first.response()), Align::point});
  table.headings.push_back({"SD between candidates", Align::point});
  table.headings.push_back({fmt::format("{} confidence band", detail::level_text(level)), Align::left});
  table.headings.push_back({"prediction band", Align::left});
  table.headings.push_back({suggested == curves.end() ? "" : fmt::format("{} alone", suggested->name), Align::left});
  table.headings.push_back({"", Align::left});
  for (std::size_t i = 0; i < values.size(); ++i) {
    const BandPoint& whole = values[i].whole;
    std::vector<std::string> cells;
    for (const Vector& x : points) cells.push_back(shortest(x[i]));
    cells.push_back(with_uncertainty(whole.value, whole.standard_uncertainty));
    cells.push_back(detail::number_or_dash(values[i].between, 2));
    cells.push_back(bounds_text(whole.confidence));
    cells.push_back(bounds_text(whole.prediction));
    cells.push_back(suggested == curves.end()
                        ? ""
                        : bounds_text(values[i].confidences[static_cast<std::size_t>(suggested - curves.begin())]));
    cells.emplace_back(whole.outside > 0 ? "outside the data" : "");
    table.add(std::move(cells));
  }
  return table;
}

PageData averaged_data(const Estimate& first, std::span<const Vector> points, std::span<const AveragedPoint> values) {
  PageData data;
  for (const Quantity& predictor : first.predictors()) data.names.push_back(predictor.name);
  data.names.push_back(first.response().name);
  for (const char* name : {"standard_uncertainty", "between", "confidence_low", "confidence_high", "prediction_low",
                           "prediction_high", "outside_data"})
    data.names.emplace_back(name);
  for (std::size_t i = 0; i < values.size(); ++i) {
    std::vector<Datum> row;
    for (const Vector& x : points) row.emplace_back(x[i]);
    const BandPoint& p = values[i].whole;
    for (const double number : {p.value, p.standard_uncertainty, values[i].between, p.confidence.low, p.confidence.high,
                                p.prediction.low, p.prediction.high, p.outside})
      row.emplace_back(number);
    data.rows.push_back(std::move(row));
  }
  return data;
}

}  // namespace

Page averaged_prediction_page(std::span<const WeightedEstimate> curves, std::span<const Vector> points,
                              std::span<const AveragedPoint> values, Level level) {
  const Estimate& first = curves.front().estimate;
  const auto suggested =
      std::find_if(curves.begin(), curves.end(), [](const WeightedEstimate& curve) { return curve.is_suggested; });
  std::vector<BandPoint> whole;
  for (const AveragedPoint& value : values) whole.push_back(value.whole);
  Page page{.title = headed(first.response()),
            .subject = fmt::format("averaged over {} by weight", plural(curves.size(), "candidate")),
            .answer = detail::values_sentence(first, points, whole),
            .data = averaged_data(first, points, values)};
  page.lead.say(page.answer);
  page.lead.say(fmt::format("Weights: {}.", weights_text(curves)));
  page.lead.show(averaged_table(curves, points, values, level, suggested));
  page.lead.say(
      "The averaged bands include the disagreement between these candidates; they are approximate where rows are few.");
  if (suggested != curves.end())
    page.lead.say(fmt::format(
        "The confidence band of {} alone is conditional on its being the right curve: it was chosen by the same data, "
        "and does not include the uncertainty of that choice.",
        suggested->name));
  for (const WeightedEstimate& curve : curves) {
    for (const std::string& remark : limit_remarks(curve.estimate)) page.caution(curve.name + ": " + remark);
  }
  if (std::any_of(whole.begin(), whole.end(), [](const BandPoint& point) { return point.outside > 0; }))
    page.caution("Extrapolated outside the data: the bands hold only if one of the candidates does.");
  return page;
}

}  // namespace truecurve
