// What the writer and the reader of calibrations share.
#pragma once

#include <truecurve/data/scatter.hpp>

#include "json.hpp"

#include <array>
#include <string>
#include <string_view>

namespace truecurve::detail {

/// The names of the forms of scatter in a calibration, and the forms in the same order.
inline constexpr std::array<std::string_view, 4> form_names = {"constant", "power", "function", "tabulated"};
inline constexpr std::array forms = {Scatter::Form::constant, Scatter::Form::power, Scatter::Form::growing,
                                     Scatter::Form::tabulated};

/// Of the content without the checksum itself, in the order in which the fields stand.
[[nodiscard]] std::string checksum_of(Json record);

}  // namespace truecurve::detail
