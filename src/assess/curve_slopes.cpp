// By the rules of the graph, by Chebyshev's second polynomials, or by differences.
#include "curve_slopes.hpp"

#include <truecurve/assess/bands.hpp>
#include <truecurve/base/error.hpp>

#include "../base/matrices.hpp"
#include "../fit/estimate_parts.hpp"
#include "../model/model_data.hpp"
#include "left_band.hpp"

#include <cmath>

#include <fmt/format.h>
#include <fmt/ranges.h>

namespace truecurve {

using Eigen::Index;

namespace detail {

CurveSlopes::CurveSlopes(const Estimate& estimate) : estimate_(estimate) {
  const ModelData& data = data_of(estimate.model());
  if (data.function) return;
  exact_ = data.predictor_slopes.get([&] { return std::make_shared<const PredictorSlopes>(estimate.model()); });
}

VectorXd CurveSlopes::at(const VectorXd& point) const {
  if (!exact_) return by_differences(point);
  const detail::EstimateParts& parts = detail::parts_of(estimate_);
  if (!(parts.working.half_width > 0)) return exact_->of_response(point, as_eigen(parts.parameters));
  const auto predictor = static_cast<Index>(detail::data_of(parts.model).bound->polynomial_predictor);
  VectorXd slopes = VectorXd::Zero(point.size());
  slopes[predictor] = of_polynomial(point[predictor]);
  if (!parts.model.is_transformed()) return slopes;
  std::vector<Vector> at;
  for (const double value : point) at.push_back({value});
  return exact_->of_response(point, left_band(parts, at).value[0], slopes);
}

// T_d' = d U_(d-1), and U_k = 2 u U_(k-1) - U_(k-2).
double CurveSlopes::of_polynomial(double x) const {
  const detail::EstimateParts& parts = detail::parts_of(estimate_);
  const detail::WorkingForm& working = parts.working;
  const std::vector<int>& powers = detail::data_of(parts.model).bound->powers;
  const double u = (x - working.middle) / working.half_width;
  std::vector<double> second(powers.size() + 1, 1);
  for (std::size_t k = 1; k < second.size(); ++k) second[k] = 2 * u * second[k - 1] - (k > 1 ? second[k - 2] : 0);
  double slope = 0;
  for (std::size_t j = 0; j < powers.size(); ++j) {
    const int degree = powers[j];
    if (degree > 0)
      slope += working.parameters[static_cast<Index>(j)] * degree * second[static_cast<std::size_t>(degree) - 1];
  }
  return slope / working.half_width;
}

VectorXd CurveSlopes::by_differences(const VectorXd& point) const {
  constexpr double step_in_ranges = 1e-6;
  VectorXd slopes(point.size());
  for (Index k = 0; k < point.size(); ++k) {
    const Range range = estimate_.ranges()[static_cast<std::size_t>(k)];
    const double width = range.high - range.low;
    const double h = step_in_ranges * (width > 0 ? width : std::max(1.0, std::abs(point[k])));
    const auto moved = [&](double by) {
      std::vector<Vector> at;
      for (Index i = 0; i < point.size(); ++i) at.push_back({point[i] + (i == k ? by : 0)});
      try {
        return curve_at(estimate_, at).value;
      } catch (const Error&) {
        return not_a_number;
      }
    };
    const double above = moved(h);
    const double below = moved(-h);
    // Where the curve ends beside the point its slope is taken from the other side.
    slopes[k] = std::isnan(above)   ? (moved(0) - below) / h
                : std::isnan(below) ? (above - moved(0)) / h
                                    : (above - below) / (2 * h);
  }
  return slopes;
}

}  // namespace detail

Vector slopes_at(const Estimate& estimate, const Vector& point) {
  if (point.size() != estimate.model().predictors().size()) {
    throw Error({.code = ErrorCode::bad_argument,
                 .message = fmt::format("a point of a curve with {} predictors needs as many values, and {} are given",
                                        estimate.model().predictors().size(), point.size()),
                 .subject = "point",
                 .value = fmt::format("{}", point.size()),
                 .remedy = fmt::format("its predictors are: {}", fmt::join(estimate.model().predictors(), ", "))});
  }
  return detail::CurveSlopes(estimate).at(as_eigen(point));
}

}  // namespace truecurve
