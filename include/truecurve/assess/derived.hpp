// Quantities derived from the parameters, with their uncertainty: a half-life from a rate, a ratio of two slopes.
//
// Example:
//     const auto points = truecurve::Observations::of({1, 2, 3, 4}, {3.1, 4.9, 7.2, 8.8});
//     const auto line = truecurve::fit(truecurve::shape_model("line"), points);
//     const auto crossing = truecurve::derive(line.estimate(), "x_0 = -a/b", 0.95);
//     EXPECT_NEAR(crossing.value, -line.parameter("a").value / line.parameter("b").value, 1e-14);
#pragma once

#include <truecurve/assess/bands.hpp>
#include <truecurve/base/level.hpp>
#include <truecurve/fit/estimate.hpp>

#include <string>
#include <string_view>
#include <vector>

namespace truecurve {

/// A derived quantity with its interval by the law of propagation of uncertainty and, as a check, by Monte Carlo.
struct DerivedQuantity {
  std::string name{};
  std::string expression{};
  std::string unit{};  ///< as it follows from the parameters' units; empty for a pure number and where it is not known
  double value = not_a_number;
  double standard_uncertainty = not_a_number;  ///< sqrt(gᵀ C g); JCGM 100:2008, equation 13
  Interval interval{};                         ///< value ± k u
  /// The middle `level` of the expression over draws of the parameters from their normal (stated) or Student-t
  /// (scatter) distribution; JCGM 101:2008. 20,000 draws tell whether it differs from the symmetric interval; where it
  /// does it is made anew from 10,000/(1 - level) (clause 7.2.1), at most a million. Seeded: always the same. A draw at
  /// which the expression is not defined has no value and lies beyond the limit that the expression goes to on the way
  /// there: where that is infinite and such draws are many, the interval is open on that side.
  Interval monte_carlo{};
  double without_value = 0;  ///< share of the draws at which the expression is not defined
  /// Whether the two intervals differ by more than a tenth of their half width: then the expression is too curved over
  /// the uncertainty of the parameters, and the Monte Carlo interval is the one to quote.
  bool curved = false;
  /// Whether a divisor in the expression may be 0: the level's interval of the divisor, to the first order, reaches 0.
  /// Then no bounded interval has the level, and both are infinite (Fieller 1954; Gleser and Hwang 1987).
  bool is_unbounded = false;
  /// The values that an unbounded quantity does not have, at the level, where the expression is a quotient: between two
  /// rays. NaN where none can be excluded, or the expression is something else.
  Interval excluded{};
};

/// "below 3.21 or above 8.30": the two rays that are left where the values between are excluded. Throws no Error of its
/// own.
[[nodiscard]] std::string rays_text(const Interval& excluded);

/// Derives `name = expression` (or just an expression, which is then its own name) from the parameters. Throws Error:
/// the model-text codes, unknown_name, not_finite, bad_argument (an expression without a parameter). Requires 0 < level
/// < 1.
[[nodiscard]] DerivedQuantity derive(const Estimate& estimate, std::string_view definition, Level level);

/// The test of a hypothesis on the parameters.
struct HypothesisTest {
  std::string hypothesis{};
  double difference = not_a_number;  ///< left side less right side
  double standard_uncertainty = not_a_number;
  double t = not_a_number;
  /// Of an equation, two-sided: how often a difference as large arises where the sides are equal. Of an inequality,
  /// one-sided: how often the left side comes out as far on that side of the right one where they are equal.
  double p = not_a_number;
  bool is_one_sided = false;
};

/// Tests `expression = expression`, or with < or > whether one side is the smaller or the greater (either may be a
/// number). Throws Error as derive.
[[nodiscard]] HypothesisTest test_hypothesis(const Estimate& estimate, std::string_view hypothesis);

/// What is concluded from the parameters of one fit.
struct Deductions {
  std::vector<DerivedQuantity> derived{};
  std::vector<HypothesisTest> hypotheses{};
};

/// The parameters of the original curve (of a linearized shape) first, then the definitions, then the hypotheses.
/// Throws Error as derive() and test_hypothesis().
[[nodiscard]] Deductions deduce(const Estimate& estimate, Level level, const std::vector<std::string>& definitions = {},
                                const std::vector<std::string>& hypotheses = {});

}  // namespace truecurve
