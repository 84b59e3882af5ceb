// What a report says of one task: sentences and tables from its record.
#pragma once

#include <truecurve/report/study_report.hpp>

#include <string>
#include <vector>

namespace truecurve::app {

/// What is known of a task from its record (JSON, or empty) and the text it printed: what it worked on, its answer in
/// sentences, what to be careful about, its main tables.
[[nodiscard]] ReportSection section_from(const std::string& record, const std::string& text);

}  // namespace truecurve::app
