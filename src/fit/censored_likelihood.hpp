// The likelihood of rows of which some are only limits, its derivatives, and the search for its maximum.
#pragma once

#include <truecurve/fit/censored.hpp>

#include "../base/matrices.hpp"
#include "../model/model_data.hpp"

#include <functional>
#include <optional>

namespace truecurve::detail {

/// A row's term by z, and its first two derivatives: the log density of a measured row (of z), or the log of the
/// probability of lying below or above.
struct StandardTerm {
  double value;
  double first;
  double second;
};
[[nodiscard]] StandardTerm standard_term(Distribution distribution, Censoring censoring, double z);

/// The curve on the scale on which it scatters evenly (ln f for lognormal and Weibull) and its derivatives, one row
/// each.
struct EvenCurve {
  VectorXd value;
  MatrixXd gradient;
};

class CensoredLikelihood {
 public:
  /// The model bound to the rows. Throws Error (unsuitable_row). The rows must outlive it.
  CensoredLikelihood(Model model, const CensoredRows& data, Distribution distribution);

  struct At {
    double value = infinity;  ///< minus the log likelihood, of the responses; infinite where the curve is none
    VectorXd gradient{};      ///< by the parameters and ln s
    MatrixXd hessian{};       ///< the same, without the curve's second derivatives
  };
  [[nodiscard]] At at(const VectorXd& joint);
  /// By central differences of the gradient, in steps of these uncertainties.
  [[nodiscard]] MatrixXd observed_information(const VectorXd& joint, const VectorXd& uncertainties);
  [[nodiscard]] EvenCurve curve(const VectorXd& parameters, const Observations& places) const;
  /// The responses on the even scale.
  [[nodiscard]] const VectorXd& even() const { return even_; }
  [[nodiscard]] const Model& model() const { return model_; }
  [[nodiscard]] int evaluations() const { return evaluations_; }

 private:
  Model model_;
  const CensoredRows& data_;
  Distribution distribution_;
  VectorXd even_;
  double logarithms_ = 0;  // of the measured responses, where these scatter by their logarithms
  int evaluations_ = 0;
};

/// A quantity that is to have a value: it is drawn there as by a reading of it with this uncertainty.
struct Pin {
  std::function<std::pair<double, VectorXd>(const VectorXd& joint)> quantity;  // and its gradient
  double value;
  double uncertainty;
};

struct Maximum {
  VectorXd joint;
  double value = infinity;  ///< minus the log likelihood, without the pin
  bool converged = false;
};

/// Newton's steps, damped after Levenberg and Marquardt, from a place where the likelihood is defined.
[[nodiscard]] Maximum greatest_likelihood(CensoredLikelihood& likelihood, VectorXd joint, int most_evaluations,
                                          const Pin* pin = nullptr);

}  // namespace truecurve::detail
