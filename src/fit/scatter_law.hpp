// How readings of a measured response scatter about the curve: what stated uncertainties and an assumed spread mean is
// decided here, and nowhere else.
#pragma once

#include <truecurve/data/observations.hpp>
#include <truecurve/fit/estimate.hpp>
#include <truecurve/fit/options.hpp>

namespace truecurve::detail {

/// How the standard uncertainty of a response follows from the response: as stated for each row, or a constant times
/// its power (for a spread only relatively, the scale being estimated).
class ScatterLaw {
 public:
  /// Throws Error: bad_argument (a spread beside stated uncertainties, a power that is not finite).
  ScatterLaw(const Observations& observations, const Spread& spread);

  /// Whether the rows have weights at all.
  [[nodiscard]] bool is_given() const { return stated_ || power_given_; }
  /// Whether these are standard uncertainties, and not only relative sizes.
  [[nodiscard]] bool is_stated() const { return stated_; }
  /// Whether they depend on the response.
  [[nodiscard]] bool follows_the_response() const { return power_given_ && power_ != 0; }
  /// Whether the weights of the left side are known before the curve is.
  [[nodiscard]] bool has_fixed_weights(bool transformed) const {
    return !is_given() || (!follows_the_response() && !transformed);
  }
  /// Standard uncertainties where the responses are these, one for each row of the observations. Throws Error
  /// (unsuitable_row) that names a row in which the law gives none.
  [[nodiscard]] VectorXd at(const VectorXd& responses, const Observations& observations) const;

  /// Where the uncertainty of the parameters comes from, automatic resolved. Throws Error (bad_uncertainty) where
  /// stated ones are asked for and there are none.
  [[nodiscard]] UncertaintyBasis basis(UncertaintyBasis asked, const Observations& observations) const;
  /// Whether the sizes are believed as they stand, and no scale is estimated.
  [[nodiscard]] bool is_believed(UncertaintyBasis asked) const { return stated_ && asked != UncertaintyBasis::scatter; }
  /// What makes the sizes standard uncertainties: 1 where they are believed, else the root of chi-squared over its
  /// degrees of freedom, 0 where there are none.
  [[nodiscard]] double scale(double chi_squared, double degrees, UncertaintyBasis asked) const;

  /// What the own standard uncertainty of a new reading is. `scale` is that of the sizes.
  [[nodiscard]] NewObservation new_observation(const Observations& observations, bool transformed,
                                               UncertaintyBasis basis, double scale) const;

 private:
  bool stated_ = false;
  bool power_given_ = false;
  bool spread_ = false;
  bool counted_ = false;  // the scatter is that of the distribution
  double factor_ = 1;
  double power_ = 0;
};

}  // namespace truecurve::detail
