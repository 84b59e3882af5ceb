// A study's results as one self-contained HTML page.
// None of these throws an Error of its own.
//
// Example:
//     const truecurve::StudyReport report{.title = "Density",
//                                         .sections = {{.name = "line", .page = {.title = "a < b"}}}};
//     const std::string page = truecurve::study_html(report);
//     EXPECT_NE(page.find("a &lt; b"), std::string::npos);
#pragma once

#include <truecurve/report/page.hpp>

#include <string>
#include <vector>

namespace truecurve {

/// What one task has to show; what is empty is not shown.
struct ReportSection {
  std::string name{};   ///< letters, digits, - and _: the place on the page
  std::string title{};  ///< its heading
  std::string note{};   ///< what its author says of it
  Page page{};
  std::vector<std::string> figures{};  ///< SVG texts
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

/// One file without script and without network: the answers first, then each section with its cautions, figures and
/// tables. All texts are escaped. Readable on a phone, printed on A4, in light and dark.
[[nodiscard]] std::string study_html(const StudyReport& report);

}  // namespace truecurve
