// A result as a page of a laboratory notebook: its sentences, cautions, tables and figures, before they are set as
// text, HTML, Markdown, LaTeX or CSV (truecurve/report/renderers.hpp).
// None of these throws an Error of its own.
//
// Example:
//     truecurve::Page page{.title = "T = a + b*t", .subject = "fitted to all 4 rows"};
//     page.lead.say("The slope b is 1.940(91).");
//     truecurve::PageTable table({{"name"}, {"value", truecurve::Align::point}});
//     table.add({"b", "1.940(91)"});
//     page.section("Parameters").show(std::move(table));
//     EXPECT_NE(truecurve::text_of(page).find("\nParameters\n  name   value\n  b      1.940(91)\n"), std::string::npos);
#pragma once

#include <truecurve/base/advice.hpp>

#include <cstddef>
#include <string>
#include <utility>
#include <variant>
#include <vector>

namespace truecurve {

/// How the cells of a column stand beneath each other: by their left or right ends or decimal points; sentences are
/// broken into lines, and stand in the last column only.
enum class Align { left, right, point, sentence };

struct Heading {
  std::string text{};
  Align align = Align::left;
};

/// A table to be read: numbers are texts, rounded as they are to be shown.
struct PageTable {
  /// Blanks between the columns of a text; a wide table needs the smaller number.
  static constexpr std::size_t roomy = 3;
  static constexpr std::size_t narrow = 2;

  PageTable() = default;
  explicit PageTable(std::vector<Heading> columns, std::size_t blanks = roomy)
      : headings(std::move(columns)), gap(blanks) {}
  /// One cell a column.
  void add(std::vector<std::string> cells) { rows.push_back(std::move(cells)); }

  std::vector<Heading> headings{};
  std::vector<std::vector<std::string>> rows{};
  std::size_t gap = roomy;
};

/// Sentences.
struct Paragraph {
  Advice text{};
};
/// One of several that stand beneath each other.
struct Item {
  Advice text{};
};
using Block = std::variant<Paragraph, Item, PageTable>;

/// Blocks beneath a heading. What has no words or no rows is not added.
struct PageSection {
  std::string heading{};
  std::vector<Block> blocks{};
  bool in_brief = false;  ///< whether it belongs to the page in brief

  void say(Advice sentences) {
    if (!sentences.empty()) blocks.emplace_back(Paragraph{std::move(sentences)});
  }
  void list(Advice sentence) {
    if (!sentence.empty()) blocks.emplace_back(Item{std::move(sentence)});
  }
  void show(PageTable table) {
    if (!table.rows.empty()) blocks.emplace_back(std::move(table));
  }
};

/// A cell for programs: words, or a number in full. A number that is NaN does not apply.
using Datum = std::variant<std::string, double, std::size_t>;

/// The numbers in full, one row a parameter, a point, a candidate ...
struct PageData {
  std::vector<std::string> names{};
  std::vector<std::vector<Datum>> rows{};
};

struct Page {
  std::string title{};    ///< what was fitted, calibrated, looked at
  std::string subject{};  ///< and to what, or nothing
  PageSection lead{};     ///< the answer first, then how it came about; without a heading
  std::string answer{};   ///< in one sentence, for a list of several results; where empty the first one of the lead
  std::vector<PageSection> sections{};
  std::vector<Advice> cautions{};  ///< a sentence or two each
  PageData data{};

  /// A new section; the reference holds until the next one is added.
  PageSection& section(std::string heading) {
    sections.push_back({.heading = std::move(heading)});
    return sections.back();
  }
  void caution(Advice sentence) {
    if (!sentence.empty()) cautions.push_back(std::move(sentence));
  }
};

/// The answer in short: what the page says of itself, or else the first paragraph of its lead, or its subject.
[[nodiscard]] std::string answer_of(const Page& page);

/// The page in brief: its lead, its cautions, and of its sections those that belong to it, or else the first.
[[nodiscard]] Page in_brief(Page page);

/// The page with the means that its sentences speak of said in words of an interface.
[[nodiscard]] Page spelled_out(Page page, const MeansWords& words);

}  // namespace truecurve
