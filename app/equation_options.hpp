// --equation: the fitted equation with its numbers, to be copied.
#pragma once

#include <truecurve/base/level.hpp>
#include <truecurve/fit/estimate.hpp>
#include <truecurve/model/formula_language.hpp>

#include "arguments.hpp"
#include "output.hpp"

#include <optional>
#include <string>
#include <vector>

namespace truecurve::app {

struct EquationOptions {
  std::optional<FormulaLanguage> language;
  std::vector<std::string> cells;
  bool band = false;

  [[nodiscard]] bool is_wanted() const { return language.has_value(); }
};

/// --equation, --cell and --band.
void add_equation(Arguments& command, EquationOptions& options);

/// Refuses beside it what it would leave without effect: another form of output, cells of no spreadsheet. Throws Error
/// (bad_argument).
void require_equation_alone(const EquationOptions& equation, const OutputOptions& output);

/// The equation on a line of its own, below it the formulas of the bands at that level where they are asked for;
/// nothing without --equation. Throws Error (not_supported, bad_argument).
[[nodiscard]] std::string equation_text(const Estimate& estimate, Level level, const EquationOptions& options);

}  // namespace truecurve::app
