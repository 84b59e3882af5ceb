// The fit repeated on simulated responses: same rows, weights and limits, begun at its estimates.
#pragma once

#include <truecurve/fit/fit.hpp>

#include "../base/matrices.hpp"

#include <optional>

namespace truecurve::detail {

class SimulatedFits {
 public:
  /// The fit must outlive this.
  explicit SimulatedFits(const Fit& fit);

  struct Result {
    VectorXd parameters;
    VectorXd standard_uncertainties;
  };
  /// Fitted to these values of the left side; nothing where the search does not converge.
  [[nodiscard]] std::optional<Result> fitted_to(const VectorXd& left_side) const;

 private:
  const Fit& fit_;
  FitOptions options_;
};

}  // namespace truecurve::detail
