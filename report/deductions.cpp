// Sets them on the page.
#include "deductions.hpp"

#include "page.hpp"

#include <cmath>

#include <fmt/format.h>

namespace truecurve::detail {

std::string curved_remark(const DerivedQuantity& q, Level level) {
  if (q.is_unbounded) {
    return item(fmt::format("A divisor in {} may be 0 within its uncertainty: at {} no bounded interval of {} holds{}.",
                            q.name, level_text(level), q.name,
                            std::isnan(q.excluded.low) ? "" : "; it may be " + rays_text(q.excluded)));
  }
  if (!q.curved) return "";
  std::string text = fmt::format(
      "The symmetric interval of {} is inaccurate: the expression is nonlinear over the uncertainty of the parameters. "
      "Its "
      "{} Monte Carlo interval is {}.",
      q.name, level_text(level), interval_text(q.monte_carlo.low, q.monte_carlo.high, q.standard_uncertainty));
  if (q.without_value > 0)
    text += fmt::format(" In {} of the draws {} has no value.", share_text(q.without_value), q.name);
  return item(text);
}

std::string deductions_text(const Deductions& deductions, Level level) {
  std::string text;
  if (!deductions.derived.empty()) {
    Grid grid({{"name", Align::left},
               {"value", Align::point},
               {"standard uncertainty", Align::point},
               {level_text(level) + " interval", Align::left},
               {"from", Align::left}});
    for (const DerivedQuantity& q : deductions.derived) {
      const bool known = std::isfinite(q.standard_uncertainty);
      grid.add({q.name, with_uncertainty(q.value, q.standard_uncertainty),
                known ? rounded(q.standard_uncertainty, 2) : "-",
                q.is_unbounded ? std::isnan(q.excluded.low) ? "no bounded interval" : rays_text(q.excluded)
                : known ? interval_text(q.interval.low, q.interval.high, q.standard_uncertainty)
                               : "-",
                q.expression});
    }
    text += "\nDerived quantities\n" + grid.text();
  }
  if (!deductions.hypotheses.empty()) {
    text += "\nHypotheses\n";
    for (const HypothesisTest& h : deductions.hypotheses) {
      const std::string verdict =
          std::isnan(h.p)
              ? "it cannot be tested"
              : fmt::format("{} at the {} level", h.p < 1 - level ? "rejected" : "not rejected", level_text(1 - level));
      text += item(fmt::format("{}: the sides differ by {}, t = {}, p = {}; {}.", h.hypothesis,
                               with_uncertainty(h.difference, h.standard_uncertainty), number_or_dash(h.t, 3),
                               std::isnan(h.p) ? "-" : probability_text(h.p), verdict));
    }
  }
  return text;
}

std::string limits_caution(const Estimate& estimate) {
  std::string careful;
  for (const std::string& remark : limit_remarks(estimate)) careful += item(remark);
  return careful;
}

std::string joined_remarks(std::initializer_list<std::string> remarks) {
  std::string text;
  for (const std::string& remark : remarks) {
    if (!remark.empty()) text += (text.empty() ? "" : "; ") + remark;
  }
  return text;
}

}  // namespace truecurve::detail
