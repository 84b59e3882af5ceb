// Whether one curve is a special case of another, and whether the data call for the larger one.
//
// Example:
//     const auto points = truecurve::Observations::of({1, 2, 3, 4, 5}, {3.1, 4.9, 7.2, 8.8, 11.1});
//     const auto line = truecurve::fit(truecurve::shape_model("line"), points);
//     const auto square = truecurve::fit(truecurve::shape_model("polynomial(2)"), points);
//     ASSERT_TRUE(truecurve::is_special_case(line, square));
//     EXPECT_FALSE(truecurve::is_special_case(square, line));
//     EXPECT_GT(truecurve::nested_test(line, square).p, 0.05);
#pragma once

#include <truecurve/fit/fit.hpp>

#include <string_view>

namespace truecurve {

/// Whether every curve of the smaller model is one of the larger, which has more parameters. Decided from the models,
/// not from the rows: of two linear models each term of the smaller is a combination of those of the larger (tried at
/// 64 points within the range of the data, where the models have terms that differ they differ there); of any models
/// the smaller is the larger with parameters held (by the user, or at 0 where they enter linearly), whatever its
/// parameters are called. A limit (exponential in logistic) is no special case. The left sides must be the same. Where
/// parameters of the larger were given limits, the smaller fitted curve must lie inside them. False for models given as
/// C++ code, which can't be looked into. Throws no Error of its own.
[[nodiscard]] bool is_special_case(const Fit& smaller, const Fit& larger);

/// The test of the hypothesis that the smaller curve is the true one.
struct NestedTest {
  enum class Kind {
    f,            ///< ((chi²_s - chi²_l)/(p_l - p_s)) / (chi²_l/dof_l), for scatter
    chi_squared,  ///< chi²_s - chi²_l, for stated uncertainties
  } kind = Kind::f;
  double statistic = not_a_number;
  double added = 0;                   ///< parameters that the larger curve has more: degrees of freedom
  double denominator = not_a_number;  ///< degrees of freedom of the larger fit; `f` only
  double p = not_a_number;            ///< how often chance gives as much where the smaller curve is true
};

/// Requires fits of the same rows. Exact for linear models with known weights, approximate for others. Weights that
/// follow from the curve are those of the smaller, which is true under the hypothesis: the larger is fitted with them
/// once more. NaN where the larger fit leaves no degrees of freedom. Source: Draper and Smith (1998), 6.1; Bates and
/// Watts (1988), 3.10. Throws Error (bad_argument) where the rows, their responses or the kinds of response differ.
[[nodiscard]] NestedTest nested_test(const Fit& smaller, const Fit& larger);

/// "F", "chi-squared".
[[nodiscard]] std::string_view name(NestedTest::Kind kind) noexcept;

}  // namespace truecurve
