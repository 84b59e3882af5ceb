// The sheets of a spreadsheet and their cells: Office Open XML (.xlsx; ECMA-376) and OpenDocument (.ods; ISO/IEC
// 26300).
#pragma once

#include "archive.hpp"

#include <cstddef>
#include <cstdint>
#include <functional>
#include <memory>
#include <string>
#include <string_view>
#include <vector>

#include <pugixml.hpp>

namespace truecurve::detail {

/// A cell as it would stand in a text file: numbers with a decimal point, dates and times as ISO 8601 has them.
struct SheetCell {
  std::uint32_t row = 0;     ///< from 1
  std::uint32_t column = 0;  ///< from 1
  std::string text{};
  bool is_text = false;        ///< a word, and no number or date
  bool is_unreadable = false;  ///< a formula whose result is not in the file
};

/// The cells of a sheet in the order of rows; those without content are left out.
struct SheetCells {
  std::vector<SheetCell> cells{};
  std::size_t hidden_rows = 0;  ///< with content, by a filter or by hand
};

class Workbook {
 public:
  Workbook() = default;
  Workbook(const Workbook&) = delete;
  Workbook& operator=(const Workbook&) = delete;
  virtual ~Workbook() = default;
  [[nodiscard]] virtual const std::vector<std::string>& sheets() const = 0;
  [[nodiscard]] virtual SheetCells cells(std::size_t sheet) const = 0;
};

/// Throws Error: binary_file (damaged), unsupported_file (a zip archive that is no spreadsheet).
[[nodiscard]] std::unique_ptr<Workbook> open_workbook(std::string bytes, const std::string& source);

[[nodiscard]] std::unique_ptr<Workbook> open_xlsx(std::unique_ptr<Archive> archive, const std::string& source);
[[nodiscard]] std::unique_ptr<Workbook> open_ods(std::unique_ptr<Archive> archive, const std::string& source);

/// A part of an archive, read as XML. Throws Error (binary_file).
void load_xml(pugi::xml_document& document, const Archive& archive, const std::string& part, const std::string& source);
/// An element's name without its prefix.
[[nodiscard]] std::string_view local_name(const pugi::xml_node& node);
/// The value of an attribute by its name without prefix, "" where there is none.
[[nodiscard]] const char* attribute(const pugi::xml_node& node, std::string_view name);
/// The children of that name, prefixes aside, in their order.
void each_child(const pugi::xml_node& node, std::string_view name, const std::function<void(pugi::xml_node)>& action);
[[nodiscard]] pugi::xml_node child(const pugi::xml_node& node, std::string_view name);

/// The digits that a text begins with; 0 where it begins with none, the greatest number there is where it is beyond.
[[nodiscard]] std::uint32_t whole_number(std::string_view text);

/// "B7".
[[nodiscard]] std::string cell_name(std::uint32_t row, std::uint32_t column);

}  // namespace truecurve::detail
