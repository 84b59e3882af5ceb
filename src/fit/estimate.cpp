// Look-ups on an estimate.
#include <truecurve/base/distributions.hpp>
#include <truecurve/base/error.hpp>
#include <truecurve/base/numeric.hpp>
#include <truecurve/fit/estimate.hpp>

#include "../base/dense.hpp"
#include "../base/matrices.hpp"
#include "../model/model_data.hpp"
#include "../model/unit_rules.hpp"
#include "estimate_parts.hpp"

#include <algorithm>
#include <cmath>

#include <fmt/format.h>
#include <fmt/ranges.h>

namespace truecurve {

std::string end_text(const OpenEnd& end) {
  const double unit = std::pow(10, std::floor(std::log10(std::abs(end.bound))) - 1);
  const double outer = (end.upwards ? std::floor(end.bound / unit) : std::ceil(end.bound / unit)) * unit;
  return fmt::format("at {} {}", end.upwards ? "least" : "most", rounded(outer, 2));
}

const Model& Estimate::model() const noexcept { return parts_->model; }
const Vector& Estimate::parameters() const noexcept { return parts_->parameters; }
const Vector& Estimate::standard_uncertainties() const noexcept { return parts_->standard_uncertainties; }
double Estimate::degrees_of_freedom() const noexcept { return parts_->degrees_of_freedom; }
UncertaintyBasis Estimate::basis() const noexcept { return parts_->basis; }
double Estimate::scale() const noexcept { return parts_->scale; }
const Quantity& Estimate::response() const noexcept { return parts_->response; }
const std::vector<Quantity>& Estimate::predictors() const noexcept { return parts_->predictors; }
const std::vector<Range>& Estimate::ranges() const noexcept { return parts_->ranges; }
const std::vector<Range>& Estimate::limits() const noexcept { return parts_->limits; }
const std::optional<OpenEnd>& Estimate::open_end() const noexcept { return parts_->open_end; }
const ObservationModel& Estimate::observation_model() const noexcept { return parts_->observation_model; }
const Scatter& Estimate::new_observation() const noexcept { return parts_->new_observation; }

bool Estimate::is_open(std::size_t parameter) const noexcept {
  return parts_->open_end && static_cast<std::size_t>(parts_->open_end->parameter) == parameter;
}

std::size_t Estimate::index_of(std::string_view parameter) const {
  const std::vector<std::string>& names = parameter_names();
  const auto at = std::find(names.begin(), names.end(), parameter);
  if (at == names.end()) {
    throw Error({.code = ErrorCode::unknown_name,
                 .message = fmt::format("the model has no parameter '{}'", parameter),
                 .subject = std::string(parameter),
                 .remedy = fmt::format("its parameters are: {}", fmt::join(names, ", "))});
  }
  return static_cast<std::size_t>(at - names.begin());
}

Matrix Estimate::covariance() const {
  const auto u = as_eigen(parts_->standard_uncertainties);
  return parts_->correlation.cwiseProduct(u * u.transpose());
}

double Estimate::standard_uncertainty_along(const Vector& gradient) const {
  if (gradient.size() != parts_->standard_uncertainties.size()) {
    throw Error({.code = ErrorCode::bad_argument,
                 .message = fmt::format("the estimate has {}, and the gradient is by {}",
                                        plural(parts_->standard_uncertainties.size(), "parameter"), gradient.size()),
                 .subject = "gradient",
                 .value = fmt::format("{}", gradient.size()),
                 .remedy = "give one derivative for every parameter, in the order of parameter_names()"});
  }
  const VectorXd parts = as_eigen(gradient).cwiseProduct(as_eigen(parts_->standard_uncertainties));
  const double largest = parts.cwiseAbs().maxCoeff();
  if (largest == 0) return 0;
  if (!std::isfinite(largest)) return not_a_number;
  const VectorXd scaled = parts / largest;
  return largest * std::sqrt(std::max(0.0, scaled.dot(parts_->correlation * scaled)));
}

detail::UncertaintiesAndCorrelation detail::taken_apart(const MatrixXd& covariance) {
  detail::UncertaintiesAndCorrelation made{covariance.diagonal().cwiseSqrt(), covariance};
  const VectorXd& u = made.standard_uncertainties;
  for (Eigen::Index i = 0; i < covariance.rows(); ++i) {
    for (Eigen::Index j = 0; j < covariance.cols(); ++j) {
      if (u[i] == 0 || u[j] == 0) {
        made.correlation(i, j) = 0;
      } else {
        made.correlation(i, j) = i == j && u[i] > 0 ? 1 : covariance(i, j) / u[i] / u[j];
      }
    }
  }
  return made;
}

detail::UncertaintiesAndCorrelation detail::taken_apart(const MatrixXd& root, double scale) {
  const Eigen::Index p = root.rows();
  VectorXd lengths(p);
  MatrixXd directions = root;
  for (Eigen::Index j = 0; j < p; ++j) {
    lengths[j] = root.row(j).stableNorm();
    if (lengths[j] > 0) directions.row(j) /= lengths[j];
  }
  detail::UncertaintiesAndCorrelation made{scale * lengths, detail::times_own_transpose(directions)};
  for (Eigen::Index j = 0; j < p; ++j) {
    if (lengths[j] > 0) made.correlation(j, j) = 1;
  }
  return made;
}

bool Estimate::is_at_limit(std::size_t parameter) const noexcept {
  if (parameter >= parts_->limits.size()) return false;
  const Range& limits = parts_->limits[parameter];
  const double value = parts_->parameters[parameter];
  return value <= limits.low || value >= limits.high;
}

std::size_t Estimate::free_parameters() const noexcept {
  std::size_t count = 0;
  for (std::size_t j = 0; j < parts_->parameters.size(); ++j) count += is_at_limit(j) ? 0 : 1;
  return count;
}

const detail::UnitRules& detail::unit_rules_of(const Estimate& estimate) {
  // Kept by the parts, which live as long as the estimate.
  return *parts_of(estimate).unit_rules.get([&estimate] {
    return std::make_shared<const UnitRules>(estimate.model(), estimate.response(), estimate.predictors());
  });
}

std::string Estimate::unit(std::size_t parameter) const {
  const std::vector<std::string>& names = parameter_names();
  if (parameter >= names.size()) {
    throw Error({.code = ErrorCode::bad_argument,
                 .message = fmt::format("there is no parameter {}: the estimate has {}, counted from 0", parameter,
                                        names.size()),
                 .subject = "unit",
                 .value = fmt::format("{}", parameter),
                 .remedy = "give an index below their number"});
  }
  return detail::unit_rules_of(*this).of_parameter(names[parameter]).unit;
}

std::vector<std::string> unit_remarks(const Estimate& estimate) {
  const detail::UnitRules& rules = detail::unit_rules_of(estimate);
  if (!rules.are_stated()) return {};
  if (!rules.contradiction().empty()) {
    return {fmt::format("The parameters have no units, as those of the columns do not fit the formula: {}.",
                        rules.contradiction())};
  }
  std::vector<std::string> free;
  std::vector<std::string> remarks;
  for (const std::string& name : estimate.parameter_names()) {
    const detail::FoundUnit found = rules.of_parameter(name);
    if (found.is_determined) continue;
    if (found.exponent.empty()) {
      free.push_back(name);
    } else {
      remarks.push_back(fmt::format("The unit of {} depends on the value of {}.", name, found.exponent));
    }
  }
  if (!free.empty()) {
    const std::string last = free.back();
    free.pop_back();
    remarks.push_back(fmt::format("The units of the columns do not determine {} of {}{}{}.",
                                  free.empty() ? "that" : "those", fmt::join(free, ", "), free.empty() ? "" : " and ",
                                  last));
  }
  return remarks;
}

double Estimate::coverage_factor(Level level) const {
  const double p = 0.5 + level / 2;
  if (has_known_scale()) return normal_quantile(p);
  return degrees_of_freedom() > 0 ? student_t_quantile(p, degrees_of_freedom()) : not_a_number;
}

double Estimate::region_factor(Level level, double count) const {
  if (has_known_scale()) return std::sqrt(chi_squared_quantile(level, count));
  return degrees_of_freedom() > 0 ? std::sqrt(count * f_quantile(level, count, degrees_of_freedom())) : not_a_number;
}

std::vector<std::string> limit_remarks(const Estimate& estimate) {
  std::vector<std::string> remarks;
  for (std::size_t j = 0; j < estimate.parameters().size(); ++j) {
    const std::string& name = estimate.parameter_names()[j];
    const double value = estimate.parameters()[j];
    if (estimate.is_open(j)) {
      remarks.push_back(
          fmt::format("{} is {} and held at {:.3g}: uncertainties and intervals hold only for that value.", name,
                      end_text(*estimate.open_end()), value));
    } else if (estimate.is_at_limit(j)) {
      remarks.push_back(
          fmt::format("{} is held at its limit {}: uncertainties and intervals hold only if it truly lies there.", name,
                      shortest(value)));
    }
  }
  return remarks;
}

}  // namespace truecurve
