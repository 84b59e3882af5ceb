// What the user decides about a fit.
//
// Example:
//     const truecurve::FitOptions options{.uncertainty = truecurve::UncertaintyBasis::scatter};
//     EXPECT_EQ(options.uncertainty, truecurve::UncertaintyBasis::scatter);
#pragma once

#include <truecurve/base/numeric.hpp>
#include <truecurve/model/model.hpp>

#include <optional>
#include <string>
#include <string_view>
#include <vector>

namespace truecurve {

/// Where the uncertainty of the parameters comes from.
enum class UncertaintyBasis {
  automatic,  ///< stated where standard uncertainties were given, else scatter
  stated,   ///< the given standard uncertainties are believed as they stand: covariance (JᵀWJ)⁻¹, normal quantiles
  scatter,  ///< the scatter about the curve sets the scale: covariance times chi-squared/dof, Student-t quantiles
};

[[nodiscard]] constexpr std::string_view name(UncertaintyBasis basis) {
  return basis == UncertaintyBasis::stated ? "stated" : basis == UncertaintyBasis::scatter ? "scatter" : "automatic";
}

/// How the scatter of the measured response grows with it, where no uncertainties are stated: its standard deviation is
/// proportional to |response|^power, or to |response + taken off|^power where it is that of a gross reading from which
/// something was taken off, as a blank.
class Spread {
 public:
  /// Nothing is said: a model is fitted with equal scatter of its left side as written.
  Spread() = default;
  [[nodiscard]] static Spread constant() { return Spread(0); }
  [[nodiscard]] static Spread proportional() { return Spread(1); }
  [[nodiscard]] static Spread counts() { return Spread(0.5); }
  [[nodiscard]] static Spread of_power(double power, double taken_off = 0) { return Spread(power, taken_off); }

  [[nodiscard]] bool is_given() const noexcept { return power_.has_value(); }
  [[nodiscard]] double power() const { return power_.value_or(0); }
  [[nodiscard]] double taken_off() const noexcept { return taken_off_; }
  [[nodiscard]] bool operator==(const Spread&) const = default;

 private:
  explicit Spread(double power, double taken_off = 0) : power_(power), taken_off_(taken_off) {}
  std::optional<double> power_;
  double taken_off_ = 0;
};

/// A value at which the search for a parameter begins.
struct Start {
  std::string parameter{};
  double value = 0;
};

/// Limits of a parameter; infinite where there is none.
struct Within {
  std::string parameter{};
  double low = -infinity;
  double high = infinity;
};

/// Options of fit().
struct FitOptions {
  UncertaintyBasis uncertainty = UncertaintyBasis::automatic;
  Spread spread{};
  /// Of a model that is not linear: where the search begins. Parameters without a start are searched for; starts of
  /// parameters that enter linearly are not needed, as these are solved for.
  std::vector<Start> starts{};
  /// Parameters that are held at a value and not fitted.
  std::vector<FixedParameter> fixed{};
  /// Limits within which parameters must lie. A parameter that ends at one is said to be there, and has no uncertainty.
  std::vector<Within> within{};
  int most_evaluations = 2000;  ///< of the model over all rows, in one descent
  /// A response of zeros and ones alone is an event and refused; this takes it as numbers that were measured.
  bool events_as_numbers = false;
};

}  // namespace truecurve
