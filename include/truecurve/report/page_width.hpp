// How wide the text reports are set.
//
// Example:
//     const auto points = truecurve::Observations::of({1, 2, 3, 4}, {3.1, 4.9, 7.2, 8.8});
//     const auto line = truecurve::fit(truecurve::shape_model("line"), points);
//     const truecurve::PageWidth narrow(60);
//     const std::string page = truecurve::fit_text(line, 0.95);
//     EXPECT_EQ(truecurve::PageWidth::columns(), 60);
//     for (std::size_t at = 0, end = 0; (end = page.find('\n', at)) != std::string::npos; at = end + 1)
//       EXPECT_LE(end - at, 66);  // a letter may take two bytes
#pragma once

#include <cstddef>
#include <string>

namespace truecurve {

/// While it lives, the text reports made by this thread are set for a terminal of so many columns (at least 40):
/// sentences are broken there, or at 100 as longer lines are hard to read, and tables that are wider stand in several
/// pieces beneath each other, each with its first column. Without it sentences take 100 columns, and tables what they
/// need; 0 columns mean the same.
class PageWidth {
 public:
  explicit PageWidth(std::size_t columns);
  ~PageWidth();
  PageWidth(const PageWidth&) = delete;
  PageWidth& operator=(const PageWidth&) = delete;

  /// Of sentences.
  [[nodiscard]] static std::size_t columns();
  /// Of tables.
  [[nodiscard]] static std::size_t limit();

 private:
  std::size_t before_;
};

/// Paragraphs, with a blank line between them, set in the width in force behind `indent` blanks; lines that are
/// indented already stay as they are.
[[nodiscard]] std::string on_page(const std::string& text, std::size_t indent = 0);

}  // namespace truecurve
