// The sentences and tables of which the page of a fit is made.
#pragma once

#include <truecurve/assess/intervals.hpp>
#include <truecurve/assess/quality.hpp>
#include <truecurve/base/level.hpp>
#include <truecurve/fit/fit.hpp>
#include <truecurve/report/page.hpp>

#include <span>
#include <string>

namespace truecurve::detail {

/// A value with its uncertainty; of a curve without scatter as many digits as a double holds for sure.
[[nodiscard]] std::string value_text(const Fit& fit, double value, double uncertainty);
/// "The intercept a is 1.2(3) kcps and the slope b is 0.19(2)."
[[nodiscard]] std::string answer_sentence(const Fit& fit, std::span<const ParameterInterval> parameters);
/// Where the standard uncertainties come from.
[[nodiscard]] std::string uncertainty_sentence(const Fit& fit, Level level);
/// What chi-squared says of stated uncertainties; empty where none are.
[[nodiscard]] std::string chi_squared_sentence(const Quality& quality);
/// What a transform assumes about the scatter of the measured response; empty where nothing.
[[nodiscard]] Advice scatter_remark(const Fit& fit);
/// What lack of fit is judged by where the replicates hardly differ.
[[nodiscard]] std::string replicates_note(const Fit& fit);

/// What the intervals of a table of parameters are.
enum class IntervalKind { symmetric, profile };
[[nodiscard]] PageTable parameters_table(const Fit& fit, std::span<const ParameterInterval> parameters, Level level,
                                         IntervalKind kind);
/// Of three parameters or more that have an uncertainty: one at a limit is correlated with nothing.
[[nodiscard]] PageTable correlation_table(const Fit& fit);
/// Of two; empty otherwise.
[[nodiscard]] std::string correlation_sentence(const Fit& fit);
[[nodiscard]] PageTable quality_table(const Fit& fit, const Quality& quality);
[[nodiscard]] PageTable variance_page_table(const Fit& fit);

}  // namespace truecurve::detail
