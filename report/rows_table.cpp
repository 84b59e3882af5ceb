// Row by row: what was measured, the curve there, and how far they are apart.
#include "rows_table.hpp"

#include <truecurve/assess/checks.hpp>

#include "words.hpp"

#include <cmath>

#include <fmt/format.h>

namespace truecurve::detail {
namespace {

// What stands in a row, in the order of the columns.
struct RowValues {
  std::size_t row;
  std::vector<double> at;
  double response;
  double fitted;
  double residual;
  double standardized;
  double leverage;
  double cook_distance;
};

std::vector<RowValues> rows_of(const Fit& fit) {
  const Observations& observations = fit.observations();
  const RowMeasures measures = row_measures(fit);
  const Vector residuals = fit.response_residuals();
  std::vector<RowValues> rows;
  rows.reserve(observations.size());
  for (std::size_t i = 0; i < observations.size(); ++i) {
    std::vector<double> at;
    for (std::size_t k = 0; k < observations.predictors().size(); ++k) at.push_back(observations.predictor(k)[i]);
    const double y = observations.responses()[i];
    rows.push_back({observations.source_rows()[i], std::move(at), y, y - residuals[i], residuals[i],
                    measures.standardized[i], measures.leverage[i], measures.cook_distance[i]});
  }
  return rows;
}

std::string to_place_of(double value, double scale) {
  const std::string text = with_uncertainty(value, scale);
  const std::size_t bracket = text.find('(');
  if (bracket == std::string::npos) return rounded(value, 6);
  const std::size_t close = text.find(')');
  return text.substr(0, bracket) + text.substr(close + 1);
}

}  // namespace

PageTable rows_table(const Fit& fit) {
  const Observations& observations = fit.observations();
  std::vector<Heading> headings = {{"row", Align::right}};
  for (const Quantity& predictor : observations.predictors()) headings.push_back({headed(predictor), Align::point});
  for (const std::string& heading : {headed(observations.response()), std::string("fitted"), std::string("residual"),
                                     std::string("standardized"), std::string("leverage"), std::string("Cook's D")})
    headings.push_back({heading, Align::point});
  PageTable table(std::move(headings), PageTable::narrow);
  // A residual has as many digits as tell it from the scatter.
  double squares = 0;
  const std::vector<RowValues> rows = rows_of(fit);
  for (const RowValues& row : rows) squares += row.residual * row.residual;
  const double scale = std::sqrt(squares / static_cast<double>(rows.size()));
  for (const RowValues& row : rows) {
    std::vector<std::string> cells = {fmt::format("{}", row.row)};
    for (const double x : row.at) cells.push_back(shortest(x));
    cells.push_back(shortest(row.response));
    cells.push_back(to_place_of(row.fitted, scale));
    cells.push_back(to_place_of(row.residual, scale));
    for (const double measure : {row.standardized, row.leverage, row.cook_distance})
      cells.push_back(std::isnan(measure) ? "-" : fmt::format("{:.2f}", measure));
    table.add(std::move(cells));
  }
  return table;
}

PageData rows_data(const Fit& fit) {
  PageData data{.names = {"row"}};
  for (const Quantity& predictor : fit.observations().predictors()) data.names.push_back(predictor.name);
  for (const std::string& name : {fit.observations().response().name, std::string("fitted"), std::string("residual"),
                                  std::string("standardized"), std::string("leverage"), std::string("cook_distance")})
    data.names.push_back(name);
  for (const RowValues& row : rows_of(fit)) {
    std::vector<Datum> cells = {row.row};
    for (const double x : row.at) cells.emplace_back(x);
    for (const double value :
         {row.response, row.fitted, row.residual, row.standardized, row.leverage, row.cook_distance})
      cells.emplace_back(value);
    data.rows.push_back(std::move(cells));
  }
  return data;
}

}  // namespace truecurve::detail
