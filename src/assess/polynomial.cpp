// From Chebyshev's columns to powers about an origin, by the recurrence of their coefficients.
#include <truecurve/assess/polynomial.hpp>
#include <truecurve/base/error.hpp>

#include "../base/dense.hpp"
#include "../base/matrices.hpp"
#include "../fit/estimate_parts.hpp"
#include "../model/model_data.hpp"

#include <cmath>

#include <fmt/format.h>

namespace truecurve {

using Eigen::Index;

PolynomialAbout polynomial_about(const Estimate& estimate, double origin) {
  const detail::EstimateParts& parts = detail::parts_of(estimate);
  const auto& powers = detail::data_of(parts.model).bound->powers;
  if (powers.empty() || !std::isfinite(origin)) {
    throw Error({.code = ErrorCode::bad_argument,
                 .message = powers.empty()
                                ? fmt::format("'{}' is no polynomial of degree 2 or more", parts.model.text())
                                : fmt::format("an origin must be finite, and this is {}", origin),
                 .subject = "origin",
                 .value = fmt::format("{}", origin),
                 .remedy = powers.empty() ? "fit polynomial(k)" : "give a finite origin"});
  }
  const auto p = static_cast<Index>(powers.size());
  // Other fits than that of least squares work in plain powers of x.
  const bool is_chebyshev = parts.working.half_width > 0;
  const double slope = is_chebyshev ? 1 / parts.working.half_width : 1;
  const double shift = is_chebyshev ? (origin - parts.working.middle) / parts.working.half_width : origin;
  // Column d: the coefficients of T_d(shift + slope z), or of (shift + z)^d, by powers of z.
  MatrixXd m = MatrixXd::Zero(p, p);
  m(0, 0) = 1;
  m(0, 1) = shift;
  m(1, 1) = slope;
  for (Index d = 2; d < p; ++d) {
    const double factor = is_chebyshev ? 2 : 1;
    m.col(d) = factor * shift * m.col(d - 1);
    if (is_chebyshev) m.col(d) -= m.col(d - 2);
    m.col(d).tail(p - 1) += factor * slope * m.col(d - 1).head(p - 1);
  }
  // The working columns carry centres: T_d - c_d for d > 0.
  VectorXd theta(p);
  MatrixXd k(p, p);
  double constant = 0;
  Eigen::RowVectorXd constant_row = Eigen::RowVectorXd::Zero(p);
  for (Index j = 0; j < p; ++j) {
    const Index d = powers[static_cast<std::size_t>(j)];
    theta[d] = parts.working.parameters[j];
    k.row(d) = parts.working.inverse_factor.row(j);
    if (d == 0) continue;
    constant += theta[d] * parts.working.centre[j];
    constant_row += parts.working.centre[j] * k.row(d);
  }
  theta[0] -= constant;
  k.row(0) -= constant_row;
  const detail::UncertaintiesAndCorrelation uncertain = detail::taken_apart(detail::product(m, k), parts.scale);
  const VectorXd& u = uncertain.standard_uncertainties;
  return {origin, m * theta, u, uncertain.correlation.cwiseProduct(u * u.transpose())};
}

}  // namespace truecurve
