// What PLplot's SVG driver writes, made small and plain.
#pragma once

#include <string>

namespace truecurve::detail {

/// The same picture: neighbouring lines of one style as one path, a size in pixels, text as characters instead of their
/// numbers. Text stays text.
[[nodiscard]] std::string tidy_svg(const std::string& svg);

}  // namespace truecurve::detail
