// Bracketing, compiled once: where a function changes its sign, where it is lowest.
#pragma once

#include <functional>

namespace truecurve::detail {

/// The place between `low` and `high` at which a function changes its sign, to the last digit that a double can tell;
/// requires that it has different signs there (a zero counts as either). NaN values count as of the sign at `high`.
/// Source: Alefeld, Potra and Shi (1995) while the function is finite, then bisection; Boost.Math.
[[nodiscard]] double change_of_sign(double low, double high, const std::function<double(double)>& function);

/// The same of a smooth function that is finite between, the ends in any order, in few evaluations, to 14 digits of the
/// place. Source: Alefeld, Potra and Shi (1995), ACM Trans. Math. Softw. 21, 327, Boost.Math.
[[nodiscard]] double smooth_change_of_sign(double low, double high, const std::function<double(double)>& function);

/// Whether a function that changes its sign there comes through zero, and not over a pole: at the place and close
/// beside it, between the ends, it is no farther from zero than a thousandth of the way beside it. NaN values are far.
[[nodiscard]] bool comes_through_zero(double low, double high, double place,
                                      const std::function<double(double)>& function);

/// The place between `low` and `high` at which a function is lowest, to half the digits of a double; local where there
/// are several. Source: Brent (1973), Algorithms for Minimization without Derivatives, Boost.Math.
[[nodiscard]] double lowest_place(double low, double high, const std::function<double(double)>& function);

/// The last whole number from `low` on of which a statement holds that is true up to some number and false beyond; it
/// holds at `low`. The first step upwards is `step`, each later one twice that before; then the gap is halved.
[[nodiscard]] double last_whole_number(double low, double step, const std::function<bool(double)>& holds);

}  // namespace truecurve::detail
