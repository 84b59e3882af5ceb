// Reads the cells of Office Open XML workbooks (ECMA-376, part 1, clause 18).
#include <truecurve/base/error.hpp>

#include "number.hpp"
#include "spreadsheet_time.hpp"
#include "workbook.hpp"

#include <algorithm>
#include <map>
#include <utility>

#include <fmt/format.h>

namespace truecurve::detail {
namespace {

// The text of a string item: its runs one after the other, without the reading aids of East Asian scripts.
std::string item_text(const pugi::xml_node& item) {
  std::string text;
  for (const pugi::xml_node& part : item.children()) {
    if (local_name(part) == "t") text += part.text().get();
    if (local_name(part) == "r") text += child(part, "t").text().get();
  }
  return text;
}

// "B" in "B7" is 2; 0 where no letters stand there.
std::uint32_t column_in(std::string_view reference) {
  std::uint32_t column = 0;
  for (const char c : reference) {
    if (c < 'A' || c > 'Z' || column > 100000) break;
    column = column * 26 + static_cast<std::uint32_t>(c - 'A' + 1);
  }
  return column;
}

class Xlsx : public Workbook {
 public:
  Xlsx(std::unique_ptr<Archive> archive, std::string source)
      : archive_(std::move(archive)), source_(std::move(source)) {
    const std::string book = targets("_rels/.rels", "", "/officeDocument").begin()->second;
    const auto slash = book.rfind('/');
    const std::string folder = slash == std::string::npos ? "" : book.substr(0, slash + 1);
    const std::string relations = folder + "_rels/" + book.substr(folder.size()) + ".rels";
    pugi::xml_document document;
    load_xml(document, *archive_, book, source_);
    const pugi::xml_node root = child(document, "workbook");
    const std::string_view base = attribute(child(root, "workbookPr"), "date1904");
    days_from_1904_ = base == "1" || base == "true";
    const auto sheets = targets(relations, folder, "/worksheet");
    each_child(child(root, "sheets"), "sheet", [&](const pugi::xml_node& sheet) {
      const auto at = sheets.find(attribute(sheet, "id"));
      if (at == sheets.end()) return;  // a sheet of charts
      names_.emplace_back(attribute(sheet, "name"));
      parts_.push_back(at->second);
    });
    for (const auto& [id, part] : targets(relations, folder, "/sharedStrings")) read_strings(part);
    for (const auto& [id, part] : targets(relations, folder, "/styles")) read_styles(part);
  }

  [[nodiscard]] const std::vector<std::string>& sheets() const override { return names_; }

  [[nodiscard]] SheetCells cells(std::size_t sheet) const override {
    pugi::xml_document document;
    load_xml(document, *archive_, parts_[sheet], source_);
    SheetCells made;
    std::uint32_t row = 0;
    each_child(child(child(document, "worksheet"), "sheetData"), "row", [&](const pugi::xml_node& at) {
      const auto number = whole_number(attribute(at, "r"));
      row = number > row ? number : row + 1;
      const std::size_t before = made.cells.size();
      std::uint32_t column = 0;
      each_child(at, "c", [&](const pugi::xml_node& cell) {
        const std::uint32_t stated = column_in(attribute(cell, "r"));
        column = stated > column ? stated : column + 1;
        add(cell, row, column, made.cells);
      });
      const std::string_view hidden = attribute(at, "hidden");
      if (made.cells.size() > before && (hidden == "1" || hidden == "true")) ++made.hidden_rows;
    });
    return made;
  }

 private:
  // The parts of a kind that a part refers to, by the reference's name; one at least for the workbook itself.
  [[nodiscard]] std::map<std::string, std::string> targets(const std::string& relations, const std::string& folder,
                                                           std::string_view kind) const {
    pugi::xml_document document;
    load_xml(document, *archive_, relations, source_);
    std::map<std::string, std::string> found;
    each_child(child(document, "Relationships"), "Relationship", [&](const pugi::xml_node& at) {
      if (!std::string_view(attribute(at, "Type")).ends_with(kind)) return;
      const std::string target = attribute(at, "Target");
      found[attribute(at, "Id")] = target.starts_with('/') ? target.substr(1) : folder + target;
    });
    if (found.empty() && kind == "/officeDocument") {
      throw Error({.code = ErrorCode::unsupported_file,
                   .message = "this is a zip archive, not a spreadsheet",
                   .remedy = "unpack it, and read the table that is in it",
                   .place = {.file = source_}});
    }
    return found;
  }

  void read_strings(const std::string& part) {
    pugi::xml_document document;
    load_xml(document, *archive_, part, source_);
    each_child(child(document, "sst"), "si",
               [this](const pugi::xml_node& item) { strings_.push_back(item_text(item)); });
  }

  void read_styles(const std::string& part) {
    pugi::xml_document document;
    load_xml(document, *archive_, part, source_);
    const pugi::xml_node root = child(document, "styleSheet");
    std::map<std::string, std::string> codes;
    each_child(child(root, "numFmts"), "numFmt", [&codes](const pugi::xml_node& format) {
      codes[attribute(format, "numFmtId")] = attribute(format, "formatCode");
    });
    each_child(child(root, "cellXfs"), "xf", [&](const pugi::xml_node& style) {
      const std::string id = attribute(style, "numFmtId");
      const auto own = codes.find(id);
      styles_.push_back(own != codes.end() ? time_format(own->second) : built_in_time_format(id));
    });
  }

  void add(const pugi::xml_node& cell, std::uint32_t row, std::uint32_t column, std::vector<SheetCell>& cells) const {
    const std::string_view type = attribute(cell, "t");
    const pugi::xml_node value = child(cell, "v");
    SheetCell made{.row = row, .column = column, .text = value.text().get()};
    if (type == "inlineStr") made.text = item_text(child(cell, "is"));
    if (type == "s") {
      const std::size_t index = whole_number(made.text);
      if (made.text.empty()) return;
      if (index >= strings_.size()) {
        throw Error(
            {.code = ErrorCode::binary_file,
             .message = fmt::format("the cell {} refers to a text that is not in the file", cell_name(row, column)),
             .remedy = "open it in a spreadsheet program and save it anew",
             .place = {.file = source_}});
      }
      made.text = strings_[index];
    }
    made.is_text = type == "s" || type == "inlineStr" || type == "str" || type == "e" || type == "b";
    if (type == "b") made.text = made.text == "1" ? "TRUE" : "FALSE";
    made.is_unreadable = made.text.empty() && type != "str" && !child(cell, "f").empty();
    if (made.text.empty() && !made.is_unreadable) return;
    const std::size_t style = whole_number(attribute(cell, "s"));
    if (!made.is_text && !made.is_unreadable && style < styles_.size() && styles_[style] != TimeFormat::none) {
      const CellValue number = read_cell(made.text, DecimalMark::point);
      if (number.kind == CellKind::number)
        made.text = time_text(number.number, styles_[style], days_from_1904_).value_or(made.text);
    }
    cells.push_back(std::move(made));
  }

  std::unique_ptr<Archive> archive_;
  std::string source_;
  bool days_from_1904_ = false;
  std::vector<std::string> names_;
  std::vector<std::string> parts_;
  std::vector<std::string> strings_;
  std::vector<TimeFormat> styles_;
};

}  // namespace

std::unique_ptr<Workbook> open_xlsx(std::unique_ptr<Archive> archive, const std::string& source) {
  return std::make_unique<Xlsx>(std::move(archive), source);
}

}  // namespace truecurve::detail
