// A study's results as one self-contained HTML page.
//
// Example:
//     const truecurve::StudyReport report{.title = "Density", .sections = {{.name = "line", .text = "a < b\n"}}};
//     const std::string page = truecurve::study_html(report);
//     EXPECT_NE(page.find("a &lt; b"), std::string::npos);
#pragma once

#include <string>
#include <vector>

namespace truecurve {

/// A table of the page; numbers are texts as they are to be shown.
struct ReportTable {
  std::string caption{};
  std::vector<std::string> headings{};
  std::vector<std::vector<std::string>> rows{};
};

/// What one task has to show.
struct ReportSection {
  std::string name{};
  std::string command{};  ///< by which it can be repeated
  std::string answer{};   ///< in one sentence, for the list at the top
  std::string summary{};  ///< the answer in sentences
  std::vector<ReportTable> tables{};
  std::vector<std::string> figures{};  ///< SVG texts
  std::string text{};                  ///< the whole page of the command
};

struct ReportSource {
  std::string file{};
  std::string sha256{};
};

struct StudyReport {
  std::string title{};
  std::vector<ReportSection> sections{};
  std::vector<ReportSource> sources{};  ///< the study file and its data
  std::string repeat{};                 ///< the command that makes all of it again
};

/// One file without script and without network: summary first, then each section with its figures, its tables and the
/// whole text of its command. All texts are escaped. Readable on a phone, printed on A4, in light and dark.
[[nodiscard]] std::string study_html(const StudyReport& report);

}  // namespace truecurve
