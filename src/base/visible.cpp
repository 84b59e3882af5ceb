// UTF-8 taken apart, character by character.
#include <truecurve/base/visible.hpp>

#include <array>
#include <cstddef>
#include <cstdint>

#include <fmt/format.h>

namespace truecurve {
namespace {

struct Character {
  std::uint32_t point = 0;
  std::size_t bytes = 0;  // 0: no UTF-8
};

// The Unicode Standard, table 3-7: the shortest form, no surrogates, nothing beyond U+10FFFF.
Character character_at(std::string_view text) {
  const auto byte = [&text](std::size_t i) {
    return i < text.size() ? static_cast<std::uint32_t>(static_cast<unsigned char>(text[i])) : 0U;
  };
  const std::uint32_t first = byte(0);
  if (first < 0x80) return {first, 1};
  const std::size_t bytes = first >= 0xF0 && first <= 0xF4  ? 4
                            : first >= 0xE0 && first < 0xF0 ? 3
                            : first >= 0xC2 && first < 0xE0 ? 2
                                                            : 0;
  if (bytes == 0) return {};
  std::uint32_t point = first & (0xFFU >> (bytes + 1));
  for (std::size_t i = 1; i < bytes; ++i) {
    if ((byte(i) & 0xC0) != 0x80) return {};
    point = (point << 6) | (byte(i) & 0x3F);
  }
  static constexpr std::array<std::uint32_t, 5> smallest = {0, 0, 0x80, 0x800, 0x10000};
  if (point < smallest[bytes] || point > 0x10FFFF || (point >= 0xD800 && point < 0xE000)) return {};
  return {point, bytes};
}

bool is_unseen(std::uint32_t c) {
  if (c == '\n' || c == '\t') return false;
  const bool is_control = c < 0x20 || (c >= 0x7F && c < 0xA0);
  const bool turns =
      c == 0x061C || c == 0x200E || c == 0x200F || (c >= 0x202A && c <= 0x202E) || (c >= 0x2066 && c <= 0x2069);
  const bool breaks_line = c == 0x2028 || c == 0x2029;
  const bool has_no_width = c == 0x200B || c == 0x2060 || c == 0xFEFF || (c >= 0xFFF9 && c <= 0xFFFB);
  const bool is_none = (c & 0xFFFE) == 0xFFFE || (c >= 0xFDD0 && c <= 0xFDEF);
  return is_control || turns || breaks_line || has_no_width || is_none;
}

std::string name_of(std::uint32_t c) {
  static constexpr std::array<const char*, 32> names = {
      "NUL", "SOH", "STX", "ETX", "EOT", "ENQ", "ACK", "BEL", "BS",  "HT", "LF",  "VT",  "FF", "CR", "SO", "SI",
      "DLE", "DC1", "DC2", "DC3", "DC4", "NAK", "SYN", "ETB", "CAN", "EM", "SUB", "ESC", "FS", "GS", "RS", "US"};
  if (c < names.size()) return fmt::format("<{}>", names[c]);
  return c == 0x7F ? "<DEL>" : fmt::format("<U+{:04X}>", c);
}

}  // namespace

std::string visible(std::string_view text) {
  std::string shown;
  shown.reserve(text.size());
  while (!text.empty()) {
    const Character c = character_at(text);
    if (c.bytes == 0) {
      shown += fmt::format("<0x{:02X}>", static_cast<unsigned char>(text[0]));
    } else if (is_unseen(c.point)) {
      shown += name_of(c.point);
    } else {
      shown += text.substr(0, c.bytes);
    }
    text.remove_prefix(c.bytes == 0 ? 1 : c.bytes);
  }
  return shown;
}

std::string shortened(std::string_view text, std::size_t most) {
  if (text.size() <= most) return std::string(text);
  const auto is_inside = [&text](std::size_t i) { return (static_cast<unsigned char>(text[i]) & 0xC0) == 0x80; };
  std::size_t first = most / 2;
  std::size_t last = text.size() - most / 2;
  while (first > 0 && is_inside(first)) --first;
  while (last < text.size() && is_inside(last)) ++last;
  return std::string(text.substr(0, first)) + "\xe2\x80\xa6" + std::string(text.substr(last));
}

}  // namespace truecurve
