// Reads numbers with fast_float after undoing what typography and spreadsheets do to them.
#include "number.hpp"

#include <array>
#include <cctype>
#include <cmath>
#include <string>

#include <fast_float/fast_float.h>

namespace truecurve::detail {
namespace {

constexpr std::array<std::string_view, 4> wide_blanks = {"\xC2\xA0", "\xE2\x80\xAF", "\xE2\x80\x89", "\xE2\x80\x87"};
// Marks that group digits in threes and nothing else: wide blanks, and the apostrophe.
constexpr std::array<std::string_view, 6> group_marks = {"\xC2\xA0", "\xE2\x80\xAF", "\xE2\x80\x89", "\xE2\x80\x87",
                                                         "'",        "\xE2\x80\x99"};
constexpr std::string_view typographic_minus = "\xE2\x88\x92";
constexpr std::array<std::string_view, 9> missing_marks = {"", "NA", "N/A", "NaN", "nan", "-", "--", "n.d.", "nd"};

bool is_digit(char c) { return c >= '0' && c <= '9'; }

// Only these characters can be part of a number; everything else is text without further ado.
bool could_be_number(std::string_view cell) {
  for (const char c : cell) {
    if (!is_digit(c) && c != '.' && c != '+' && c != '-' && c != 'e' && c != 'E') return false;
  }
  return true;
}

CellValue read_plain(std::string_view cell) {
  if (cell.size() > 1 && cell[0] == '+' && cell[1] != '-') cell.remove_prefix(1);
  if (cell.empty() || !could_be_number(cell)) return {CellKind::text, 0};
  double number = 0;
  const auto [end, code] = fast_float::from_chars(cell.data(), cell.data() + cell.size(), number);
  if (end != cell.data() + cell.size()) return {CellKind::text, 0};
  if (code == std::errc::result_out_of_range || std::isinf(number)) return {CellKind::out_of_range, 0};
  if (code != std::errc()) return {CellKind::text, 0};
  if (number == 0) {
    // A zero written with a digit other than 0 before its exponent has underflowed.
    for (const char c : cell) {
      if (c == 'e' || c == 'E') break;
      if (c >= '1' && c <= '9') return {CellKind::out_of_range, 0};
    }
  }
  return {CellKind::number, number};
}

// 1.5D+03, as Fortran writes a double: with a point or a sign, for a sample may well be called 3D1.
std::string without_fortran_exponent(std::string_view cell) {
  std::string copy(cell);
  const std::size_t at = copy.find_first_of("Dd");
  if (at == std::string::npos || at == 0 || at + 1 == copy.size()) return copy;
  const bool is_exponent = copy.find_first_not_of("0123456789.,+-") == at && is_digit(copy.back()) &&
                           (copy[at + 1] == '+' || copy[at + 1] == '-' || copy.find('.') < at);
  if (is_exponent) copy[at] = 'e';
  return copy;
}

// Removes a grouping mark if it stands in threes before the decimal mark: 1,234,567.8. Returns false if it does not.
bool remove_grouping(std::string& cell, char group, char decimal) {
  if (cell.find(group) == std::string::npos) return true;
  const auto point = cell.find(decimal);
  if (point == std::string::npos) return false;
  std::string digits;
  std::size_t since_group = 0;
  bool grouped = false;
  for (std::size_t i = 0; i < point; ++i) {
    if (cell[i] == group) {
      if (grouped ? since_group != 3 : (since_group == 0 || since_group > 3)) return false;
      grouped = true;
      since_group = 0;
      continue;
    }
    if (is_digit(cell[i])) ++since_group;
    digits += cell[i];
  }
  if (grouped && since_group != 3) return false;
  digits += cell.substr(point);
  cell = digits;
  return true;
}

}  // namespace

std::string_view trimmed(std::string_view cell) {
  const auto trim_once = [&cell] {
    if (!cell.empty() && std::isspace(static_cast<unsigned char>(cell.front()))) return cell.remove_prefix(1), true;
    if (!cell.empty() && std::isspace(static_cast<unsigned char>(cell.back()))) return cell.remove_suffix(1), true;
    for (const std::string_view blank : wide_blanks) {
      if (cell.starts_with(blank)) return cell.remove_prefix(blank.size()), true;
      if (cell.ends_with(blank)) return cell.remove_suffix(blank.size()), true;
    }
    return false;
  };
  while (trim_once()) {
  }
  return cell;
}

CellValue read_cell(std::string_view cell, DecimalMark mark) {
  cell = trimmed(cell);
  for (const std::string_view missing : missing_marks) {
    if (cell == missing) return {CellKind::missing, 0};
  }
  if (mark == DecimalMark::point) {
    const CellValue plain = read_plain(cell);
    if (plain.kind != CellKind::text) return plain;
  }
  if (!is_digit(cell.back())) {
    // "3." is a number, but "5 %" or "0.5 mg" is not, and most words end here.
    if (cell.back() != '.' && cell.back() != ',') return {CellKind::text, 0};
  }
  std::string copy = without_fortran_exponent(cell);
  for (std::size_t at = copy.find(typographic_minus); at != std::string::npos; at = copy.find(typographic_minus)) {
    copy.replace(at, typographic_minus.size(), "-");
  }
  for (const std::string_view blank : group_marks) {
    for (std::size_t at = copy.find(blank); at != std::string::npos; at = copy.find(blank)) {
      // It counts as grouping only between digits: "1 234", not "- 5".
      if (at == 0 || !is_digit(copy[at - 1]) || at + blank.size() + 3 > copy.size()) return {CellKind::text, 0};
      for (std::size_t i = 0; i < 3; ++i) {
        if (!is_digit(copy[at + blank.size() + i])) return {CellKind::text, 0};
      }
      copy.erase(at, blank.size());
    }
  }
  const char decimal = mark == DecimalMark::comma ? ',' : '.';
  const char group = mark == DecimalMark::comma ? '.' : ',';
  if (mark == DecimalMark::comma && copy.find(',') == std::string::npos) {
    // In a file with decimal commas 1.234 may mean either; only a number without any mark is clear.
    return copy.find('.') == std::string::npos ? read_plain(copy) : CellValue{CellKind::text, 0};
  }
  if (!remove_grouping(copy, group, decimal)) return {CellKind::text, 0};
  for (char& c : copy) {
    if (c == decimal) c = '.';
  }
  return read_plain(copy);
}

}  // namespace truecurve::detail
