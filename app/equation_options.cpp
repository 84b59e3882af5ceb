// Prints fitted equations.
#include "equation_options.hpp"

#include <truecurve/assess/equation.hpp>

#include "command.hpp"

#include <array>

namespace truecurve::app {
namespace {

constexpr std::array languages = {FormulaLanguage::text, FormulaLanguage::latex, FormulaLanguage::c,
                                  FormulaLanguage::cpp, FormulaLanguage::spreadsheet};

}  // namespace

void add_equation(Arguments& command, EquationOptions& options) {
  std::vector<std::string> words;
  for (const FormulaLanguage language : languages) words.emplace_back(name(language));
  const Argument equation = command
                                .add(
                                    "--equation",
                                    [&options](const std::string& word) {
                                      for (const FormulaLanguage language : languages) {
                                        if (word == name(language)) options.language = language;
                                      }
                                    },
                                    "Print nothing but the fitted equation with its numbers, in this notation")
                                .one_of(words);
  command
      .add("--cell", options.cells,
           "With --equation spreadsheet: the cell of a predictor, in the order of the model (default: A2, B2, ...)")
      .takes("CELL")
      .needs(equation);
  command
      .add_flag("--band", options.band,
                "With --equation: also the standard uncertainty of the curve and the limits of its confidence band and "
                "of the band of new observations, at --level, as formulas")
      .needs(equation);
}

void require_equation_alone(const EquationOptions& equation, const OutputOptions& output) {
  if (!equation.is_wanted()) return;
  refuse_beside("--equation", {{output.format != Format::text, "--format"}, {output.brief, "--brief"}},
                "omit it: with --equation nothing but the equation is printed; --output keeps the record");
  if (*equation.language != FormulaLanguage::spreadsheet)
    refuse_beside("--equation of another kind", {{!equation.cells.empty(), "--cell"}},
                  "cells belong to --equation spreadsheet");
}

std::string equation_text(const Estimate& estimate, Level level, const EquationOptions& options) {
  if (!options.is_wanted()) return "";
  const FormulaLanguage language = *options.language;
  std::string text = equation_with_numbers(estimate, language, options.cells) + "\n";
  if (!options.band) return text;
  // Cells have no names of their own: what each formula is stands in the cell before it.
  const bool in_cells = language == FormulaLanguage::spreadsheet;
  if (in_cells) text = estimate.response().name + "\t" + text;
  for (const BandFormula& formula : band_with_numbers(estimate, level, language, options.cells))
    text += (in_cells ? formula.description + "\t" : "") + formula.text + "\n";
  return text;
}

}  // namespace truecurve::app
