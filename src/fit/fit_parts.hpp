// What a fit holds.
#pragma once

#include <truecurve/fit/fit.hpp>

#include "remembered.hpp"

#include <vector>

namespace truecurve {

struct Fit::Parts {
  bool residuals_are_rounding = false;
  Estimate estimate;
  Observations observations;
  Observations left_side;
  Spread spread;
  Vector effects;
  std::vector<int> term_order;
  double chi_squared = 0;
  double total_sum_of_squares = 0;
  SolverReport solver;
  std::vector<Warning> warnings;
  mutable detail::Conclusions conclusions{};
};

}  // namespace truecurve
