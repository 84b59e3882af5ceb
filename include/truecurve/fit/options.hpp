// What the user decides about a fit.
//
// Example:
//     const truecurve::FitOptions options{.uncertainty = truecurve::UncertaintyBasis::scatter};
//     EXPECT_EQ(options.uncertainty, truecurve::UncertaintyBasis::scatter);
#pragma once

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

/// Options of fit().
struct FitOptions {
  UncertaintyBasis uncertainty = UncertaintyBasis::automatic;
};

}  // namespace truecurve
