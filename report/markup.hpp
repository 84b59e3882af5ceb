// What the renderers of marked-up text share: one walk over a page.
#pragma once

#include <truecurve/report/page.hpp>

#include <optional>
#include <string>
#include <string_view>
#include <utility>
#include <variant>
#include <vector>

namespace truecurve::detail {

/// One kind of markup: how it writes a heading, sentences, a list and a table. Texts come unescaped.
class Markup {
 public:
  virtual ~Markup() = default;
  /// The title is of level 2, a section of level 3.
  [[nodiscard]] virtual std::string heading(const std::string& text, int level) const = 0;
  [[nodiscard]] virtual std::string paragraph(const std::string& text) const = 0;
  [[nodiscard]] virtual std::string list(const std::vector<std::string>& items) const = 0;
  [[nodiscard]] virtual std::string table(const PageTable& table) const = 0;
};

/// The blocks of a section, items that follow one another as one list.
[[nodiscard]] std::string blocks_in(const Markup& markup, const PageSection& section);
/// Title, subject, lead, cautions, sections.
[[nodiscard]] std::string page_in(const Markup& markup, const Page& page);

/// The words of the sentences alone.
[[nodiscard]] std::vector<std::string> plain(const std::vector<Advice>& cautions);

/// Every character that `marks` knows replaced, and what can't be seen by its name.
[[nodiscard]] std::string replaced(std::string_view text,
                                   const std::vector<std::pair<std::string_view, std::string_view>>& marks);

/// The table without the columns that have a heading only; the first one stays.
[[nodiscard]] PageTable without_empty_columns(const PageTable& table);
/// Whether a cell stands for a part of the row above it: two blanks before its words.
[[nodiscard]] bool is_inset(const std::string& cell);
/// Whether a table has headings at all.
[[nodiscard]] bool has_headings(const PageTable& table);
/// A number (or a dash in its place) taken apart at its decimal point, so that those of a column can meet there;
/// nothing where the cell holds words, which stand at the left end of the column.
[[nodiscard]] std::optional<std::pair<std::string, std::string>> at_point(const std::string& cell);

}  // namespace truecurve::detail
