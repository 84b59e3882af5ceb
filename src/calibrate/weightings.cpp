// Weightings by the scatter of the levels.
#include "weightings.hpp"

#include <truecurve/base/error.hpp>
#include <truecurve/fit/fit.hpp>

#include "../base/dense.hpp"
#include "../base/matrices.hpp"
#include "../base/roots.hpp"
#include "../fit/estimate_parts.hpp"
#include "../fit/refit.hpp"

#include <algorithm>
#include <cmath>
#include <numeric>

#include <fmt/format.h>

namespace truecurve::detail {
namespace {

using Eigen::Index;

// The ratio of the variances at the largest signal, (k largest / s0)², on a grid of its logarithm.
constexpr double grid_low = -6;
constexpr double grid_high = 16;
constexpr double grid_step = 0.5;
constexpr double most_negative = -0.7;
constexpr double negligible_weight = 1e-3;
// Degrees of freedom below which intervals near amount 0 miss what they claim by more than the page says.
constexpr double fewest_degrees = 10;
constexpr double fewest_without_blanks = 16;
constexpr std::size_t blanks_that_tell = 5;

[[noreturn]] void fail(const std::string& message, const Advice& remedy) {
  throw Error({.code = ErrorCode::bad_argument, .message = message, .subject = "scatter", .remedy = remedy});
}

double count(const CalibrationLevel& level) { return static_cast<double>(level.readings.size()); }

// The curve through the means of the levels, whose variances are those of a reading over n.
Fit curve_through(const LevelWeights& about, const VectorXd& variances, const std::vector<Start>& starts) {
  NamedNumbers x{about.amount.name, about.amount.unit};
  NamedNumbers y{about.signal.name, about.signal.unit};
  NamedNumbers u{"scatter of " + about.signal.name, about.signal.unit};
  for (std::size_t i = 0; i < about.levels.size(); ++i) {
    x.numbers.push_back(about.levels[i].amount);
    y.numbers.push_back(about.levels[i].mean);
    u.numbers.push_back(std::sqrt(variances[static_cast<Index>(i)] / count(about.levels[i])));
  }
  const Observations rows(Table::from_columns({x, y, u}),
                          {.response = y.name, .predictors = {x.name}, .response_uncertainty = Uncertainty(u.name)});
  return fit(about.model, rows, {.uncertainty = UncertaintyBasis::stated, .starts = starts, .events_as_numbers = true});
}

// The same estimate with variances in units of scale².
Estimate scaled(const Estimate& estimate, double scale, double degrees) {
  EstimateParts parts = parts_of(estimate);
  as_eigen(parts.standard_uncertainties) *= scale;
  parts.scale = scale;
  parts.basis = UncertaintyBasis::scatter;
  parts.degrees_of_freedom = degrees;
  return made_of(std::move(parts));
}

// 0 where the curve is not defined there.
double signal_of_nothing(const Estimate& estimate) {
  try {
    return curve_at(estimate, 0).value;
  } catch (const Error& error) {
    if (error.code() != ErrorCode::not_finite) throw;
    return 0;
  }
}

// One ratio of the variances with the curve under it.
struct Trial {
  double ratio = 0;
  double log_probability = 0;
  Estimate estimate;
  VarianceFunction function{};
};

class Ratios {
 public:
  explicit Ratios(const LevelWeights& about)
      : about_(about),
        equal_(curve_through(about, VectorXd::Ones(levels()), {})),
        starts_(starts_at(equal_.model(), as_eigen(equal_.estimate().parameters()))) {
    zero_ = about.blank_signal;
    if (std::isnan(zero_)) zero_ = signal_of_nothing(equal_.estimate());
    for (const CalibrationLevel& level : about.levels) largest_ = std::max(largest_, std::abs(level.mean - zero_));
    double readings = 0;
    for (const CalibrationLevel& level : about.levels) {
      readings += count(level);
      squares_.push_back(level.readings.size() > 1 ? (count(level) - 1) * level.sd * level.sd : 0);
      shares_.push_back(std::pow((level.mean - zero_) / largest_, 2));
      degrees_of_levels_.push_back(count(level));
    }
    degrees_ = readings - static_cast<double>(equal_.estimate().free_parameters());
    if (!std::isnan(about.blank_signal)) {
      const double more = static_cast<double>(about.blank.count) - 1;
      squares_.push_back(more * about.blank.sd * about.blank.sd);
      shares_.push_back(0);
      degrees_of_levels_.push_back(more);
      degrees_ += more;
    }
  }
  [[nodiscard]] double degrees() const { return degrees_; }
  [[nodiscard]] double readings() const {
    return std::accumulate(degrees_of_levels_.begin(), degrees_of_levels_.end(), 0.0);
  }
  [[nodiscard]] Trial at(double ratio) const {
    VectorXd variances(levels());
    for (Index i = 0; i < variances.size(); ++i) variances[i] = 1 + ratio * shares_[static_cast<std::size_t>(i)];
    const Fit curve = curve_through(about_, variances, starts_);
    double squares = curve.chi_squared();
    double logarithms = 0;
    double information = 0;
    double sum = 0;
    double total = 0;
    for (std::size_t i = 0; i < squares_.size(); ++i) {
      const double variance = 1 + ratio * shares_[i];
      squares += squares_[i] / variance;
      logarithms += degrees_of_levels_[i] * std::log(variance);
      const double slope = ratio * shares_[i] / variance;  // of the logarithm of the variance by that of the ratio
      information += degrees_of_levels_[i] * slope * slope;
      sum += degrees_of_levels_[i] * slope;
      total += degrees_of_levels_[i];
    }
    information -= sum * sum / total;
    const double scale = std::sqrt(squares / degrees_);
    const MatrixXd& root = parts_of(curve.estimate()).working.inverse_factor;
    const double determinant = detail::log_abs_determinant(root);
    return {ratio,
            0.5 * std::log(std::max(information, 0.0)) - 0.5 * logarithms + determinant - degrees_ * std::log(scale),
            scaled(curve.estimate(), scale, degrees_),
            {.form = VarianceFunction::Form::both,
             .constant = scale,
             .slope = scale * std::sqrt(std::max(0.0, ratio)) / largest_}};
  }
  /// s² (1 + ratio (signal/largest)²) also where the ratio is negative: a table of it, as the form has no such k.
  [[nodiscard]] Scatter scatter_of(const Trial& trial) const {
    if (trial.ratio >= 0)
      return {.form = Scatter::Form::growing,
              .scale = 1,
              .offset = -zero_,
              .growing = {trial.function.constant, trial.function.slope}};
    Scatter table{.form = Scatter::Form::tabulated, .scale = trial.function.constant};
    constexpr int places = 16;
    double low = zero_;
    double high = zero_;
    for (const CalibrationLevel& level : about_.levels) {
      low = std::min(low, level.mean);
      high = std::max(high, level.mean);
    }
    for (int i = 0; i <= places; ++i) {
      const double signal = low + (high - low) * i / places;
      table.table.emplace_back(signal, std::sqrt(1 + trial.ratio * std::pow((signal - zero_) / largest_, 2)));
    }
    return table;
  }

 private:
  [[nodiscard]] Index levels() const { return static_cast<Index>(about_.levels.size()); }
  const LevelWeights& about_;
  Fit equal_;
  std::vector<Start> starts_;
  double zero_ = 0;
  double largest_ = 0;
  double degrees_ = 0;
  // Of the levels, and of the blanks where they stand beside them.
  std::vector<double> squares_;
  std::vector<double> shares_;
  std::vector<double> degrees_of_levels_;
};

// The most probable ratio above 0, near the best of the grid.
Trial most_probable(const Ratios& ratios, double log_ratio) {
  const double at = lowest_place(log_ratio - grid_step, log_ratio + grid_step,
                                 [&ratios](double log) { return -ratios.at(std::exp(log)).log_probability; });
  return ratios.at(std::exp(at));
}

}  // namespace

EstimatedWeights weights_of_function(const LevelWeights& about) {
  const auto replicated = std::count_if(about.levels.begin(), about.levels.end(),
                                        [](const CalibrationLevel& level) { return level.readings.size() > 1; });
  if (replicated < 3)
    fail("a scatter that grows from a constant needs replicates at three levels or more",
         {"measure replicates, or choose a constant or proportional scatter",
          {Action::choose_scatter, "constant"},
          {Action::choose_scatter, "proportional"}});
  if (std::all_of(about.levels.begin(), about.levels.end(),
                  [](const CalibrationLevel& level) { return !(level.sd > 0); }))
    fail("the replicates of each level are equal: there is no scatter that could weigh them",
         {"record more digits of the signal, or choose a constant or proportional scatter",
          {Action::choose_scatter, "constant"},
          {Action::choose_scatter, "proportional"}});
  const Ratios ratios(about);
  const bool tells_zero = !std::isnan(about.blank_signal) && about.blank.count >= blanks_that_tell;
  const double fewest = tells_zero ? fewest_degrees : fewest_without_blanks;
  if (ratios.degrees() < fewest)
    fail(fmt::format(
             "{} readings of standards and blanks leave {} to tell how the scatter grows from a constant, and {} are "
             "needed ({} with {} blanks or more)",
             ratios.readings(), degrees_of_freedom_text(ratios.degrees()), fewest, fewest_degrees, blanks_that_tell),
         {"measure more replicates or blanks, or choose a constant or proportional scatter",
          {Action::choose_scatter, "constant"},
          {Action::choose_scatter, "proportional"}});
  std::vector<Trial> trials;
  for (double log_ratio = grid_low; std::exp(log_ratio) < -most_negative; log_ratio += grid_step)
    trials.push_back(ratios.at(-std::exp(log_ratio)));
  const std::size_t first = trials.size();
  for (double log_ratio = grid_low; log_ratio <= grid_high; log_ratio += grid_step)
    trials.push_back(ratios.at(std::exp(log_ratio)));
  const auto best =
      std::max_element(trials.begin() + static_cast<std::ptrdiff_t>(first), trials.end(),
                       [](const Trial& a, const Trial& b) { return a.log_probability < b.log_probability; });
  const double best_log = std::log(best->ratio);
  double highest = -infinity;
  for (const Trial& trial : trials) highest = std::max(highest, trial.log_probability);
  Trial mode = most_probable(ratios, best_log);
  EstimatedWeights result{.function = mode.function, .estimate = mode.estimate, .scatter = ratios.scatter_of(mode)};
  double sum = 0;
  for (const Trial& trial : trials) {
    const double weight = std::exp(trial.log_probability - highest);
    if (!(weight > negligible_weight)) continue;
    sum += weight;
    result.weightings.push_back({weight, trial.estimate, ratios.scatter_of(trial)});
  }
  for (Weighting& w : result.weightings) w.weight /= sum;
  return result;
}

}  // namespace truecurve::detail
