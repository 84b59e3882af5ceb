// A unit as powers of what it is written with: "g/cm3" is g^1 cm^-3.
#pragma once

#include "../base/rational.hpp"

#include <string>
#include <vector>

namespace truecurve::detail {

/// A unit as it is written, without its exponent, and the exponent. Units that differ only in spelling (µm and um, L
/// and l) have the same key.
struct UnitPower {
  std::string key{};
  std::string text{};
  Rational power = 1;
};

/// The powers of a unit; each key once, those of power 0 left out. Everything behind a stroke stands beneath it, as in
/// "W/m K"; brackets hold together. "1", "rad" and an empty text have none; what can't be read as powers (a number in
/// it, an open bracket) is one unit of its own.
[[nodiscard]] std::vector<UnitPower> unit_powers(const std::string& unit);

}  // namespace truecurve::detail
