// The errors of curves.
#include "curve_faults.hpp"

#include <truecurve/base/error.hpp>

#include "../base/matrices.hpp"
#include "small_triangle.hpp"

#include <algorithm>
#include <cmath>

#include <fmt/format.h>
#include <fmt/ranges.h>

namespace truecurve::detail {
namespace {

using Eigen::Index;

constexpr double negligible_share = 1e-6;  // of a parameter in a direction that does not matter

// Calls use(row, output) for every value (output 0) and derivative (1 and up) that is not finite, row by row.
template <typename Use>
void for_each_not_finite(const BoundModel& bound, const Observations& observations, const VectorXd& theta, Use use) {
  Program::Workspace work;
  std::vector<double> memory((bound.parameters.size() + 1) * block_rows);
  std::vector<double*> outputs;
  for (std::size_t k = 0; k <= bound.parameters.size(); ++k) outputs.push_back(memory.data() + k * block_rows);
  for (std::size_t start = 0; start < observations.size(); start += block_rows) {
    std::vector<const double*> variables;
    for (std::size_t k = 0; k < observations.predictors().size(); ++k)
      variables.push_back(observations.predictor(k).data() + start);
    const std::size_t rows = std::min(block_rows, observations.size() - start);
    bound.run_jacobian(variables, rows, {theta.data(), static_cast<std::size_t>(theta.size())}, outputs, work);
    for (std::size_t i = 0; i < rows; ++i) {
      for (std::size_t k = 0; k < outputs.size(); ++k) {
        if (!std::isfinite(outputs[k][i])) use(start + i, k);
      }
    }
  }
}

std::string listed(const std::vector<std::string>& names) {
  std::string text;
  for (std::size_t i = 0; i < names.size(); ++i)
    text += (i == 0 ? "" : i + 1 == names.size() ? " and " : ", ") + names[i];
  return text;
}

// "a*b", "a/b", "a + 2*b": what two parameters enter through, from the direction in which the curve stays as it is;
// empty where it is nothing so simple.
std::string combination_of(const std::string& a, const std::string& b, double va, double vb, double a_value,
                           double b_value) {
  constexpr double close = 1e-4;
  const double relative = (va / a_value) / (vb / b_value);
  if (std::abs(relative + 1) < close && std::abs(va + vb) > close * std::abs(va)) return fmt::format("{}*{}", a, b);
  if (std::abs(relative - 1) < close && std::abs(va - vb) > close * std::abs(va)) return fmt::format("{}/{}", a, b);
  const double share = -va / vb;
  const double size = std::abs(share);
  const double times = std::max(size, 1 / size);
  if (!(times < 1000 && std::abs(times - std::round(times)) < close * times)) return "";
  const std::string factor = std::abs(size - 1) < close ? "" : fmt::format("{:.4g}*", size);
  return fmt::format("{} {} {}{}", a, share < 0 ? "-" : "+", factor, b);
}
}  // namespace

void fail_not_finite(const Model& model, const Observations& observations, const SmallVector& theta) {
  const BoundModel& bound = *data_of(model).bound;
  std::string at;
  for (std::size_t j = 0; j < bound.parameters.size(); ++j)
    at += fmt::format("{}{} = {:.6g}", j == 0 ? "" : ", ", bound.parameters[j], theta[static_cast<Index>(j)]);
  for_each_not_finite(bound, observations, theta, [&](std::size_t i, std::size_t output) {
    const auto row = observations.source_rows()[i];
    const std::string what =
        output == 0 ? fmt::format("'{}'", model.text())
                    : fmt::format("the derivative of '{}' by {}", model.text(), bound.parameters[output - 1]);
    throw Error({.code = ErrorCode::not_finite,
                 .message = fmt::format("at the start ({}) {} is not finite in row {}", at, what, row),
                 .subject = fmt::format("row {}", row),
                 .value = at,
                 .remedy = {"start where the model is defined in every row",
                            {Action::give_start},
                            ", keep parameters within limits",
                            {Action::set_limits},
                            ", or leave the row out",
                            {Action::leave_row_out, fmt::format("{}", row)}}});
  });
  throw Error(
      {.code = ErrorCode::not_finite,
       .message = fmt::format("at the start ({}) the residuals of '{}' are too large to be squared", at, model.text()),
       .subject = "start",
       .value = at,
       .remedy = "start closer to the data"});
}

std::string never_finite(const BoundModel& bound, const Observations& observations) {
  if (bound.function) return "";
  constexpr int tries = 10;
  std::vector<int> failures(observations.size(), 0);
  for (const double size : {1.0, 0.3, 3.0, 0.01, 100.0}) {
    for (const double sign : {1.0, -1.0}) {
      VectorXd theta(static_cast<Index>(bound.parameters.size()));
      for (Index j = 0; j < theta.size(); ++j) theta[j] = sign * size * (1 + 0.37 * static_cast<double>(j));
      for_each_not_finite(bound, observations, theta,
                          [&](std::size_t i, std::size_t output) { failures[i] += output == 0 ? 1 : 0; });
    }
  }
  const auto at = std::find(failures.begin(), failures.end(), tries);
  return at == failures.end()
             ? ""
             : fmt::format("; in row {} it never is",
                           observations.source_rows()[static_cast<std::size_t>(at - failures.begin())]);
}

void fail_inseparable(const BoundModel& bound, const SmallMatrix& r, const std::vector<int>& order, Index k,
                      const SmallVector& theta, std::string_view where) {
  SmallVector c = r.col(k).head(k);
  substitute_back(r.data(), static_cast<int>(k), static_cast<int>(r.rows()), c.data());
  const auto name = [&](Index i) {
    return bound.parameters[static_cast<std::size_t>(order[static_cast<std::size_t>(i)])];
  };
  std::vector<Index> others;
  for (Index i = 0; i < k; ++i) {
    if (std::abs(c[i]) * r.col(i).head(i + 1).stableNorm() > negligible_share * r.col(k).head(k + 1).stableNorm())
      others.push_back(i);
  }
  const std::string last = name(k);
  if (others.empty()) {
    throw Error({.code = ErrorCode::rank_deficient,
                 .message = fmt::format("{}'{}' does not matter: changing it leaves the curve as it is in every row",
                                        where, last),
                 .subject = last,
                 .remedy = {fmt::format("measure where '{}' acts, hold it at a value", last),
                            {Action::hold_parameter, last},
                            ", or write the model without it"}});
  }
  std::vector<std::string> involved;
  std::vector<std::string> moves;
  // In steps that are small for every one of them, so that what is told of the tangent plane holds on the curve.
  constexpr double small = 1e-6;
  const double last_value = std::abs(theta[order[static_cast<std::size_t>(k)]]);
  double step = last_value > 0 ? small * last_value : small;
  for (const Index i : others) {
    involved.push_back(name(i));
    const double value = std::abs(theta[order[static_cast<std::size_t>(i)]]);
    if (value > 0) step = std::min(step, small * value / std::abs(c[i]));
  }
  bool has_moves = step > 0;
  for (const Index i : others) {
    has_moves = has_moves && std::isfinite(c[i] * step);
    moves.push_back(fmt::format("{} by {:.4g}", name(i), -c[i] * step));
  }
  involved.push_back(last);
  moves.push_back(fmt::format("{} by {:.4g}", last, step));
  const std::string names = listed(involved);
  const Index other = others.front();
  const std::string combination =
      others.size() > 1 ? ""
                        : combination_of(name(other), last, -c[other], 1, theta[order[static_cast<std::size_t>(other)]],
                                         theta[order[static_cast<std::size_t>(k)]]);
  const std::string what = !combination.empty() ? fmt::format("the curve depends on them only through {}", combination)
                           : has_moves ? fmt::format("changing {} together leaves the curve as it is", listed(moves))
                                       : "changing them together leaves the curve as it is";
  throw Error({.code = ErrorCode::rank_deficient,
               .message = fmt::format("these data can't determine {} separately: {}{}", names, where, what),
               .subject = names,
               .remedy = {"hold one of them at a value",
                          {Action::hold_parameter, last},
                          ", write the model with their combination, or measure where they act differently"}});
}

}  // namespace truecurve::detail
