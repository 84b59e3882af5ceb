// Parts of pages that several share: which rows were used, derived quantities, what follows from a parameter at its
// limit.
#pragma once

#include <truecurve/assess/bands.hpp>
#include <truecurve/assess/derived.hpp>
#include <truecurve/base/level.hpp>
#include <truecurve/base/vector.hpp>
#include <truecurve/data/observations.hpp>
#include <truecurve/fit/estimate.hpp>
#include <truecurve/report/page.hpp>

#include <initializer_list>
#include <span>
#include <string>

namespace truecurve::detail {

/// "all 21 rows of cooling.csv", "20 of 21 rows of cooling.csv".
[[nodiscard]] std::string rows_used_text(const Observations& observations);
/// " of cooling.csv", or nothing.
[[nodiscard]] std::string of_source(const TableSource& source);
/// A caution for each reason, with its rows.
void add_left_out(Page& page, std::span<const LeftOut> left_out);
/// A row for each parameter that was held: its name, its value, "held".
void add_held(PageTable& table, const Model& model);

/// "With numbers: y = 1.15 + 1.94*x"; empty where the model has no equation or its parameters no values.
[[nodiscard]] std::string equation_sentence(const Estimate& estimate);

/// The sections of derived quantities and hypotheses.
void add_deductions(Page& page, const Deductions& deductions, Level level);
/// What to be careful about in a derived quantity; empty where nothing.
[[nodiscard]] std::string curved_remark(const DerivedQuantity& q, Level level);
/// What follows from a parameter at its limit.
void add_limit_cautions(Page& page, const Estimate& estimate);
/// Those that are not empty, between semicolons.
[[nodiscard]] std::string joined_remarks(std::initializer_list<std::string> remarks);
/// "low to high" rounded to its width; "-" where there is none.
[[nodiscard]] std::string bounds_text(const Interval& interval);

/// "T (°C) is 61.2(3) at t = 5; 40.1(2) at t = 10 and so on."
[[nodiscard]] std::string values_sentence(const Estimate& estimate, std::span<const Vector> points,
                                          std::span<const BandPoint> values);

}  // namespace truecurve::detail
