// Lays the direct and the linearized fit of one curve side by side.
#include <truecurve/assess/checks.hpp>
#include <truecurve/assess/quality.hpp>
#include <truecurve/base/error.hpp>
#include <truecurve/compare/routes.hpp>
#include <truecurve/model/shapes.hpp>

#include "../base/dense.hpp"
#include "../base/matrices.hpp"
#include "../fit/column_evaluator.hpp"
#include "../fit/estimate_parts.hpp"
#include "../fit/left_side.hpp"
#include "../fit/refit.hpp"

#include <algorithm>
#include <cmath>

#include <fmt/format.h>

namespace truecurve {
namespace {

using Eigen::Index;

constexpr double same_curve = 1e-6;
// AICc this far apart speaks for one of the two; Burnham and Anderson (2002), 2.6.
constexpr double telling = 2;
constexpr double noticeable = 0.05;

// Derivatives by the parameters at the rows, on the scale of the left side.
MatrixXd derivatives(const Fit& fit) {
  const detail::WorkingForm& working = detail::parts_of(fit.estimate()).working;
  const auto p = working.parameters.size();
  MatrixXd result(static_cast<Index>(fit.size()), p);
  detail::for_each_block(*detail::data_of(fit.model()).bound, working, fit.observations(),
                         [&](std::size_t start, std::size_t rows, const double* columns) {
                           for (std::size_t i = 0; i < rows; ++i) {
                             for (Index j = 0; j < p; ++j)
                               result(static_cast<Index>(start + i), j) =
                                   columns[static_cast<std::size_t>(j) * detail::block_rows + i];
                           }
                         });
  return result;
}

// The direct model at the linearized fit's curve, or nothing where it can't follow it.
std::optional<Fit> direct_at(const Fit& direct, const Fit& linearized) {
  const VectorXd curve = as_eigen(linearized.fitted_response());
  if (!curve.allFinite()) return std::nullopt;
  const Observations exact = direct.observations().with_response(curve, {});
  const FitOptions near{.starts = detail::starts_at(direct.model(), as_eigen(direct.estimate().parameters()))};
  for (const FitOptions& options : {near, FitOptions()}) {
    try {
      Fit made = fit(direct.model(), exact, options);
      const double away = (as_eigen(made.fitted_response()) - curve).cwiseAbs().maxCoeff();
      if (away <= same_curve * curve.cwiseAbs().maxCoeff()) return made;
    } catch (const Error&) {
      continue;  // a model that can't be fitted to that curve is another curve
    }
  }
  return std::nullopt;
}

// The linearized route's standard uncertainties in the parameters of the direct model.
VectorXd uncertainties_in(const Fit& same, const Fit& linearized) {
  const Index p = as_eigen(same.estimate().parameters()).size();
  if (detail::parts_of(linearized.estimate()).working.half_width != 0) return VectorXd::Constant(p, not_a_number);
  const VectorXd slope = detail::response_at(*detail::data_of(linearized.model()).bound, as_eigen(linearized.fitted()),
                                             detail::predictor_pointers(linearized.observations()))
                             .slope;
  const MatrixXd change = detail::least_squares(derivatives(same), slope.asDiagonal() * derivatives(linearized));
  VectorXd u(p);
  for (Index j = 0; j < p; ++j) u[j] = linearized.estimate().standard_uncertainty_along(change.row(j).transpose());
  return u;
}

std::string spread_sentence(const char* route, double p) {
  if (std::isnan(p)) return "";
  return p < noticeable ? fmt::format(" The scatter of the {} route's residuals changes with the fitted value ({}).",
                                      route, p_equals(p))
                        : fmt::format(" No change in the scatter of the {} route's residuals was detected ({}).", route,
                                      p_equals(p));
}

std::string verdict_of(const Fit& direct, const RoutePair& pair) {
  const std::string& y = direct.observations().response().name;
  if (pair.direct_scatter == pair.linearized_scatter) {
    return fmt::format(
        "Both assume a scatter of {} that is {}: they differ only because the transform is nonlinear over it. Prefer "
        "the "
        "direct route.",
        y, pair.direct_scatter);
  }
  const std::string spreads =
      spread_sentence("direct", pair.direct_spread_p) + spread_sentence("linearized", pair.linearized_spread_p);
  if (!(std::abs(pair.delta_aicc) > telling)) {
    return fmt::format("The data do not decide between the two assumptions{}; what is known of the measurement must.{}",
                       std::isnan(pair.delta_aicc)
                           ? ""
                           : fmt::format(" (AICc of the measured {} differs by {:.1f})", y, std::abs(pair.delta_aicc)),
                       spreads);
  }
  const bool for_direct = pair.delta_aicc > 0;
  return fmt::format("The data favour the {} route, a scatter {}: AICc of the measured {} is lower by {:.1f}.{}",
                     for_direct ? "direct" : "linearized", for_direct ? pair.direct_scatter : pair.linearized_scatter,
                     y, std::abs(pair.delta_aicc), spreads);
}

// The weights of the measured response that follow from what is assumed of its scatter.
std::string weights_of(const Fit& fit) {
  const std::string scatter = assumed_scatter(fit);
  constexpr std::string_view head = "proportional to ";
  if (scatter == "as stated") return fmt::format("weights 1/u({})^2", fit.observations().response().name);
  if (!scatter.starts_with(head)) return "equal weights";
  const std::string size = scatter.substr(head.size());
  return is_plain_name(size) ? fmt::format("weights 1/{}^2", size) : fmt::format("weights 1/({})^2", size);
}

}  // namespace

std::string assumed_scatter(const Fit& fit) {
  if (fit.is_counted()) return "as counted";
  if (fit.observations().has_uncertainties()) return "as stated";
  const std::string& y = fit.observations().response().name;
  const auto to_power = [&y](double power) {
    return power == 0   ? std::string("the same for all rows")
           : power == 1 ? "proportional to " + y
                        : fmt::format("proportional to {}^{}", y, shortest(power));
  };
  if (fit.spread().is_given()) return to_power(fit.spread().power());
  if (!fit.model().is_transformed()) return to_power(0);
  return fit.model().implied_scatter() == "1" ? to_power(0) : "proportional to " + fit.model().implied_scatter();
}

std::optional<RoutePair> explain_routes(const Fit& direct, const Fit& linearized) {
  if (direct.is_counted() || linearized.is_counted()) return std::nullopt;  // one likelihood, whatever the link
  const bool comparable = !direct.model().is_transformed() && linearized.model().is_transformed() &&
                          direct.model().parameters().size() == linearized.model().parameters().size() &&
                          direct.model().predictors() == linearized.model().predictors() &&
                          direct.model().response() == linearized.model().response();
  if (!comparable) return std::nullopt;
  const std::optional<Fit> same = direct_at(direct, linearized);
  if (!same) return std::nullopt;
  RoutePair pair{.direct_scatter = assumed_scatter(direct),
                 .linearized_scatter = assumed_scatter(linearized),
                 .direct_weights = weights_of(direct),
                 .linearized_weights = weights_of(linearized)};
  const VectorXd u = uncertainties_in(*same, linearized);
  for (Index j = 0; j < as_eigen(same->estimate().parameters()).size(); ++j) {
    pair.parameters.push_back({direct.model().parameters()[static_cast<std::size_t>(j)],
                               direct.estimate().parameters()[j], direct.estimate().standard_uncertainties()[j],
                               same->estimate().parameters()[j], u[j]});
  }
  pair.delta_aicc = quality_of(linearized).aicc - quality_of(direct).aicc;
  pair.direct_spread_p = check(direct, CheckKind::equal_variance).p;
  pair.linearized_spread_p = check(linearized, CheckKind::equal_variance).p;
  pair.verdict = verdict_of(direct, pair);
  return pair;
}

}  // namespace truecurve
