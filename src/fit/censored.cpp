// Maximum likelihood with limits among the responses.
#include <truecurve/base/distributions.hpp>
#include <truecurve/base/error.hpp>
#include <truecurve/fit/censored.hpp>
#include <truecurve/fit/fit.hpp>

#include "../base/dense.hpp"
#include "../base/matrices.hpp"
#include "../base/names.hpp"
#include "bind.hpp"
#include "censored_likelihood.hpp"
#include "column_evaluator.hpp"
#include "estimate_parts.hpp"

#include <algorithm>
#include <array>
#include <cmath>
#include <numbers>
#include <utility>

#include <fmt/format.h>

namespace truecurve {
namespace {

using Eigen::Index;

constexpr std::array<std::string_view, 3> distribution_names = {"normal", "lognormal", "weibull"};
constexpr double half_log_two_pi = 0.91893853320467274178;
// A scatter below this share of the responses' own spread is none.
constexpr double no_scatter = 1e-10;

bool is_logarithmic(Distribution distribution) { return distribution != Distribution::normal; }

[[noreturn]] void fail_censored(ErrorCode code, const std::string& message, const std::string& subject,
                                const Advice& remedy) {
  throw Error({.code = code, .message = message, .subject = subject, .remedy = remedy});
}

// A model of the response, or of its logarithm where that is what scatters.
void require_left_side(const Model& model, Distribution distribution) {
  if (!model.is_transformed()) return;
  const bool is_logarithm = model.left_side() == "ln(" + model.response() + ")";
  if (is_logarithm && is_logarithmic(distribution)) return;
  fail_censored(
      ErrorCode::bad_argument,
      fmt::format("'{}' on the left side does not go with a {} distribution", model.left_side(), name(distribution)),
      "left side",
      is_logarithm ? Advice{"a logarithm that scatters normally is a response that scatters lognormally: choose that "
                            "distribution",
                            {Action::choose_distribution, "lognormal"}}
                   : fmt::format("write the equation for '{}' itself", model.response()));
}

// The curve's parameters by least squares, the limits taken as measured.
VectorXd first_parameters(const Model& model, const CensoredRows& data, const CensoredOptions& options) {
  FitOptions how{.starts = options.starts, .events_as_numbers = true};  // what is held the model knows
  const Observations plain = data.rows.with_response(data.rows.responses(), {});
  if (is_logarithmic(options.distribution) && !model.is_transformed()) {
    how.spread = Spread::proportional();
    try {
      return as_eigen(fit(model, plain, how).estimate().parameters());
    } catch (const Error&) {
      how.spread = {};  // weights that the curve gives no row: a first idea is got without them
    }
  }
  return as_eigen(fit(model, plain, how).estimate().parameters());
}

Estimate estimate_of(const Model& model, const CensoredRows& data, const VectorXd& parameters,
                     const MatrixXd& covariance) {
  const detail::UncertaintiesAndCorrelation known = detail::taken_apart(covariance);
  detail::EstimateParts parts{
      .model = model,
      .parameters = parameters,
      .standard_uncertainties = known.standard_uncertainties,
      .correlation = known.correlation,
      .degrees_of_freedom = static_cast<double>(data.rows.size()) - static_cast<double>(parameters.size()) - 1,
      .basis = UncertaintyBasis::stated,
      .scale = 1,
      .response = data.rows.response(),
      .predictors = {data.rows.predictors().begin(), data.rows.predictors().end()}};
  for (std::size_t k = 0; k < parts.predictors.size(); ++k)
    parts.ranges.push_back({as_eigen(data.rows.predictor(k)).minCoeff(), as_eigen(data.rows.predictor(k)).maxCoeff()});
  parts.working = {
      .centre = VectorXd::Zero(parameters.size()),
      .parameters = parameters,
      .inverse_factor = known.standard_uncertainties.asDiagonal() * detail::cholesky_factor(known.correlation)};
  return detail::made_of(std::move(parts));
}

}  // namespace

std::string_view name(Distribution distribution) noexcept {
  return detail::name_among(distribution_names, distribution);
}

double standard_quantile(Distribution distribution, double share) {
  const double of_normal = normal_quantile(share);  // which looks at the share
  return distribution == Distribution::weibull ? std::log(-std::log1p(-share)) : of_normal;
}

namespace detail {

StandardTerm standard_term(Distribution distribution, Censoring censoring, double z) {
  if (distribution == Distribution::weibull) {
    const double w = std::exp(z);
    switch (censoring) {
      case Censoring::none: return {z - w, 1 - w, -w};
      case Censoring::above: return {-w, -w, -w};
      case Censoring::below: break;
    }
    const double b = w < 700 ? w / std::expm1(w) : 0;
    return {std::log(-std::expm1(-w)), b, b * (1 - w - b)};
  }
  if (censoring == Censoring::none) return {-z * z / 2 - half_log_two_pi, -z, -1};
  // The hazard h = density/probability; of a limit above, the mirror image.
  const double towards = censoring == Censoring::above ? -z : z;
  const double log_probability = log_normal_probability(towards);
  const double h = std::exp(-towards * towards / 2 - half_log_two_pi - log_probability);
  return {log_probability, censoring == Censoring::above ? -h : h, -h * (h + towards)};
}

CensoredLikelihood::CensoredLikelihood(Model model, const CensoredRows& data, Distribution distribution)
    : model_(std::move(model)), data_(data), distribution_(distribution), even_(as_eigen(data.rows.responses())) {
  if (!is_logarithmic(distribution)) return;
  for (Index i = 0; i < even_.size(); ++i) {
    if (!(even_[i] > 0))
      fail_censored(ErrorCode::unsuitable_row,
                    fmt::format("row {}: {} = {} is not above 0, and a {} distribution is",
                                data.rows.source_rows()[static_cast<std::size_t>(i)], data.rows.response().name,
                                shortest(even_[i]), name(distribution)),
                    data.rows.response().name, "correct it, leave the row out, or choose the normal distribution");
    even_[i] = std::log(even_[i]);
    if (data.of[static_cast<std::size_t>(i)] == Censoring::none) logarithms_ += even_[i];
  }
}

EvenCurve CensoredLikelihood::curve(const VectorXd& parameters, const Observations& places) const {
  const BoundModel& bound = *detail::data_of(model_).bound;
  const Index p = parameters.size();
  EvenCurve result{VectorXd(static_cast<Index>(places.size())), MatrixXd(static_cast<Index>(places.size()), p)};
  const detail::WorkingForm working{.centre = VectorXd::Zero(p), .parameters = parameters};
  const bool takes_logarithm = is_logarithmic(distribution_) && !model_.is_transformed();
  for_each_block(bound, working, places, [&](std::size_t start, std::size_t rows, const double* columns) {
    for (std::size_t i = 0; i < rows; ++i) {
      const auto row = static_cast<Index>(start + i);
      double value = columns[static_cast<std::size_t>(p) * block_rows + i];
      for (Index j = 0; j < p; ++j) {
        result.gradient(row, j) = columns[static_cast<std::size_t>(j) * block_rows + i];
        value += parameters[j] * result.gradient(row, j);
      }
      if (takes_logarithm) {
        result.gradient.row(row) /= value;
        value = value > 0 ? std::log(value) : not_a_number;
      }
      result.value[row] = value;
    }
  });
  return result;
}

CensoredLikelihood::At CensoredLikelihood::at(const VectorXd& joint) {
  ++evaluations_;
  const Index p = joint.size() - 1;
  const double s = std::exp(joint[p]);
  At result;
  const EvenCurve c = curve(joint.head(p), data_.rows);
  if (!c.value.allFinite() || !c.gradient.allFinite() || !(s > 0) || !std::isfinite(s)) return result;
  result.gradient = VectorXd::Zero(p + 1);
  result.hessian = MatrixXd::Zero(p + 1, p + 1);
  double sum = logarithms_;
  VectorXd by(p + 1);  // of z
  for (Index i = 0; i < even_.size(); ++i) {
    const Censoring censoring = data_.of[static_cast<std::size_t>(i)];
    const double z = (even_[i] - c.value[i]) / s;
    const StandardTerm term = standard_term(distribution_, censoring, z);
    const double measured = censoring == Censoring::none ? 1 : 0;
    sum -= term.value - measured * joint[p];
    by.head(p) = -c.gradient.row(i).transpose() / s;
    by[p] = -z;
    result.gradient -= term.first * by;
    result.gradient[p] += measured;
    result.hessian -= term.second * by * by.transpose();
    // z bends with ln s: d²z/(dη d ln s) = 1/s, d²z/(d ln s)² = z.
    result.hessian.col(p).head(p) += term.first * by.head(p);
    result.hessian.row(p).head(p) += term.first * by.head(p).transpose();
    result.hessian(p, p) -= term.first * z;
  }
  result.value = std::isnan(sum) ? infinity : sum;
  return result;
}

MatrixXd CensoredLikelihood::observed_information(const VectorXd& joint, const VectorXd& uncertainties) {
  constexpr double step = 1e-3;  // of an uncertainty: the error is of its square
  MatrixXd information(joint.size(), joint.size());
  for (Index j = 0; j < joint.size(); ++j) {
    const double h = step * uncertainties[j];
    VectorXd up = joint;
    VectorXd down = joint;
    up[j] += h;
    down[j] -= h;
    const At above = at(up);
    const At below = at(down);
    if (!std::isfinite(above.value) || !std::isfinite(below.value))
      return MatrixXd::Constant(joint.size(), joint.size(), not_a_number);
    information.col(j) = (above.gradient - below.gradient) / (up[j] - down[j]);
  }
  return (information + information.transpose()) / 2;
}

namespace {

// What is minimized: the likelihood's negative logarithm (`plain`), and the square of how far the pinned quantity is
// off.
struct Objective {
  double value, plain;
  VectorXd gradient;
  MatrixXd hessian;
};

Objective objective_of(CensoredLikelihood& likelihood, const VectorXd& at, const Pin* pin) {
  CensoredLikelihood::At of = likelihood.at(at);
  Objective result{of.value, of.value, std::move(of.gradient), std::move(of.hessian)};
  if (pin == nullptr || !std::isfinite(of.value)) return result;
  const auto [quantity, slope] = pin->quantity(at);
  if (!std::isfinite(quantity)) {
    result.value = infinity;
    return result;
  }
  const double off = (quantity - pin->value) / pin->uncertainty;
  result.value += off * off / 2;
  result.gradient += off / pin->uncertainty * slope;
  result.hessian += slope * slope.transpose() / (pin->uncertainty * pin->uncertainty);
  return result;
}

}  // namespace

Maximum greatest_likelihood(CensoredLikelihood& likelihood, VectorXd joint, int most_evaluations, const Pin* pin) {
  constexpr double settled = 1e-9;  // of the uncertainties
  constexpr double most_damping = 1e12;
  Objective here = objective_of(likelihood, joint, pin);
  Maximum result{joint, here.plain};
  if (!std::isfinite(here.value)) return result;
  double damping = 0;
  const int last = likelihood.evaluations() + most_evaluations;
  while (likelihood.evaluations() < last) {
    const VectorXd diagonal = here.hessian.diagonal().cwiseAbs();
    const VectorXd scale = (diagonal.array() > 0).select(diagonal, 1.0).cwiseSqrt();
    const MatrixXd scaled = scale.cwiseInverse().asDiagonal() * here.hessian * scale.cwiseInverse().asDiagonal();
    const VectorXd pull = here.gradient.cwiseQuotient(scale);
    const CholeskySolver factor(scaled + damping * MatrixXd::Identity(joint.size(), joint.size()));
    bool better = false;
    if (factor.is_definite()) {
      const VectorXd scaled_step = factor.solve(-pull);
      const double distance = std::sqrt(std::max(0.0, -pull.dot(scaled_step)));  // in uncertainties, undamped
      result.joint = joint;
      result.value = here.plain;
      if (damping == 0 && distance < settled) {
        result.converged = true;
        return result;
      }
      const VectorXd next = joint + scaled_step.cwiseQuotient(scale);
      Objective there = objective_of(likelihood, next, pin);
      // At the last digits the value can't fall any more: the step then is taken where it is small.
      better = there.value < here.value ||
               (distance < 1e-6 && there.value <= here.value + 1e-12 * (1 + std::abs(here.value)));
      if (better) {
        if (damping == 0 && next == joint) {
          result.converged = true;
          return result;
        }
        joint = next;
        here = std::move(there);
        damping = damping < 1e-8 ? 0 : damping / 10;
      } else if (distance < 1e-6 && damping == 0) {
        result.converged = true;
        return result;
      }
    }
    if (!better) {
      damping = std::max(1e-6, 10 * damping);
      if (damping > most_damping) break;
    }
  }
  result.joint = joint;
  result.value = here.plain;
  return result;
}

}  // namespace detail

std::string CensoredFit::scatter_name() const {
  const auto& taken = estimate.parameter_names();
  const bool weibull = distribution == Distribution::weibull;
  const std::string name = weibull ? "k" : "s";
  const bool is_free = std::find(taken.begin(), taken.end(), name) == taken.end();
  return is_free ? name : weibull ? "shape_k" : "scatter_s";
}
double CensoredFit::scatter_value() const { return distribution == Distribution::weibull ? 1 / scatter : scatter; }
double CensoredFit::scatter_uncertainty() const {
  const Index last = joint.size() - 1;
  return scatter_value() * std::sqrt(joint_covariance(last, last));
}

namespace {

void require_rows_for(const Model& model, const CensoredRows& data) {
  if (data.of.size() != data.rows.size())
    fail_censored(
        ErrorCode::bad_argument,
        fmt::format("{} for {} of what is known", plural(data.rows.size(), "row"), plural(data.of.size(), "mark")),
        "censored rows", "give one for each row");
  const std::size_t p = model.parameters().size();
  if (data.count(Censoring::none) == 0)
    fail_censored(ErrorCode::too_few_observations, "no row is measured: all are limits", data.rows.response().name,
                  "wait longer, or measure lower: how the responses scatter can't be seen from limits alone");
  if (data.rows.size() < p + 1)
    fail_censored(
        ErrorCode::too_few_observations,
        fmt::format("{} can't determine {} and the scatter", plural(data.rows.size(), "row"), plural(p, "parameter")),
        data.rows.response().name, "measure more, or choose a curve of fewer parameters");
}

// The inverse of the observed information at the best.
MatrixXd joint_covariance_at(detail::CensoredLikelihood& likelihood, const VectorXd& best) {
  const MatrixXd rough = likelihood.at(best).hessian;
  const VectorXd steps = rough.diagonal().cwiseAbs().cwiseSqrt().cwiseInverse();
  const MatrixXd information = likelihood.observed_information(best, steps);
  const VectorXd scale = information.diagonal().cwiseAbs().cwiseSqrt();
  const detail::CholeskySolver factor(scale.cwiseInverse().asDiagonal() * information *
                                      scale.cwiseInverse().asDiagonal());
  constexpr double least_pivot = 1e-7;
  const bool is_determined = information.allFinite() && factor.is_definite() && factor.smallest_pivot() > least_pivot;
  if (!is_determined)
    fail_censored(
        ErrorCode::rank_deficient,
        "the data do not determine the parameters and the scatter: the likelihood is level, or has no maximum",
        "parameters",
        {"choose a simpler curve, hold a parameter",
         {Action::hold_parameter},
         ", or measure more rows that are no limits"});
  return scale.cwiseInverse().asDiagonal() * factor.inverse() * scale.cwiseInverse().asDiagonal();
}

}  // namespace

CensoredFit fit_censored(const Model& given, const CensoredRows& data, const CensoredOptions& options) {
  const Model model = detail::bound_to(given.with_fixed(options.fixed), data.rows);
  require_left_side(model, options.distribution);
  require_rows_for(model, data);
  const auto p = static_cast<Index>(model.parameters().size());
  detail::CensoredLikelihood likelihood(model, data, options.distribution);
  VectorXd joint(p + 1);
  joint.head(p) = first_parameters(model, data, options);
  const VectorXd curve = likelihood.curve(joint.head(p), data.rows).value;
  if (!curve.allFinite())
    fail_censored(
        ErrorCode::not_finite,
        fmt::format("the curve is not above 0 at every row where least squares begins, and a {} distribution is",
                    name(options.distribution)),
        "curve", {"give starts", {Action::give_start}, ", or choose the normal distribution"});
  const VectorXd residuals = likelihood.even() - curve;
  const double spread = std::max(residuals.norm() / std::sqrt(static_cast<double>(residuals.size())),
                                 1e-3 * (likelihood.even().array() - likelihood.even().mean()).abs().maxCoeff());
  const double size = std::max(likelihood.even().cwiseAbs().maxCoeff(), 1e-300);
  joint[p] = std::log(spread > no_scatter * size ? spread : 0.01 * size);
  detail::Maximum best = detail::greatest_likelihood(likelihood, joint, options.most_evaluations);
  const double s = std::exp(best.joint[p]);
  if (!(s > no_scatter * size))
    fail_censored(ErrorCode::rank_deficient,
                  "the measured rows lie on the curve: there is no scatter, and the likelihood has no "
                  "maximum",
                  "scatter", "fit them by least squares, or measure more");
  const MatrixXd covariance = joint_covariance_at(likelihood, best.joint);
  const double n = static_cast<double>(data.rows.size());
  const double k = static_cast<double>(p) + 1;
  CensoredFit result{.data = data,
                     .distribution = options.distribution,
                     .estimate = estimate_of(model, data, best.joint.head(p), covariance.topLeftCorner(p, p)),
                     .scatter = s,
                     .joint = best.joint,
                     .joint_covariance = covariance,
                     .log_likelihood = -best.value,
                     .converged = best.converged,
                     .evaluations = likelihood.evaluations()};
  result.aic = 2 * k - 2 * result.log_likelihood;
  result.aicc = n - k - 1 > 0 ? result.aic + 2 * k * (k + 1) / (n - k - 1) : not_a_number;
  result.bic = k * std::log(n) - 2 * result.log_likelihood;
  return result;
}

}  // namespace truecurve
