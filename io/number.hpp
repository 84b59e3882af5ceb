// A cell's text as a number, as laboratories and spreadsheets write it.
#pragma once

#include <string_view>

namespace truecurve::detail {

enum class CellKind { number, missing, text, out_of_range };

struct CellValue {
  CellKind kind = CellKind::missing;
  double number = 0;
};

enum class DecimalMark { point, comma };

/// Blanks at both ends removed, the non-breaking ones of Unicode included.
[[nodiscard]] std::string_view trimmed(std::string_view cell);

/// Reads a trimmed or untrimmed cell. Digits may be grouped in threes by non-breaking or thin blanks or by the mark
/// that is not the decimal one, where that is unambiguous (a decimal mark follows).
[[nodiscard]] CellValue read_cell(std::string_view cell, DecimalMark mark);

}  // namespace truecurve::detail
