// Plain tables: columns set under their headings, numbers aligned on the decimal point.
#pragma once

#include <string>
#include <vector>

namespace truecurve::detail {

enum class Align { left, right, point };

class Grid {
 public:
  struct Heading {
    std::string text;
    Align align = Align::left;
  };
  /// `gap` blanks stand between columns.
  explicit Grid(std::vector<Heading> headings, std::size_t gap = 3) : headings_(std::move(headings)), gap_(gap) {}
  void add(std::vector<std::string> cells) { rows_.push_back(std::move(cells)); }
  /// Lines indented by two blanks, no blanks at line ends.
  [[nodiscard]] std::string text() const;

 private:
  std::vector<Heading> headings_;
  std::size_t gap_;
  std::vector<std::vector<std::string>> rows_;
};

/// Characters a terminal shows for a UTF-8 text.
[[nodiscard]] std::size_t shown_width(const std::string& text);

/// A sentence broken into lines of at most `width` characters, each indented; `first` replaces the indent of line one.
[[nodiscard]] std::string wrapped(const std::string& text, std::size_t width, const std::string& indent,
                                  const std::string& first);

/// A field of a CSV file, quoted where it must be.
[[nodiscard]] std::string csv_field(const std::string& text);

}  // namespace truecurve::detail
