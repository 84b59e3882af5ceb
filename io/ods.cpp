// Reads the cells of OpenDocument spreadsheets (ISO/IEC 26300-1, clause 9).
#include <truecurve/base/error.hpp>

#include "workbook.hpp"

#include <algorithm>
#include <utility>

#include <fmt/format.h>

namespace truecurve::detail {
namespace {

// The text of a cell's paragraphs, with the blanks that stand in it as elements.
std::string paragraph_text(const pugi::xml_node& paragraph) {
  struct Walker : pugi::xml_tree_walker {
    std::string text;
    bool for_each(pugi::xml_node& node) override {
      if (node.type() == pugi::node_pcdata || node.type() == pugi::node_cdata) text += node.value();
      const std::string_view name = local_name(node);
      if (name == "tab" || name == "line-break") text += ' ';
      if (name == "s") text.append(std::clamp(whole_number(attribute(node, "c")), 1U, 1000U), ' ');
      return true;
    }
  } walker;
  pugi::xml_node at = paragraph;
  at.traverse(walker);
  return walker.text;
}

std::string cell_text(const pugi::xml_node& cell) {
  std::string text;
  each_child(cell, "p", [&text](const pugi::xml_node& paragraph) {
    text += (text.empty() ? "" : " ") + paragraph_text(paragraph);
  });
  return text;
}

// "PT08H15M30.5S" as 08:15:30.5; as it stands where it is something else.
std::string clock_of(const std::string& duration) {
  unsigned hours = 0;
  unsigned minutes = 0;
  std::size_t at = 2;
  const auto whole = [&](char unit, unsigned& value) {
    std::size_t end = at;
    while (end < duration.size() && duration[end] >= '0' && duration[end] <= '9') ++end;
    if (end == at || end >= duration.size() || duration[end] != unit || end - at > 6) return;
    value = whole_number(duration.substr(at, end - at));
    at = end + 1;
  };
  if (!duration.starts_with("PT")) return duration;
  whole('H', hours);
  whole('M', minutes);
  std::string seconds =
      at < duration.size() && duration.ends_with('S') ? duration.substr(at, duration.size() - at - 1) : "0";
  std::replace(seconds.begin(), seconds.end(), ',', '.');
  if (seconds.find_first_not_of("0123456789.") != std::string::npos) return duration;
  // .000000000 is no fraction.
  if (seconds.find('.') != std::string::npos) {
    seconds.erase(seconds.find_last_not_of('0') + 1);
    if (seconds.ends_with('.')) seconds.pop_back();
  }
  if (seconds.empty() || seconds.front() == '.') seconds.insert(0, "0");
  const bool is_short = seconds.size() == 1 || seconds[1] == '.';
  return fmt::format("{:02}:{:02}:{}{}", hours, minutes, is_short ? "0" : "", seconds);
}

class Ods : public Workbook {
 public:
  Ods(std::unique_ptr<Archive> archive, const std::string& source) : source_(source) {
    load_xml(document_, *archive, "content.xml", source);
    const pugi::xml_node book = child(child(child(document_, "document-content"), "body"), "spreadsheet");
    if (book.empty()) {
      throw Error({.code = ErrorCode::unsupported_file,
                   .message = "this is a document without sheets, not a spreadsheet",
                   .remedy = "copy its table into a sheet, or save it as CSV",
                   .place = {.file = source}});
    }
    each_child(book, "table", [this](const pugi::xml_node& table) {
      names_.emplace_back(attribute(table, "name"));
      tables_.push_back(table);
    });
  }

  [[nodiscard]] const std::vector<std::string>& sheets() const override { return names_; }

  [[nodiscard]] SheetCells cells(std::size_t sheet) const override {
    SheetCells made;
    std::uint32_t row = 1;
    // Rows may stand in groups and beneath a heading of rows.
    std::vector<pugi::xml_node> open = {tables_[sheet].first_child()};
    while (!open.empty()) {
      const pugi::xml_node at = open.back();
      if (at.empty()) {
        open.pop_back();
        continue;
      }
      open.back() = at.next_sibling();
      const std::string_view name = local_name(at);
      if (name == "table-row") add_row(at, row, made);
      const bool is_group = name == "table-header-rows" || name == "table-row-group" || name == "table-rows";
      if (is_group) open.push_back(at.first_child());
    }
    return made;
  }

 private:
  static constexpr std::uint32_t most = 1U << 20U;  // rows of a sheet; columns are fewer
  static std::uint32_t repeated(const pugi::xml_node& node, std::string_view by) {
    return std::clamp(whole_number(attribute(node, by)), 1U, most);
  }

  void add_row(const pugi::xml_node& at, std::uint32_t& row, SheetCells& made) const {
    const std::uint32_t rows = repeated(at, "number-rows-repeated");
    std::vector<SheetCell> cells;
    std::uint32_t column = 1;
    for (const pugi::xml_node& cell : at.children()) {
      const std::string_view name = local_name(cell);
      if (name != "table-cell" && name != "covered-table-cell") continue;
      const std::uint32_t columns = repeated(cell, "number-columns-repeated");
      SheetCell found = cell_of(cell);
      if (!found.text.empty() || found.is_unreadable) {
        require_not_too_many(made.cells.size() + cells.size() + columns);
        for (std::uint32_t k = 0; k < columns; ++k) {
          found.column = column + k;
          cells.push_back(found);
        }
      }
      column = std::min(most, column + columns);
    }
    if (!cells.empty()) {
      const std::string_view visibility = attribute(at, "visibility");
      if (visibility == "filter" || visibility == "collapse") made.hidden_rows += rows;
      require_not_too_many(made.cells.size() + std::size_t{rows} * cells.size());
      for (std::uint32_t k = 0; k < rows; ++k) {
        for (SheetCell& cell : cells) {
          cell.row = row + k;
          made.cells.push_back(cell);
        }
      }
    }
    row = std::min(2 * most, row + rows);
  }

  static SheetCell cell_of(const pugi::xml_node& cell) {
    SheetCell made;
    const std::string_view type = attribute(cell, "value-type");
    const bool is_number = type == "float" || type == "percentage" || type == "currency";
    if (is_number) made.text = attribute(cell, "value");
    if (type == "date") {
      made.text = attribute(cell, "date-value");
      std::replace(made.text.begin(), made.text.end(), 'T', ' ');
    }
    if (type == "time") made.text = clock_of(attribute(cell, "time-value"));
    if (type == "boolean") made.text = std::string_view(attribute(cell, "boolean-value")) == "true" ? "TRUE" : "FALSE";
    made.is_text = !is_number && type != "date" && type != "time";
    if (type == "string") made.text = attribute(cell, "string-value");
    if (made.text.empty()) made.text = cell_text(cell);
    made.is_unreadable = made.text.empty() && *attribute(cell, "formula") != '\0' && type != "string";
    return made;
  }

  void require_not_too_many(std::size_t cells) const {
    constexpr std::size_t largest = 20'000'000;
    if (cells <= largest) return;
    throw Error({.code = ErrorCode::unsupported_file,
                 .message = "the sheet has more than 20 million cells",
                 .remedy = "save it as CSV and read that",
                 .place = {.file = source_}});
  }

  std::string source_;
  pugi::xml_document document_;
  std::vector<std::string> names_;
  std::vector<pugi::xml_node> tables_;
};

}  // namespace

std::unique_ptr<Workbook> open_ods(std::unique_ptr<Archive> archive, const std::string& source) {
  return std::make_unique<Ods>(std::move(archive), source);
}

}  // namespace truecurve::detail
