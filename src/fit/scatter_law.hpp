// How readings of a measured response scatter about the curve: what stated uncertainties and an assumed spread mean is
// decided here, and nowhere else.
#pragma once

#include <truecurve/data/observations.hpp>
#include <truecurve/data/scatter.hpp>
#include <truecurve/fit/estimate.hpp>
#include <truecurve/fit/options.hpp>

#include "../base/matrices.hpp"

namespace truecurve::detail {

/// What the observation model of a fit says of the scatter of its rows: that of the observations, or the spread that is
/// assumed where they state none.
class ScatterLaw {
 public:
  /// Throws Error: bad_argument (a spread beside stated uncertainties or of a counted response, a power that is not
  /// finite).
  ScatterLaw(const Observations& observations, const Spread& spread);

  [[nodiscard]] const ObservationModel& model() const { return model_; }
  /// Whether the rows have weights at all.
  [[nodiscard]] bool is_given() const { return is_stated() || scatter().form != Scatter::Form::constant; }
  /// Whether these are standard uncertainties, and not only relative sizes.
  [[nodiscard]] bool is_stated() const { return model_.has_stated_scatter(); }
  /// Whether they depend on the response.
  [[nodiscard]] bool follows_the_response() const { return scatter().follows_the_mean(); }
  /// Whether the weights of the left side are known before the curve is.
  [[nodiscard]] bool has_fixed_weights(bool transformed) const {
    return !is_given() || (!follows_the_response() && !transformed);
  }
  /// What the rows scatter by where the responses are these, one for each row of the observations: standard
  /// uncertainties, or sizes relative to a scale that is not known. Throws Error (unsuitable_row) that names a row in
  /// which the law gives none.
  [[nodiscard]] VectorXd at(const VectorXd& responses, const Observations& observations) const;

  /// Where the uncertainty of the parameters comes from, automatic resolved. Throws Error (bad_uncertainty) where
  /// stated ones are asked for and there are none.
  [[nodiscard]] UncertaintyBasis basis(UncertaintyBasis asked, const Observations& observations) const;
  /// Whether the sizes are believed as they stand, and no scale is estimated.
  [[nodiscard]] bool is_believed(UncertaintyBasis asked) const {
    return is_stated() && asked != UncertaintyBasis::scatter;
  }
  /// What makes the sizes standard uncertainties: 1 where they are believed, else the root of chi-squared over its
  /// degrees of freedom, 0 where there are none.
  [[nodiscard]] double scale(double chi_squared, double degrees, UncertaintyBasis asked) const;

  /// What a new reading scatters by. `scale` is that of the sizes.
  [[nodiscard]] Scatter new_observation(const Observations& observations, bool transformed, UncertaintyBasis basis,
                                        double scale) const;

 private:
  [[nodiscard]] const Scatter& scatter() const { return model_.scatter(); }
  ObservationModel model_;
};

}  // namespace truecurve::detail
