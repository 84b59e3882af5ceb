// --equation: the fitted equation with its numbers, to be copied.
#pragma once

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

  [[nodiscard]] bool is_wanted() const { return language.has_value(); }
};

/// --equation and --cell.
void add_equation(Arguments& command, EquationOptions& options);

/// Refuses beside it what it would leave without effect: another form of output, cells of no spreadsheet. Throws Error
/// (bad_argument).
void require_equation_alone(const EquationOptions& equation, const OutputOptions& output);

/// The equation on a line of its own; nothing where none is asked for.
[[nodiscard]] std::string equation_text(const Estimate& estimate, const EquationOptions& options);

}  // namespace truecurve::app
