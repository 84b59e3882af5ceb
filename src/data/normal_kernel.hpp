// Readings that were measured.
#pragma once

#include <truecurve/data/observation_model.hpp>

namespace truecurve::detail {

/// The normal distribution about a mean, its standard deviation by a law of scatter or, where that is by row, the size
/// of each row.
class NormalKernel final : public ResponseKernel {
 public:
  explicit NormalKernel(Scatter scatter) : scatter_(std::move(scatter)) {}

  [[nodiscard]] ResponseKind kind() const noexcept override { return ResponseKind::measured; }
  [[nodiscard]] bool has_fixed_weights() const noexcept override { return true; }
  [[nodiscard]] double lowest_mean() const noexcept override { return -infinity; }
  [[nodiscard]] double unit_variance(double mean) const override;
  [[nodiscard]] double variance(double mean, double size) const override;
  [[nodiscard]] double standard_deviation(double mean, double size) const override;
  [[nodiscard]] double unit_deviance(double response, double mean) const override;
  [[nodiscard]] double deviance(double response, double size, double mean) const override;
  [[nodiscard]] double saturated_log_likelihood(double response, double size) const override;
  /// The standard deviation is that at the mean, not at the response.
  [[nodiscard]] double log_likelihood(double response, double size, double mean) const override;
  /// The scale of the greatest likelihood is sqrt(objective/n).
  [[nodiscard]] double greatest_log_likelihood(const ResponseBlock& rows, double objective,
                                               bool has_known_scale) const override;
  /// The weighted sum of squares about the weighted mean.
  [[nodiscard]] double objective_of_one_mean(const ResponseBlock& rows) const override;
  [[nodiscard]] double draw(double mean, double size, RandomNumbers& random) const override;
  [[nodiscard]] double inner_mean(double response, double size) const override;
  [[nodiscard]] double open_scale(double mean) const override { return mean; }
  [[nodiscard]] double open_scale_slope(double) const override { return 1; }
  [[nodiscard]] double from_open_scale(double value) const override { return value; }
  /// The sum of squares is left to the triangular factor, which adds up fewer roundings.
  [[nodiscard]] double linearize(const ResponseBlock& block, const double* mean, double* standardized_residual,
                                 double* weight_root, bool with_objective) const override;

 private:
  Scatter scatter_;
};

}  // namespace truecurve::detail
