// Figures: complete files of the right kind, ticks that can be read at any magnitude.
#include <truecurve/figure/checks_figure.hpp>
#include <truecurve/figure/fit_figure.hpp>
#include <truecurve/figure/look_figure.hpp>

#include "../../figure/ticks.hpp"
#include "../../figure/tidy_svg.hpp"
#include "../support.hpp"

#include <pugixml.hpp>

namespace truecurve {
namespace {

TEST(Ticks, StayShortAndDistinctAtEveryMagnitude) {
  for (const double scale : {1e-300, 1e-9, 1e-3, 1.0, 1e4, 1e9, 1e300}) {
    for (const auto& [low, high] :
         {std::pair{0.0, 1.0}, {-3.2, 7.7}, {0.2, 0.21}, {1e6, 1e6 + 1}, {5.0, 5.0}, {-1e-3, 0.0}}) {
      const detail::Ticks ticks = detail::ticks_for(low * scale, high * scale, 6);
      SCOPED_TRACE(testing::Message() << low << " " << high << " x " << scale);
      EXPECT_LE(ticks.low, low * scale);
      EXPECT_GE(ticks.high, high * scale);
      EXPECT_GE(ticks.at.size(), 3u);
      EXPECT_LE(ticks.at.size(), 12u);
      for (std::size_t i = 0; i < ticks.labels.size(); ++i) {
        EXPECT_LE(ticks.labels[i].size(), 10u) << ticks.labels[i];
        if (i > 0) EXPECT_NE(ticks.labels[i], ticks.labels[i - 1]);
        std::string plain = ticks.labels[i];
        if (plain.starts_with("\xE2\x88\x92")) plain.replace(0, 3, "-");
        EXPECT_NEAR((ticks.at[i] - ticks.offset) / (ticks.high - ticks.low),
                    test::number_of(plain) * std::pow(10.0, ticks.power) / (ticks.high - ticks.low), 1e-6);
      }
    }
  }
  // Small panels ask for few, and get two at least.
  for (double low = -5; low < 5; low += 0.037) {
    for (double width = 0.1; width < 10; width *= 1.07) {
      for (const int wanted : {1, 3})
        ASSERT_GE(detail::ticks_for(low, low + width, wanted).at.size(), 2u) << low << " " << width;
    }
  }
  EXPECT_EQ(detail::axis_title("t", "min", detail::ticks_for(0, 100, 6)), "t (min)");
  EXPECT_EQ(detail::axis_title("p", "Pa", detail::ticks_for(0, 3e9, 6)), "p (10⁹ Pa)");
  EXPECT_TRUE(has(detail::axis_title("t", "s", detail::ticks_for(1e9, 1e9 + 1, 6)), "− 1000000000"));
}

// Places of a logarithmic axis: equal ratios are equal lengths, labels are what they stand for.
TEST(Ticks, OfALogarithmicAxisSayWhatTheyAre) {
  for (const double low : {1e-250, 3e-7, 0.02, 1.0, 70.0, 4e11}) {
    for (const double ratio : {1.1, 2.0, 8.0, 60.0, 5e3, 1e9, 1e40}) {
      SCOPED_TRACE(testing::Message() << low << " x " << ratio);
      const detail::Ticks ticks = detail::ticks_for(low, low * ratio, 6, AxisScale::logarithmic);
      EXPECT_NEAR(ticks.share(low * std::sqrt(ratio)), 0.5, ratio < 1.5 ? 0.01 : 1e-9);
      EXPECT_GT(ticks.share(low), 0);
      EXPECT_LT(ticks.share(low * ratio), 1);
      EXPECT_NEAR(ticks.value(ticks.share(low * ratio)) / (low * ratio), 1, 1e-9);
      EXPECT_LT(ticks.share(0), 0);
      EXPECT_LT(ticks.share(-low), 0);
      ASSERT_GE(ticks.at.size(), 2u);
      EXPECT_LE(ticks.at.size(), 14u);
      for (std::size_t i = 0; i < ticks.at.size(); ++i) {
        if (i > 0) EXPECT_GT(ticks.at[i], ticks.at[i - 1]);
        EXPECT_LE(ticks.labels[i].size(), 16u) << ticks.labels[i];
      }
    }
  }
  const detail::Ticks decades = detail::ticks_for(0.001, 1e6, 6, AxisScale::logarithmic);
  EXPECT_EQ(decades.labels.front(), "0.001");
  EXPECT_EQ(decades.labels.back(), "10⁵");  // every second power
  const detail::Ticks few = detail::ticks_for(1.2, 48, 6, AxisScale::logarithmic);
  EXPECT_EQ(few.labels, (std::vector<std::string>{"2", "5", "10", "20", "50"}));
}

// From one end of the doubles to the other.
TEST(Ticks, HoldAtTheEndsOfTheNumbers) {
  constexpr double least = 5e-324;
  constexpr double most = 1.7e308;
  for (const auto& [low, high] :
       {std::pair{1e-300, 1e300}, {least, most}, {1e-308, 1.0}, {1.0, most}, {least, 1e-320}}) {
    SCOPED_TRACE(testing::Message() << low << " to " << high);
    const detail::Ticks ticks = detail::ticks_for(low, high, 6, AxisScale::logarithmic);
    EXPECT_LE(ticks.at.size(), 14u);
    for (const double share : {ticks.share(low), ticks.share(high)}) EXPECT_TRUE(std::isfinite(share));
    EXPECT_GT(ticks.share(high), ticks.share(low));
    if (low > 1e-307 && high < 1e307) {
      EXPECT_NEAR(ticks.share(std::sqrt(low) * std::sqrt(high)), 0.5, 0.02);
      EXPECT_NEAR(ticks.value(ticks.share(high)) / high, 1, 1e-9);
    }
  }
  for (const auto& [low, high] : {std::pair{-most, most}, {0.0, most}, {-most, -most}, {0.0, least}}) {
    const detail::Ticks ticks = detail::ticks_for(low, high, 6);
    EXPECT_TRUE(std::isfinite(ticks.low) && std::isfinite(ticks.high)) << low;
    EXPECT_LE(ticks.at.size(), 50u);
  }
}

Fit a_fit() {
  return fit(shape_model("line"), Observations::of(Eigen::Vector4d(1, 2, 3, 4), Eigen::Vector4d(3.1, 4.9, 7.2, 8.8),
                                                   Eigen::Vector4d(0.1, 0.2, 0.1, 0.3)));
}

std::uint32_t big_endian(const std::string& bytes, std::size_t at) {
  std::uint32_t value = 0;
  for (std::size_t i = 0; i < 4; ++i) value = value << 8 | static_cast<unsigned char>(bytes[at + i]);
  return value;
}

TEST(FitFigure, IsWrittenWholeInEachFormat) {
  const test::TemporaryFolder folder;
  draw_fit(a_fit(), folder / "line.png");
  const std::string png = test::file_text(folder / "line.png");
  ASSERT_EQ(png.substr(1, 3), "PNG");
  EXPECT_EQ(big_endian(png, 16), 1280u);
  EXPECT_EQ(big_endian(png, 20), 800u);
  draw_fit(a_fit(), folder / "line.svg");
  const std::string svg = test::file_text(folder / "line.svg");
  EXPECT_TRUE(has(svg, "</svg>"));
  EXPECT_TRUE(has(svg, ">fitted curve<"));  // text is text
  draw_fit(a_fit(), folder / "again.svg");
  EXPECT_TRUE(svg == test::file_text(folder / "again.svg"));
  draw_fit(a_fit(), folder / "line.pdf");
  EXPECT_EQ(test::file_text(folder / "line.pdf").substr(0, 4), "%PDF");
  draw_checks(a_fit(), folder / "checks.svg");
  const std::string checks = test::file_text(folder / "checks.svg");
  EXPECT_TRUE(has(checks, "</svg>"));
  EXPECT_FALSE(has(checks, "nan"));
  draw_look(a_fit().observations(), folder / "look.svg");
  EXPECT_TRUE(has(test::file_text(folder / "look.svg"), "</svg>"));
  EXPECT_THROW(draw_look(a_fit().observations(), folder / "look.svg", -1), Error);
  EXPECT_THROW(draw_fit(a_fit(), folder / "line.gif"), Error);
  EXPECT_THROW(draw_fit(a_fit(), folder / "line.svg", {.level = 2}), Error);
  EXPECT_THROW(draw_fit(a_fit(), "/no/such/folder/line.svg"), Error);
}

// Names as long as a page and longer, of any letters and of what is none: cut at what fits, with an ellipsis.
TEST(FitFigure, CutsTextsToTheirPlaces) {
  const test::TemporaryFolder folder;
  std::string bells;
  for (int i = 0; i < 2000; ++i) bells += "\u9418\U0001F514";
  std::string escapes = "\x1b[2J";
  for (int i = 0; i < 1000; ++i) escapes += "\u202e<a>";
  for (const std::string& name :
       {std::string(3000, 'i'), std::string(3000, '#'), std::string(3000, '&'), bells, escapes}) {
    const std::string rows = fmt::format("\"x ({0})\",\"y ({0})\"\n1,3.1\n2,4.9\n3,7.2\n4,8.8\n", name);
    const auto result = test::run_command({"fit", "-", "line", "--x", "x", "--y", "y", "--figure", folder / "a.svg",
                                           "--figure", folder / "a.png", "--figure", folder / "a.pdf"},
                                          rows);
    ASSERT_EQ(result.code, 0) << result.error.substr(0, 1000);
    pugi::xml_document svg;
    ASSERT_TRUE(svg.load_file((folder / "a.svg").c_str())) << name.substr(0, 20);
    std::size_t cut = 0;
    for (const pugi::xpath_node& text : svg.select_nodes("//tspan")) {
      const std::string words = text.node().text().as_string();
      EXPECT_LT(words.size(), 1000u);
      EXPECT_EQ(words.find('\x1b'), std::string::npos);
      if (words.ends_with("…")) ++cut;
    }
    EXPECT_GE(cut, 2u) << "both axes";
  }
}

// An exponential is straight on a logarithmic axis: the curve's path becomes two points.
TEST(FitFigure, HasLogarithmicAxesWhereAsked) {
  const test::TemporaryFolder folder;
  VectorXd x = VectorXd::LinSpaced(9, 0, 8);
  VectorXd y = (0.7 * x.array()).exp() * 2;
  for (Eigen::Index i = 0; i < 9; ++i) y[i] *= 1 + 0.02 * (i % 2 == 0 ? 1 : -1);
  const Fit growth = fit(shape_model("exponential"), Observations::of(x, y));
  draw_fit(growth, folder / "log.svg", {.layout = {.y = {.scale = AxisScale::logarithmic}}});
  const std::string svg = test::file_text(folder / "log.svg");
  const auto curve = svg.find("stroke=\"#BC5214\" stroke-width=\"2.2\" d=\"M");
  ASSERT_NE(curve, std::string::npos);
  const std::string path = svg.substr(curve, svg.find("/>", curve) - curve);
  EXPECT_LE(std::count(path.begin(), path.end(), ','), 3) << path;
  EXPECT_TRUE(has(svg, ">500<"));
  const Error refused = test::caught(
      [&] { draw_fit(growth, folder / "refused.svg", {.layout = {.x = {.scale = AxisScale::logarithmic}}}); });
  EXPECT_EQ(refused.code(), ErrorCode::unsuitable_row);
  EXPECT_TRUE(has(refused.message(), "row 1"));
  EXPECT_FALSE(std::filesystem::exists(folder / "refused.svg"));
  draw_look(growth.observations(), folder / "look.svg", not_a_number, {.y = {.scale = AxisScale::logarithmic}});
  EXPECT_TRUE(has(test::file_text(folder / "look.svg"), ">500<"));
}

// What the driver writes, made small: lines of one style in one path, straight ones without the points between.
TEST(TidySvg, KeepsThePictureAndItsText) {
  const std::string line = "<polyline\n stroke-width=\"1.000000e+00\"\n stroke=\"#112233\"\n fill=\"none\"\n points=\"";
  const std::string svg =
      "<?xml?>\n<!DOCTYPE svg>\n<svg\n width=\"1280pt\"\n height=\"800pt\"\n viewBox=\"0 0 1280 800\"\n>\n" + line +
      "0.00,0.00 1.00,1.00 2.00,2.00\n\"/>\n" + line + "2.00,2.00 3.00,3.00\n\"/>\n" + line +
      "7.00,0.00 8.00,5.00 9.00,0.00\"/>\n<text\n x=\"1\"\n><tspan>&#x61;&#xb5;&#x3c;&#x26;</tspan></text>\n</svg>\n";
  const std::string tidy = detail::tidy_svg(svg);
  EXPECT_TRUE(has(tidy, "width=\"1280\" height=\"800\""));
  EXPECT_TRUE(has(tidy, "d=\"M0,0 3,3M7,0 8,5 9,0\"/>"));
  EXPECT_TRUE(has(tidy, "<tspan>aµ&lt;&amp;</tspan></text>"));
  EXPECT_THROW((void)detail::tidy_svg("nothing"), Error);
  // Of a picture that a full disk has cut nothing is made.
  for (std::size_t length = 0; length + 2 < svg.size(); ++length)
    EXPECT_THROW((void)detail::tidy_svg(svg.substr(0, length)), Error) << length;
}

}  // namespace
}  // namespace truecurve
