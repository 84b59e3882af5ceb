// The truth behind the bell foundry's demo data. Everything is made up; the tests hold the fits against these numbers.
#pragma once

#include <array>
#include <cstdint>

namespace truecurve::demo {

/// A new thermometer compared with the laboratory's reference in a stirred bath and a tube furnace, each reading with its
/// own stated standard uncertainty: t_test = offset + slope * t_ref.
struct ThermometerTruth {
  static constexpr std::uint64_t seed = 1501;
  static constexpr double offset = 0.42;   // degC
  static constexpr double slope = 1.0031;  // degC/degC
  static constexpr std::array<double, 13> reference = {20, 40, 60, 80, 100, 120, 140, 160, 180, 200, 220, 240, 260};  // degC
  /// Standard uncertainty of a reading, degC: the bath up to 140 degC, the furnace above.
  static constexpr double bath = 0.08;
  static constexpr double furnace = 0.20;
};

/// Lead standards in bronze, measured by spark emission: intensity = blank + sensitivity * mass fraction, four sparks a
/// standard with equal scatter.
struct LeadStandardsTruth {
  static constexpr std::uint64_t seed = 1502;
  static constexpr double blank = 1.85;         // kcps
  static constexpr double sensitivity = 6.314;  // kcps per mg/g
  static constexpr double scatter = 0.55;       // kcps
  static constexpr std::array<double, 8> levels = {0, 0.5, 1, 2, 4, 6, 8, 10};  // mg/g
  static constexpr int replicates = 4;
};

}  // namespace truecurve::demo
