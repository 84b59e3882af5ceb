// The words of the residual checks.
#include "check_words.hpp"

#include <truecurve/base/distributions.hpp>

#include "../model/parser.hpp"

#include <algorithm>

#include <fmt/format.h>

namespace truecurve::detail {
namespace {

// What is said where nothing is found, and where something is.
struct Words {
  std::string nothing;
  std::string finding;
};

// "x", "x^2".
std::string missing_term(const ResidualDesign& design, const Fit& fit) {
  const std::string& x = fit.model().predictors()[design.missing_power_of()];
  return design.missing_power() == 1 ? x : fmt::format("{}^{}", in_formula(x), design.missing_power());
}

Words words_of(const Check& check, const ResidualDesign& design, const Fit& fit) {
  const bool has_axis = !fit.observations().predictors().empty();
  const std::string along = has_axis ? "along " + fit.observations().predictors()[0].name : "in the order of the rows";
  switch (check.kind) {
    case CheckKind::equal_variance:
      return {"No trend in the size of the residuals detected.",
              fmt::format("The residuals {} as the fitted value rises.", check.statistic > 0 ? "grow" : "shrink")};
    case CheckKind::curvature:
      return {fmt::format("No remaining curvature {} detected.", along),
              fmt::format("The residuals bend {} {}.", check.statistic > 0 ? "upwards" : "downwards", along)};
    case CheckKind::origin:
      return {"No missing constant term detected.",
              fmt::format("The response does not vanish at the origin: a constant term would be {} 0.",
                          check.statistic > 0 ? "above" : "below")};
    case CheckKind::lower_power: {
      const std::string term = missing_term(design, fit);
      return {fmt::format("No missing term in {} detected.", term), fmt::format("A term in {} is missing.", term)};
    }
    case CheckKind::runs: {
      const ResidualDesign::Signs signs = design.signs(design.residuals());
      const std::string runs = fmt::format("{} runs of signs {} ({} positive, {} negative)", signs.runs, along,
                                           signs.positive, signs.negative);
      const double expected = 1 + 2.0 * signs.positive * signs.negative / std::max(1, signs.positive + signs.negative);
      return {runs + ": no trend or alternation detected.",
              runs + (signs.runs < expected ? ": fewer than chance gives." : ": more than chance gives.")};
    }
    case CheckKind::serial_correlation:
      return {"No serial correlation detected.", fmt::format("Neighbouring residuals {} are {} correlated.", along,
                                                             check.statistic > 0 ? "positively" : "negatively")};
    case CheckKind::drift:
      return {"No drift in the order of measurement detected.",
              fmt::format("The residuals {} in the order of measurement.", check.statistic > 0 ? "rise" : "fall")};
    case CheckKind::normality: return {"No departure from normality detected.", "Departure from normality."};
    case CheckKind::outlier: {
      const std::string row =
          fmt::format("Row {} has the largest residual, {:.1f} standard deviations", check.row, check.statistic);
      return {row + ": no outlier detected.", row + ": an outlier."};
    }
    case CheckKind::lack_of_fit:
      return {"Lack of fit is not significant.", "The curve misses the means of the replicates (lack of fit)."};
    case CheckKind::chi_squared: {
      const bool large = check.statistic > design.degrees_of_freedom();
      if (fit.is_counted()) {
        return {"No overdispersion or underdispersion detected.",
                fmt::format("The rows scatter {} than the distribution explains ({}-dispersion).",
                            large ? "more" : "less", large ? "over" : "under")};
      }
      return {"Consistent with the stated uncertainties.",
              fmt::format("The residuals are {} than the stated uncertainties explain.", large ? "larger" : "smaller")};
    }
  }
  return {};
}

// What may be done, knowing what the fit is.
Advice advice_of(const Check& check, const ResidualDesign& design, const Fit& fit) {
  const Model& model = fit.model();
  const bool weighted = fit.observations().has_uncertainties() || fit.spread().is_given();
  std::string bend = "another shape of curve may describe the data better";
  if (model.is_straight_line()) bend = "add a quadratic term, or choose a curve that bends";
  if (design.missing_power() > 0)
    bend = fmt::format("add a term in {}, or choose another shape of curve", missing_term(design, fit));
  if (model.polynomial_degree() > 1) bend = "try the next degree, or another shape of curve";
  switch (check.kind) {
    case CheckKind::equal_variance:
      return weighted ? "the weights do not follow the scatter: check the uncertainties, or assume another scatter"
                      : "give standard uncertainties, let the scatter grow with the response, or transform it";
    case CheckKind::curvature:
    case CheckKind::lack_of_fit: return bend;
    case CheckKind::runs:
    case CheckKind::serial_correlation: {
      const ResidualDesign::Signs signs = design.signs(design.residuals());
      const bool trend =
          check.kind == CheckKind::runs ? 2 * signs.runs < 2 + signs.positive + signs.negative : check.statistic > 0;
      return trend ? bend + "; readings that depend on their neighbours make the uncertainties too small"
                   : "the readings alternate: check the order of measurement";
    }
    case CheckKind::origin: return "add a constant term, or subtract the blank from the response";
    case CheckKind::lower_power: return fmt::format("add a term in {}", missing_term(design, fit));
    case CheckKind::drift: return "check the stability of the instrument, and measure in random order";
    case CheckKind::normality:
      return "look for outlying readings or unequal scatter; estimates are little affected, prediction bands are";
    case CheckKind::outlier:
      return fmt::format("check row {} in the notebook: correct a recording error, keep a genuine value", check.row);
    case CheckKind::chi_squared:
      if (fit.is_counted()) {
        return check.statistic > design.degrees_of_freedom()
                   ? Advice{"look for a predictor that is missing or for trials that are not independent; the dispersion "
                            "can scale the uncertainties",
                            {Action::scale_by_scatter}}
                   : "look for trials that depend on one another";
      }
      return check.statistic > design.degrees_of_freedom()
                 ? "the uncertainties may be too small, the curve unsuitable, or a reading wrong"
                 : "the uncertainties may be too large";
  }
  return "";
}

}  // namespace

void put_into_words(Check& check, std::size_t checks, const ResidualDesign& design, const Fit& fit) {
  constexpr double noticeable = 0.05;
  const Words words = words_of(check, design, fit);
  if (check.is_significant()) {
    check.sentence = words.finding;
    check.advice = advice_of(check, design, fit);
  } else if (check.p < noticeable && checks > 1) {
    check.sentence = fmt::format("{} Taken alone significant at 5 %, among all {} checks not.", words.finding, checks);
  } else {
    check.sentence = words.nothing;
  }
}

}  // namespace truecurve::detail
