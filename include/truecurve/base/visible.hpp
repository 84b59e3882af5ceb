// Text that shows all that is in it.
// None of these throws an Error of its own.
//
// Example:
//     EXPECT_EQ(truecurve::visible("red\x1b[31m"), "red<ESC>[31m");
//     EXPECT_EQ(truecurve::visible("T \xe2\x80\xae" "5"), "T <U+202E>5");
//     EXPECT_EQ(truecurve::visible("\xb5g"), "<0xB5>g");
//     EXPECT_EQ(truecurve::shortened("0123456789", 6), "012\u2026789");
#pragma once

#include <cstddef>
#include <string>
#include <string_view>

namespace truecurve {

/// The text with what can't be seen, or changes how the rest is seen, shown by its name in angle brackets: control
/// characters (ISO/IEC 6429), overrides of the direction and noncharacters (Unicode 15, 3.4 and 23.2), and bytes that
/// are no UTF-8. Line breaks, tabs and joiners stay. For terminals, pages and figures, where such a character could
/// take over what is shown; files for programs keep what was read.
[[nodiscard]] std::string visible(std::string_view text);

/// The text, or where it has more than `most` bytes its first and last ones, about half of `most` each and no character
/// parted, with an ellipsis between: what a message or a table says of a cell that holds a whole book.
[[nodiscard]] std::string shortened(std::string_view text, std::size_t most);

}  // namespace truecurve
