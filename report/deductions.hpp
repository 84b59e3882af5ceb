// Parts of pages that several share: derived quantities, and what follows from a parameter at its limit.
#pragma once

#include <truecurve/assess/derived.hpp>
#include <truecurve/fit/estimate.hpp>

#include <initializer_list>
#include <string>

namespace truecurve::detail {

/// The tables of derived quantities and hypotheses.
[[nodiscard]] std::string deductions_text(const Deductions& deductions, Level level);
/// What to be careful about in a derived quantity, as an item; empty where nothing.
[[nodiscard]] std::string curved_remark(const DerivedQuantity& q, Level level);
/// What follows from a parameter at its limit, as items.
[[nodiscard]] std::string limits_caution(const Estimate& estimate);
/// Those that are not empty, between semicolons.
[[nodiscard]] std::string joined_remarks(std::initializer_list<std::string> remarks);

}  // namespace truecurve::detail
