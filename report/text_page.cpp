// A page as text: columns set under their headings, numbers aligned on the decimal point, sentences broken into lines.
#include <truecurve/base/visible.hpp>
#include <truecurve/report/renderers.hpp>

#include "lines.hpp"
#include "markup.hpp"

#include <algorithm>

namespace truecurve {
namespace {

using detail::readable_width;
using detail::shown_width;
using detail::table_width;
using detail::wrapped;

using Cells = std::vector<std::string>;

// Sentences keep a margin that tables may use.
constexpr std::size_t margin = 4;

// Columns up to the decimal point, or of the whole number where it has none.
std::size_t before_point(const std::string& cell) {
  const auto parts = detail::at_point(cell);
  return parts ? shown_width(parts->first) : 0;
}

// A table while it is set.
class SetTable {
 public:
  SetTable(const PageTable& table, std::size_t columns)
      : table_(detail::without_empty_columns(table)), columns_(columns), has_names_(detail::has_headings(table)) {
    for (Heading& heading : table_.headings) heading.text = visible(heading.text);
    for (Cells& row : table_.rows) {
      for (std::string& cell : row) cell = visible(cell);
    }
    const std::size_t count = table_.headings.size();
    width_.resize(count);
    point_.resize(count);
    for (std::size_t k = 0; k < count; ++k) measure(k);
    for (const Heading& heading : table_.headings) names_.push_back(heading.text);
  }

  [[nodiscard]] std::string text() {
    const auto in_pieces = pieces();
    if (!has_names_) {
      // Remarks that find no room beside their row stand beneath it.
      for (const Cells& row : table_.rows) {
        line(row, in_pieces[0]);
        for (std::size_t k = in_pieces[0].back() + 1; k < row.size(); ++k) {
          if (!row[k].empty()) text_ += wrapped(row[k], readable_width(columns_), "      ", "      ");
        }
      }
    } else {
      for (const auto& piece : in_pieces) {
        if (!text_.empty()) text_ += "\n";
        line(names_, piece);
        for (const Cells& row : table_.rows) line(row, piece);
      }
    }
    return text_;
  }

 private:
  [[nodiscard]] Align align(std::size_t k) const { return table_.headings[k].align; }

  void measure(std::size_t k) {
    for (const Cells& row : table_.rows) point_[k] = std::max(point_[k], before_point(row[k]));
    width_[k] = shown_width(table_.headings[k].text);
    if (align(k) == Align::sentence) return;  // takes what is left
    for (const Cells& row : table_.rows) {
      width_[k] = std::max(width_[k], shift(row[k], k) + shown_width(row[k]));
    }
  }

  // The columns of a table that is too wide for the page, in pieces that fit; the first column says in each what its
  // rows are.
  [[nodiscard]] std::vector<std::vector<std::size_t>> pieces() const {
    std::vector<std::vector<std::size_t>> result = {{}};
    std::size_t used = 2;
    for (std::size_t k = 0; k < width_.size(); ++k) {
      if (used + width_[k] > table_width(columns_) && result.back().size() > 1 && align(k) != Align::sentence) {
        result.push_back({0});
        used = 2 + width_[0] + table_.gap;
      }
      result.back().push_back(k);
      used += width_[k] + table_.gap;
    }
    return result;
  }

  // By how much a number is moved so that its point stands under the others'.
  [[nodiscard]] std::size_t shift(const std::string& cell, std::size_t k) const {
    return align(k) == Align::point && detail::at_point(cell) ? point_[k] - before_point(cell) : 0;
  }

  [[nodiscard]] std::string padded(const std::string& cell, std::size_t k, Align aligned) const {
    const std::string text = (aligned == Align::point ? std::string(shift(cell, k), ' ') : "") + cell;
    const std::string fill(width_[k] - std::min(width_[k], shown_width(text)), ' ');
    return aligned == Align::right ? fill + text : text + fill;
  }

  void line(const Cells& cells, const std::vector<std::size_t>& piece) {
    std::string made = "  ";
    for (const std::size_t k : piece) {
      if (k != piece.front()) made += std::string(table_.gap, ' ');
      if (align(k) == Align::sentence && !cells[k].empty()) {
        text_ += wrapped(cells[k], readable_width(columns_) - margin, std::string(shown_width(made), ' '), made);
        return;
      }
      made += padded(cells[k], k, &cells == &names_ && align(k) == Align::point ? Align::left : align(k));
    }
    made.erase(made.find_last_not_of(' ') + 1);
    text_ += made + "\n";
  }

  PageTable table_;
  std::size_t columns_;
  bool has_names_;
  std::vector<std::size_t> width_;
  std::vector<std::size_t> point_;
  Cells names_;
  std::string text_;
};

class TextRenderer {
 public:
  explicit TextRenderer(const TextStyle& style) : style_(style) {}

  [[nodiscard]] std::string page(const Page& page) {
    part(heading(page.title, style_.before_heading) + plain(page.subject));
    part(blocks(page.lead, true));
    std::string cautions;
    for (const Advice& caution : page.cautions) cautions += set(Item{caution});
    if (!cautions.empty()) part(heading("Cautions", style_.before_cautions) + cautions);
    for (const PageSection& section : page.sections) this->section(section);
    return text_;
  }

 private:
  // A blank line stands between two parts.
  void part(const std::string& text) {
    if (text.empty()) return;
    if (!text_.empty()) text_ += "\n";
    text_ += text;
  }

  void section(const PageSection& section) {
    if (!section.blocks.empty()) part(heading(section.heading, style_.before_heading) + blocks(section, false));
  }

  [[nodiscard]] std::string plain(const std::string& words) const {
    const std::string line = visible(words);
    return line.empty() || style_.columns == 0 ? line + (line.empty() ? "" : "\n") : on_page(line, style_.columns);
  }

  [[nodiscard]] std::string heading(const std::string& words, const std::string& before) const {
    std::string lines = plain(words);
    if (lines.empty() || before.empty()) return lines;
    lines.pop_back();
    return before + lines + style_.after_heading + "\n";
  }

  // Where no heading separates them, sentences and tables are set apart.
  [[nodiscard]] std::string blocks(const PageSection& section, bool apart) const {
    std::string text;
    for (std::size_t i = 0; i < section.blocks.size(); ++i) {
      if (apart && i > 0 && section.blocks[i].index() != section.blocks[i - 1].index()) text += "\n";
      text += std::visit([this](const auto& block) { return set(block); }, section.blocks[i]);
    }
    return text;
  }

  [[nodiscard]] std::string set(const Paragraph& block) const {
    return wrapped(visible(block.text.text()), readable_width(style_.columns) - margin, "  ", "  ");
  }
  [[nodiscard]] std::string set(const Item& block) const {
    return wrapped(visible(block.text.text()), readable_width(style_.columns) - margin, "    ", "  - ");
  }
  [[nodiscard]] std::string set(const PageTable& block) const { return SetTable(block, style_.columns).text(); }

  const TextStyle& style_;
  std::string text_;
};

}  // namespace

std::string text_of(const Page& page, const TextStyle& style) { return TextRenderer(style).page(page); }

}  // namespace truecurve
