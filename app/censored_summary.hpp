// What a report says of a fit with limits among its responses.
#pragma once

#include <truecurve/report/study_report.hpp>

#include <vector>

#include <nlohmann/json_fwd.hpp>

namespace truecurve::app {

/// Parameters with the scatter, quantiles, the distributions side by side, and what leaving the limits out would do;
/// tables without rows where there are none.
[[nodiscard]] std::vector<ReportTable> censored_tables(const nlohmann::json& record);

}  // namespace truecurve::app
