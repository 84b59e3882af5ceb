// The page of penalised estimates.
#include <truecurve/report/penalised_page.hpp>

#include "parts.hpp"
#include "words.hpp"

#include <cmath>

#include <fmt/format.h>

namespace truecurve {

using detail::level_text;
using detail::of_source;
using detail::p_text;

Page penalised_page(const PenalisedEstimates& found, const Observations& rows, Level level,
                    const Deductions& deductions) {
  Page page{
      .title = found.estimate.model().text(),
      .subject = fmt::format("penalised likelihood of {}{}", plural(rows.size(), "row"), of_source(rows.source()))};
  page.lead.say(detail::parameters_sentence(found.parameters));
  page.lead.say(
      "As chosen, the parameters maximise the log likelihood plus half the logarithm of the determinant of the "
      "expected information (Firth 1993). They are finite whatever the outcomes, and drawn towards no dependence, the "
      "more the fewer the rows. Intervals and p are those of the penalised likelihood's profile.");
  page.lead.say(!found.why_none.empty()
                    ? fmt::format("Without the penalty there is no greatest likelihood: {}.", found.why_none)
                    : fmt::format("The log likelihood of the data is {}; the greatest, without the penalty, is {}.",
                                  rounded(found.log_likelihood, 6), rounded(found.greatest_log_likelihood, 6)));
  PageTable table({{"name", Align::left},
                   {"value", Align::point},
                   {"standard uncertainty", Align::point},
                   {level_text(level) + " penalised profile interval", Align::left},
                   {"p (H0: = 0)", Align::left}});
  detail::add_held(table, found.estimate.model());
  page.data.names = {"name", "value", "standard_uncertainty", "low", "high", "p"};
  for (const ParameterInterval& p : found.parameters) {
    table.add({p.name, with_uncertainty(p.value, p.standard_uncertainty), rounded(p.standard_uncertainty, 2),
               std::isnan(p.low) || std::isnan(p.high) ? "-" : interval_text(p.low, p.high, p.standard_uncertainty),
               p_text(p.p)});
    page.data.rows.push_back({p.name, p.value, p.standard_uncertainty, p.low, p.high, p.p});
  }
  page.section("Parameters").show(std::move(table));
  detail::add_deductions(page, deductions, level);
  if (!found.converged) page.caution("The search did not converge: do not use the numbers.");
  detail::add_left_out(page, rows.left_out());
  return page;
}

}  // namespace truecurve
