// Writes notes into a panel.
#include "notes.hpp"

#include <truecurve/assess/equation.hpp>
#include <truecurve/assess/quality.hpp>

#include <cmath>
#include <string>
#include <vector>

#include <fmt/format.h>

namespace truecurve::detail {
namespace {

std::vector<std::string> notes_of(const Fit& fit) {
  const Quality q = quality_of(fit);
  const Quantity& response = fit.observations().response();
  std::vector<std::string> notes;
  if (fit.model().kind() != "function") notes.push_back(equation_with_numbers(fit.estimate()));
  std::string quality = fmt::format("n = {}", fit.size());
  if (!fit.is_counted() && std::isfinite(q.measured_scale.residual_sd))
    quality += fmt::format(", S = {}{}", rounded(q.measured_scale.residual_sd, 3),
                           response.unit.empty() ? "" : " " + response.unit);
  if (!fit.is_counted() && std::isfinite(q.measured_scale.r_squared))
    quality += fmt::format(", R² = {:.6g} of {}", q.measured_scale.r_squared, response.name);
  notes.push_back(std::move(quality));
  return notes;
}

}  // namespace

void draw_equation_notes(Canvas& canvas, const Frame& frame, const Fit& fit, Horizontal side) {
  const double line_height = canvas.row_step(0.035);
  const double x = side == Horizontal::left ? frame.left + 0.015 : frame.right - 0.01;
  double y = frame.top - line_height;
  for (const std::string& note : notes_of(fit)) {
    canvas.text(x, y, note, side, 0.95, ink);
    y -= line_height;
  }
}

}  // namespace truecurve::detail
