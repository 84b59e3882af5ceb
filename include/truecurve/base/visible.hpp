// Text that shows all that is in it.
//
// Example:
//     EXPECT_EQ(truecurve::visible("red\x1b[31m"), "red<ESC>[31m");
//     EXPECT_EQ(truecurve::visible("T \xe2\x80\xae" "5"), "T <U+202E>5");
//     EXPECT_EQ(truecurve::visible("\xb5g"), "<0xB5>g");
#pragma once

#include <string>
#include <string_view>

namespace truecurve {

/// The text with what can't be seen, or changes how the rest is seen, shown by its name in angle brackets: control
/// characters (ISO/IEC 6429), overrides of the direction and noncharacters (Unicode 15, 3.4 and 23.2), and bytes that
/// are no UTF-8. Line breaks, tabs and joiners stay. For terminals, pages and figures, where such a character could
/// take over what is shown; files for programs keep what was read.
[[nodiscard]] std::string visible(std::string_view text);

}  // namespace truecurve
