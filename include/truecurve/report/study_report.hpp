// A study's results as one self-contained HTML page.
//
// Example:
//     const truecurve::StudyReport report{.title = "Density",
//                                         .sections = {{.name = "line", .title = "A line", .text = "a < b\n"}}};
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

/// What one task has to show; what is empty is not shown.
struct ReportSection {
  std::string name{};                  ///< letters, digits, - and _: the place on the page
  std::string title{};                 ///< its heading
  std::string note{};                  ///< what its author says of it
  std::string subject{};               ///< what was fitted, to what
  std::string answer{};                ///< in one sentence, for the list at the top
  std::string summary{};               ///< the answer in sentences
  std::vector<std::string> careful{};  ///< what to be careful about, a sentence or two each
  std::vector<ReportTable> tables{};
  std::vector<std::string> figures{};  ///< SVG texts
  std::string text{};                  ///< the whole page of the command
  std::string command{};               ///< by which it can be repeated
};

struct ReportSource {
  std::string file{};
  std::string sha256{};
};

struct StudyReport {
  std::string title{};
  std::string note{};
  std::vector<ReportSection> sections{};
  std::vector<ReportSource> sources{};  ///< the study file and its data
  std::string repeat{};                 ///< the command that makes all of it again
};

/// One file without script and without network: summary first, then each section with its figures, its tables and the
/// whole text of its command. All texts are escaped. Readable on a phone, printed on A4, in light and dark.
[[nodiscard]] std::string study_html(const StudyReport& report);

}  // namespace truecurve
