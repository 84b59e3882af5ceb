// What the page of a fit says of a response that was counted.
#pragma once

#include <truecurve/assess/counted.hpp>
#include <truecurve/assess/quality.hpp>
#include <truecurve/report/page.hpp>

#include <string>

namespace truecurve::detail {

/// "one row, one trial: the curve is the probability of the event 'cracked'".
[[nodiscard]] std::string counting_sentence(const Fit& fit);
/// What deviance, Pearson's chi-squared and the test against one mean for all rows say.
[[nodiscard]] std::string deviance_sentences(const Fit& fit, const CountedQuality& quality);
[[nodiscard]] PageTable counted_quality_table(const Fit& fit, const Quality& quality, const CountedQuality& counted);
/// Observed against expected numbers; empty where the rows are too few.
[[nodiscard]] PageTable groups_table(const Fit& fit, const CountedQuality& quality);

}  // namespace truecurve::detail
