// What the user decides about a fit.
//
// Example:
//     const truecurve::FitOptions options{.uncertainty = truecurve::UncertaintyBasis::scatter};
//     EXPECT_EQ(options.uncertainty, truecurve::UncertaintyBasis::scatter);
#pragma once

#include <optional>
#include <string_view>

namespace truecurve {

/// Where the uncertainty of the parameters comes from.
enum class UncertaintyBasis {
  automatic,  ///< stated where standard uncertainties were given, else scatter
  stated,     ///< the given standard uncertainties are believed as they stand: covariance (JᵀWJ)⁻¹, normal quantiles
  scatter,    ///< the scatter about the curve sets the scale: covariance times chi-squared/dof, Student-t quantiles
};

[[nodiscard]] constexpr std::string_view name(UncertaintyBasis basis) {
  return basis == UncertaintyBasis::stated ? "stated" : basis == UncertaintyBasis::scatter ? "scatter" : "automatic";
}

/// How the scatter of the measured response grows with it, where no uncertainties are stated: its standard deviation is
/// proportional to |response|^power.
class Spread {
 public:
  /// Nothing is said: a model is fitted with equal scatter of its left side as written.
  Spread() = default;
  [[nodiscard]] static Spread constant() { return Spread(0); }
  [[nodiscard]] static Spread proportional() { return Spread(1); }
  [[nodiscard]] static Spread counts() { return Spread(0.5); }
  [[nodiscard]] static Spread of_power(double power) { return Spread(power); }

  [[nodiscard]] bool is_given() const noexcept { return power_.has_value(); }
  [[nodiscard]] double power() const { return power_.value_or(0); }

 private:
  explicit Spread(double power) : power_(power) {}
  std::optional<double> power_;
};

/// Options of fit().
struct FitOptions {
  UncertaintyBasis uncertainty = UncertaintyBasis::automatic;
  Spread spread{};
};

}  // namespace truecurve
