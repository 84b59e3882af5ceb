// What a report says of one task: sentences and tables from its record.
#pragma once

#include <truecurve/report/study_report.hpp>

#include <string>
#include <vector>

namespace truecurve::app {

/// The answer in sentences: from the record (JSON) where it holds one, else the first paragraph of the text.
[[nodiscard]] std::string summary_of(const std::string& record, const std::string& text);

/// The first sentence of a summary that is not a heading only.
[[nodiscard]] std::string answer_of(const std::string& summary);

/// The record's main tables.
[[nodiscard]] std::vector<ReportTable> tables_of(const std::string& record);

}  // namespace truecurve::app
