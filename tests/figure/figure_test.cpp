// Figures: complete files of the right kind, ticks that can be read at any magnitude.
#include <truecurve/base/error.hpp>
#include <truecurve/figure/checks_figure.hpp>
#include <truecurve/figure/fit_figure.hpp>
#include <truecurve/figure/look_figure.hpp>
#include <truecurve/model/shapes.hpp>

#include "../../figure/ticks.hpp"
#include "../support.hpp"

#include <cmath>

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
                    std::stod(plain) * std::pow(10.0, ticks.power) / (ticks.high - ticks.low), 1e-6);
      }
    }
  }
  EXPECT_EQ(detail::axis_title("t", "min", detail::ticks_for(0, 100, 6)), "t (min)");
  EXPECT_EQ(detail::axis_title("p", "Pa", detail::ticks_for(0, 3e9, 6)), "p (10⁹ Pa)");
  EXPECT_NE(detail::axis_title("t", "s", detail::ticks_for(1e9, 1e9 + 1, 6)).find("− 1000000000"), std::string::npos);
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
  EXPECT_NE(svg.find("</svg>"), std::string::npos);
  draw_fit(a_fit(), folder / "again.svg");
  EXPECT_TRUE(svg == test::file_text(folder / "again.svg"));
  draw_fit(a_fit(), folder / "line.pdf");
  EXPECT_EQ(test::file_text(folder / "line.pdf").substr(0, 4), "%PDF");
  draw_checks(a_fit(), folder / "checks.svg");
  const std::string checks = test::file_text(folder / "checks.svg");
  EXPECT_NE(checks.find("</svg>"), std::string::npos);
  EXPECT_EQ(checks.find("nan"), std::string::npos);
  draw_look(a_fit().observations(), folder / "look.svg");
  EXPECT_NE(test::file_text(folder / "look.svg").find("</svg>"), std::string::npos);
  EXPECT_THROW(draw_look(a_fit().observations(), folder / "look.svg", -1), Error);
  EXPECT_THROW(draw_fit(a_fit(), folder / "line.gif"), Error);
  EXPECT_THROW(draw_fit(a_fit(), folder / "line.svg", {.level = 2}), Error);
  EXPECT_THROW(draw_fit(a_fit(), "/no/such/folder/line.svg"), Error);
}

}  // namespace
}  // namespace truecurve
