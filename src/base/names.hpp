// Enum classes by name.
#pragma once

#include <array>
#include <cstddef>
#include <string_view>

namespace truecurve::detail {

/// The name of the value among those of its enum class, which begins at 0; empty for a number that is no value of it.
template <typename Enum, std::size_t count>
constexpr std::string_view name_among(const std::array<std::string_view, count>& names, Enum value) noexcept {
  const auto at = static_cast<std::size_t>(value);
  return at < count ? names[at] : std::string_view();
}

}  // namespace truecurve::detail
