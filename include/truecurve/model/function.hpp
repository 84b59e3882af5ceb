// A model given as C++ code, made ready for the solver. Users call Model::function; this header carries its types.
//
// Example:
//     const auto decay = truecurve::Model::function(
//         {"a", "tau"}, [](double t, auto p) { return p[0] * exp(-t / p[1]); }, {.response = "A", .predictors =
//         {"t"}});
//     EXPECT_EQ(decay.parameters()[1], "tau");
//     EXPECT_TRUE(decay.has_exact_derivatives());
#pragma once

#include <truecurve/model/dual.hpp>

#include <array>
#include <cmath>
#include <concepts>
#include <limits>
#include <memory>
#include <span>
#include <string>
#include <type_traits>
#include <utility>
#include <vector>

namespace truecurve {

/// What a C++ model is called and what its columns are.
struct FunctionNames {
  std::string response = "y";
  std::vector<std::string> predictors = {"x"};
  std::string text{};  ///< how reports write the model; empty: "y = f(x; a, tau)"
};

namespace detail {

/// More parameters than this are refused anyway.
inline constexpr std::size_t most_function_parameters = 63;

/// A model's value in one row, and where `slopes` is not null its derivatives by the parameters.
class RowCode {
 public:
  RowCode() = default;
  RowCode(const RowCode&) = delete;
  RowCode& operator=(const RowCode&) = delete;
  virtual ~RowCode() = default;
  virtual double run(std::span<const double> x, std::span<const double> theta, double* slopes) const = 0;
};
using RowFunction = std::shared_ptr<const RowCode>;

template <typename Callable, typename Scalar>
concept takes_one_predictor = std::is_invocable_v<const Callable&, double, std::span<const Scalar>>;
template <typename Callable, typename Scalar>
concept takes_predictors = std::is_invocable_v<const Callable&, std::span<const double>, std::span<const Scalar>>;
template <typename Callable, typename Scalar>
concept takes = takes_one_predictor<Callable, Scalar> || takes_predictors<Callable, Scalar>;

template <typename Scalar, typename Callable>
Scalar call(const Callable& callable, std::span<const double> x, std::span<const Scalar> theta) {
  if constexpr (takes_one_predictor<Callable, Scalar>) {
    return static_cast<Scalar>(callable(x[0], theta));
  } else {
    return static_cast<Scalar>(callable(x, theta));
  }
}

/// Derivatives by dual numbers, four parameters a pass.
template <typename Callable>
double slopes_by_rule(const Callable& callable, std::span<const double> x, std::span<const double> theta,
                      double* slopes) {
  std::array<Dual, most_function_parameters> numbers;
  for (std::size_t j = 0; j < theta.size(); ++j) numbers[j] = Dual(theta[j]);
  double value = 0;
  for (std::size_t first = 0; first < theta.size(); first += Dual::width) {
    const std::size_t left = theta.size() - first;
    const std::size_t count = left < Dual::width ? left : Dual::width;
    for (std::size_t k = 0; k < count; ++k) numbers[first + k].slope[k] = 1;
    const Dual result = call<Dual>(callable, x, std::span<const Dual>(numbers.data(), theta.size()));
    for (std::size_t k = 0; k < count; ++k) {
      slopes[first + k] = result.slope[k];
      numbers[first + k].slope[k] = 0;
    }
    value = result.value;
  }
  return value;
}

/// Central differences of fourth order with the step h = eps^(1/5) |theta| (theta = 0: eps^(1/5)): truncation and
/// rounding both about eps^(4/5) = 3e-13 of the function's size over the parameter's. Abramowitz and Stegun (1964),
/// 25.3.21.
template <typename Callable>
double slopes_by_differences(const Callable& callable, std::span<const double> x, std::span<const double> theta,
                             double* slopes) {
  constexpr double step = 7.4e-4;  // eps^(1/5)
  std::array<double, most_function_parameters> moved;
  for (std::size_t j = 0; j < theta.size(); ++j) moved[j] = theta[j];
  for (std::size_t j = 0; j < theta.size(); ++j) {
    const double h = step * (theta[j] != 0 ? std::abs(theta[j]) : 1);
    const auto at = [&](double distance) {
      moved[j] = theta[j] + distance;
      return call<double>(callable, x, std::span<const double>(moved.data(), theta.size()));
    };
    slopes[j] = (8 * (at(h) - at(-h)) - (at(2 * h) - at(-2 * h))) / (12 * h);
    moved[j] = theta[j];
  }
  return call<double>(callable, x, theta);
}

template <typename Callable>
class RowCodeOf final : public RowCode {
 public:
  explicit RowCodeOf(Callable callable) : callable_(std::move(callable)) {}
  double run(std::span<const double> x, std::span<const double> theta, double* slopes) const override {
    if (slopes == nullptr) return call<double>(callable_, x, theta);
    if constexpr (takes<Callable, Dual>) {
      return slopes_by_rule(callable_, x, theta, slopes);
    } else {
      return slopes_by_differences(callable_, x, theta, slopes);
    }
  }

 private:
  Callable callable_;
};

template <typename Callable>
RowFunction row_function(Callable callable) {
  return std::make_shared<RowCodeOf<Callable>>(std::move(callable));
}

}  // namespace detail

/// C++ code that can be a curve: called with the predictor as `double`, or with all of them as `std::span<const
/// double>`, and with the parameters as a `std::span<const double>`, it returns a number.
template <typename Callable>
concept CurveCode = detail::takes<Callable, double>;

}  // namespace truecurve
