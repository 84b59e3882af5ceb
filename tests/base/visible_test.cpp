// What can't be seen is named; what can be seen stays.
#include <truecurve/base/visible.hpp>

#include <string>

#include <gtest/gtest.h>

namespace truecurve {
namespace {

TEST(Visible, NamesWhatCannotBeSeenAndKeepsTheRest) {
  struct Case {
    std::string text, shown;
  };
  for (const Case& c :
       {Case{"", ""},
        {"T/K, \"a\" <b> & 5 % \\", "T/K, \"a\" <b> & 5 % \\"},
        {"two\nlines\tand a tab", "two\nlines\tand a tab"},
        {std::string("a\0b", 3), "a<NUL>b"},
        {"\x1b[31mred\x1b[0m\r\x07", "<ESC>[31mred<ESC>[0m<CR><BEL>"},
        {"\x1f \x20 \x7e\x7f", "<US>   ~<DEL>"},
        {"\u0080\u009f\u00a0µ±", "<U+0080><U+009F>\u00a0µ±"},
        {"a\u202eb\u2066c\u2069\u200f\u061c", "a<U+202E>b<U+2066>c<U+2069><U+200F><U+061C>"},
        {"\u2027\u2028\u2029\u202a\u202f", "\u2027<U+2028><U+2029><U+202A>\u202f"},
        {"\u200a\u200b\u200c\u200d\u200e", "\u200a<U+200B>\u200c\u200d<U+200E>"},
        {"\ufeffa\ufffd\ufffe\uffff", "<U+FEFF>a\ufffd<U+FFFE><U+FFFF>"},
        {"\ufdcf\ufdd0\ufdef\ufdf0\ufff8\ufff9\ufffb\ufffc",
         "\ufdcf<U+FDD0><U+FDEF>\ufdf0\ufff8<U+FFF9><U+FFFB>\ufffc"},
        {"铅 \U0001F514 \U0001FFFE \U0010FFFF", "铅 \U0001F514 <U+1FFFE> <U+10FFFF>"},
        // No UTF-8: Latin-1, cut short, too long a form, a surrogate, beyond the last character.
        {"\xb5g", "<0xB5>g"},
        {"m\xc3", "m<0xC3>"},
        {"\xe2\x82z", "<0xE2><0x82>z"},
        {"\xc0\xaf\xe0\x9f\xbf\xf0\x8f\xbf\xbf", "<0xC0><0xAF><0xE0><0x9F><0xBF><0xF0><0x8F><0xBF><0xBF>"},
        {"\xed\xa0\x80", "<0xED><0xA0><0x80>"},
        {"\xf4\x90\x80\x80\xf5", "<0xF4><0x90><0x80><0x80><0xF5>"}}) {
    EXPECT_EQ(visible(c.text), c.shown);
    EXPECT_EQ(visible(c.shown), c.shown);
  }
}

TEST(Shortened, PartsNoCharacter) {
  EXPECT_EQ(shortened("", 0), "");
  EXPECT_EQ(shortened("0123456789", 10), "0123456789");
  EXPECT_EQ(shortened("0123456789", 9), "0123\u20266789");
  EXPECT_EQ(shortened("µµµµµµ", 6), "µ\u2026µ");
  EXPECT_EQ(shortened("a\U0001F514\U0001F514b", 8), "a\u2026b");
  EXPECT_EQ(shortened(std::string(10, '\x80'), 4), "\u2026");
}

}  // namespace
}  // namespace truecurve
