// The page of penalised estimates.
#include <truecurve/report/penalised_text.hpp>

#include "deductions.hpp"
#include "page.hpp"

#include <cmath>

#include <fmt/format.h>

namespace truecurve {

using detail::Align;
using detail::csv_field;
using detail::csv_number;
using detail::Grid;
using detail::item;
using detail::level_text;
using detail::paragraph;
using detail::plural;

std::string penalised_text(const PenalisedEstimates& found, const Observations& rows, Level level,
                           const Deductions& deductions) {
  std::string text =
      fmt::format("{}\npenalised likelihood of {}{}\n\n", found.estimate.model().text(), plural(rows.size(), "row"),
                  rows.source().name.empty() ? "" : " of " + rows.source().name);
  text += paragraph(detail::parameters_sentence(found.parameters)) + "\n";
  text += paragraph(
      "As asked for, the parameters maximise the log likelihood plus half the logarithm of the determinant of the "
      "expected information (Firth 1993). They are finite whatever the outcomes, and drawn towards no dependence, the "
      "more "
      "the fewer the rows. Intervals and p are those of the penalised likelihood's profile.");
  text += paragraph(!found.why_none.empty()
                        ? fmt::format("Without the penalty there is no greatest likelihood: {}.", found.why_none)
                        : fmt::format("The log likelihood of the rows is {}; the greatest, without the penalty, is {}.",
                                      rounded(found.log_likelihood, 6), rounded(found.greatest_log_likelihood, 6)));
  text += "\nParameters\n";
  Grid grid({{"name", Align::left},
             {"value", Align::point},
             {"standard uncertainty", Align::point},
             {level_text(level) + " penalised profile interval", Align::left},
             {"p (H0: = 0)", Align::left}});
  for (const FixedParameter& held : found.estimate.model().fixed())
    grid.add({held.name, shortest(held.value), "held", "-", "-"});
  for (const ParameterInterval& p : found.parameters)
    grid.add({p.name, with_uncertainty(p.value, p.standard_uncertainty), rounded(p.standard_uncertainty, 2),
              std::isnan(p.low) || std::isnan(p.high) ? "-" : interval_text(p.low, p.high, p.standard_uncertainty),
              std::isnan(p.p) ? "-" : probability_text(p.p)});
  text += grid.text() + detail::deductions_text(deductions, level);
  std::string careful;
  if (!found.converged) careful += item("The search did not converge: do not use the numbers.");
  for (const LeftOut& left : rows.left_out())
    careful += item(fmt::format("Left out: row {}: {}.", left.row, left.reason));
  return careful.empty() ? text : text + "\nCautions\n" + careful;
}

std::string penalised_csv(const PenalisedEstimates& found) {
  std::string text = "name,value,standard_uncertainty,low,high,p\n";
  for (const ParameterInterval& p : found.parameters)
    text += fmt::format("{},{},{},{},{},{}\n", csv_field(p.name), csv_number(p.value),
                        csv_number(p.standard_uncertainty), csv_number(p.low), csv_number(p.high), csv_number(p.p));
  return text;
}

}  // namespace truecurve
