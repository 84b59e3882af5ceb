// Refits that must pass a mean at a place: a row of so many trials there that nothing else can move it.
#include <truecurve/assess/profile.hpp>
#include <truecurve/base/error.hpp>

#include "../base/matrices.hpp"
#include "../base/roots.hpp"
#include "../fit/refit.hpp"
#include "../model/model_data.hpp"

#include <algorithm>
#include <cmath>
#include <vector>

namespace truecurve {
namespace {

using Eigen::Index;

constexpr double pinning_trials = 1e6;     // against those of all rows together: they move the deviance by some 1e-5
constexpr double farthest_in_ranges = 64;  // ranges of the data
constexpr double settled_distance = 1e-6;  // of the distance
constexpr double near_gradient = 1e-3;     // of an uncertainty: a row of so many trials leaves rounding in the gradient

// The deviance of the rows, with the curve at its mean at a place, less that of the fit.
class PinnedFits {
 public:
  PinnedFits(const Fit& fit, double mean) : fit_(fit), mean_(mean), options_(detail::options_like(fit)) {
    const Observations& rows = fit.observations();
    const double whole = std::ceil(as_eigen(rows.sizes()).sum());
    size_ = pinning_trials * std::max(1.0, whole);
    number_ = std::round(mean * size_);
    for (Index i = 0; i < as_eigen(rows.responses()).size(); ++i) {
      x_.push_back(rows.predictor(0)[i]);
      numbers_.push_back(rows.counted_numbers()[i]);
      sizes_.push_back(rows.sizes()[i]);
    }
  }

  // NaN where no such curve is found.
  double rise_at(double place) {
    const Observations& rows = fit_.observations();
    const auto with = [](std::vector<double> values, double last) {
      values.push_back(last);
      return values;
    };
    const std::string& x = rows.predictors()[0].name;
    const std::string& y = rows.response().name;
    const std::string size = "(size)";
    const Table table = Table::from_columns(
        {{x, "", with(x_, place)}, {y, "", with(numbers_, number_)}, {size, "", with(sizes_, size_)}});
    const Observations pinned(
        table,
        {.response = y, .predictors = {x}, .counting = {.kind = rows.observation_model().kind(), .size_column = size}});
    try {
      const Fit made = fit(fit_.model(), pinned, options_);
      if (!(made.solver().converged || made.solver().relative_offset < near_gradient)) return not_a_number;
      const double met = made.fitted_response()[static_cast<Index>(x_.size())];
      if (!(std::abs(met - mean_) <= 1e-3 * mean_)) return not_a_number;
      const double own = rows.observation_model().kernel().deviance(number_ / size_, size_, met);
      options_ = detail::options_like(made);  // the next begins here
      return made.chi_squared() - own - fit_.chi_squared();
    } catch (const Error&) {
      return not_a_number;
    }
  }

 private:
  const Fit& fit_;
  double mean_;
  FitOptions options_;
  double size_ = 0;
  double number_ = 0;
  std::vector<double> x_, numbers_, sizes_;
};

double place_limit(const Fit& fit, double mean, double place, double step, double rise) {
  const Range& range = fit.estimate().ranges()[0];
  const double width = range.high - range.low;
  PinnedFits pinned(fit, mean);
  double inside = place;
  for (double reach = step; std::abs(reach) <= farthest_in_ranges * width; reach *= 2) {
    const double outside = place + reach;
    const double value = pinned.rise_at(outside) - rise;
    if (std::isnan(value)) return not_a_number;
    if (value < 0) {
      inside = outside;
      continue;
    }
    double low = inside;
    double high = outside;
    while (std::abs(high - low) > settled_distance * std::abs(high - place)) {
      const double middle = low + (high - low) / 2;
      const double at = pinned.rise_at(middle) - rise;
      if (std::isnan(at)) return not_a_number;
      (at < 0 ? low : high) = middle;
    }
    return low + (high - low) / 2;
  }
  return std::copysign(infinity, step);
}

}  // namespace

Interval profile_place(const Fit& fit, double mean, double place, Level level) {
  const ResponseKind kind = fit.observations().observation_model().kind();
  const bool is_known = (kind == ResponseKind::events || kind == ResponseKind::counts) &&
                        fit.observations().predictors().size() == 1 && !fit.estimate().open_end() &&
                        fit.solver().converged && !detail::data_of(fit.model()).function;
  const double factor = fit.estimate().coverage_factor(level) * fit.estimate().scale();
  if (!is_known) return {};
  const Range& range = fit.estimate().ranges()[0];
  if (!(factor > 0) || !(range.high > range.low)) return {};
  const double step = (range.high - range.low) / 64;
  return {place_limit(fit, mean, place, -step, factor * factor), place_limit(fit, mean, place, step, factor * factor)};
}

}  // namespace truecurve
