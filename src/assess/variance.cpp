// Variance table from the effects, lack of fit from replicates.
#include <truecurve/assess/variance.hpp>
#include <truecurve/base/distributions.hpp>

#include "../base/matrices.hpp"
#include "../fit/remembered.hpp"
#include "../fit/weights.hpp"
#include "places.hpp"
#include "pure_error.hpp"

namespace truecurve {
namespace {

using Eigen::Index;

VarianceLine line(std::string source, double sum_of_squares, double degrees) {
  return {.source = std::move(source),
          .sum_of_squares = sum_of_squares,
          .degrees_of_freedom = degrees,
          .mean_square = degrees > 0 ? sum_of_squares / degrees : not_a_number};
}

void test_against(VarianceLine& tested, const VarianceLine& yardstick) {
  if (!(yardstick.mean_square > 0) || !(tested.degrees_of_freedom > 0)) return;
  tested.f = tested.mean_square / yardstick.mean_square;
  tested.p = f_upper(tested.f, tested.degrees_of_freedom, yardstick.degrees_of_freedom);
}

// By the scale of the fit: the residual mean square, or 1 where uncertainties are stated.
void test_by_scale(VarianceLine& tested, const VarianceLine& residual, const Fit& fit) {
  if (fit.is_exact()) return;
  if (!fit.estimate().has_known_scale()) return test_against(tested, residual);
  if (tested.degrees_of_freedom > 0 && tested.sum_of_squares >= 0)
    tested.p = chi_squared_upper(tested.sum_of_squares, tested.degrees_of_freedom);
}

VarianceTable computed_table(const Fit& fit) {
  const bool constant = fit.model().has_constant();
  const auto n = static_cast<double>(fit.size());
  const auto p = static_cast<double>(fit.estimate().free_parameters());
  VarianceTable table;
  table.residual = line("residual", fit.chi_squared(), fit.degrees_of_freedom());
  double explained = 0;
  for (const int j : fit.term_order()) {
    if (constant && j == fit.model().constant_index()) continue;
    const double effect = fit.effects()[j];
    explained += effect * effect;
    table.sequential.push_back(line(fit.estimate().parameter_names()[static_cast<std::size_t>(j)], effect * effect, 1));
    test_by_scale(table.sequential.back(), table.residual, fit);
  }
  // Of a model that is not linear the parts do not belong to terms, and their ratio has no F distribution.
  const bool linear = fit.model().is_linear();
  if (!linear) explained = fit.total_sum_of_squares() - fit.chi_squared();
  table.explained = line("explained", explained, constant ? p - 1 : p);
  if (linear) test_by_scale(table.explained, table.residual, fit);
  // What the part that was not fitted leaves of the sum about the mean, or adds to it: it has no degrees of freedom.
  if (fit.model().has_known_part())
    table.known = line("known part", fit.total_sum_of_squares() - explained - fit.chi_squared(), not_a_number);
  table.total = line("total", fit.total_sum_of_squares(), fit.model().is_judged_about_the_mean() ? n - 1 : n);
  table.total.mean_square = not_a_number;
  return table;
}

std::optional<LackOfFit> computed_lack_of_fit(const Fit& fit) {
  if (fit.is_counted()) return std::nullopt;
  const Observations& left = fit.left_side_observations();
  const detail::Weights weights(left);
  struct Group {
    double weights = 0;
    double mean = 0;
    double squares = 0;
  };
  const detail::Places places(left);
  const auto n = static_cast<double>(fit.size());
  const auto p = static_cast<double>(fit.estimate().free_parameters());
  const auto levels = static_cast<double>(places.size());
  if (levels == n || levels <= p || fit.residuals_are_rounding()) return std::nullopt;
  double pure = 0;
  for (std::size_t k = 0; k < places.size(); ++k) {
    Group group;
    for (const Index i : places.rows_at(k)) {
      const double u = weights.size(i);
      const double w = 1 / (u * u);
      const double distance = left.responses()[i] - group.mean;
      group.weights += w;
      group.mean += w / group.weights * distance;
      group.squares += w * distance * (left.responses()[i] - group.mean);
    }
    pure += group.squares;
  }
  LackOfFit result{line("lack of fit", std::max(0.0, fit.chi_squared() - pure), levels - p),
                   line("pure error", pure, n - levels)};
  VarianceLine scale = result.pure_error;
  scale.mean_square = detail::PureErrorScale(fit, levels).of(scale.mean_square);
  test_against(result.lack_of_fit, scale);
  return result;
}

}  // namespace

VarianceTable variance_table(const Fit& fit) {
  return detail::remembered<VarianceTable>(fit, [&fit] { return computed_table(fit); });
}

std::optional<LackOfFit> lack_of_fit(const Fit& fit) {
  return detail::remembered<std::optional<LackOfFit>>(fit, [&fit] { return computed_lack_of_fit(fit); });
}

}  // namespace truecurve
