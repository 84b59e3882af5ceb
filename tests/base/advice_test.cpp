// Words with means, as they are and as an interface says them.
#include <truecurve/base/error.hpp>

#include <gtest/gtest.h>

namespace truecurve {
namespace {

TEST(Advice, SaysItsMeansWhereTheyBelong) {
  const MeansWords words = [](const Means& means) {
    return means.action == Action::give_start ? "" : "act " + means.argument;
  };
  Advice advice{"leave it out",
                {Action::leave_row_out, "3"},
                {Action::omit_uncertainty, "y"},
                ", or start elsewhere",
                {Action::give_start}};
  EXPECT_EQ(advice.text(), "leave it out, or start elsewhere");
  EXPECT_EQ(advice.text(words), "leave it out (act 3, act y), or start elsewhere") << "without words for a start";
  advice += Advice{" or stop", {Action::hold_parameter, "a"}};
  EXPECT_EQ((advice + ".").text(words), "leave it out (act 3, act y), or start elsewhere or stop (act a).");
  ASSERT_EQ(advice.means().size(), 4U);
  EXPECT_EQ(advice.means()[3].argument, "a");
  EXPECT_TRUE(Advice("").empty());
  EXPECT_TRUE((Advice{"", ""}).empty());
  EXPECT_FALSE((Advice{{Action::give_start}}).empty());
}

TEST(Advice, StandsInAnErrorAsWordsAlone) {
  const Error error({.message = "row 3 is wrong",
                     .remedy = {"leave it out", {Action::leave_row_out, "3"}},
                     .excerpt = "3 : x\n    ^",
                     .place = {.file = "a.csv", .line = 4, .column = 2}});
  EXPECT_STREQ(error.what(), "a.csv:4:2: row 3 is wrong\n3 : x\n    ^\n  leave it out");
  EXPECT_EQ(error.remedy(), "leave it out");
  EXPECT_EQ(text_of(error.details(), [](const Means& means) { return "without " + means.argument; }),
            "a.csv:4:2: row 3 is wrong\n3 : x\n    ^\n  leave it out (without 3)");
}

}  // namespace
}  // namespace truecurve
