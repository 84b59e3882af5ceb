// How the axes of a figure are divided.
//
// Example:
//     const truecurve::Axes axes{.x = truecurve::AxisScale::logarithmic};
//     EXPECT_EQ(axes.y, truecurve::AxisScale::linear);
#pragma once

namespace truecurve {

enum class AxisScale { linear, logarithmic };

/// A logarithmic axis shows only what is above zero: a row that is not is refused with its number, a band is drawn as
/// far as it goes.
struct Axes {
  AxisScale x = AxisScale::linear;
  AxisScale y = AxisScale::linear;
};

}  // namespace truecurve
