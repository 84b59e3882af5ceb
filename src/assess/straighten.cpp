// Fits a line in every pair of transformed axes and ranks them on the scale of the measured response.
#include <truecurve/assess/checks.hpp>
#include <truecurve/assess/quality.hpp>
#include <truecurve/assess/straighten.hpp>
#include <truecurve/base/error.hpp>
#include <truecurve/fit/invalid_rows.hpp>
#include <truecurve/model/headers.hpp>
#include <truecurve/model/shapes.hpp>

#include "../base/matrices.hpp"

#include <algorithm>
#include <array>
#include <cmath>
#include <optional>

#include <fmt/format.h>
#include <fmt/ranges.h>

namespace truecurve {
namespace {

// The pairs of axes that a laboratory meets, the commonest first; {x} and {y} are the columns.
struct Way {
  const char* model;
  const char* axes;
  const char* meaning;
  const char* across;
  double (*place)(double);
};
double itself(double x) { return x; }
double inverse_of(double x) { return 1 / x; }
double logarithm_of(double x) { return std::log(x); }
double root_of(double x) { return std::sqrt(x); }
constexpr std::array<Way, 11> known_ways = {
    {{"{y} = a + b*{x}", "{y} against {x}", "a straight line", "{x}", itself},
     {"ln({y}) = a + b*{x}", "ln {y} against {x}", "an exponential", "{x}", itself},
     {"ln({y}) = a + b*ln({x})", "ln {y} against ln {x}", "a power", "ln({x})", logarithm_of},
     {"ln({y}) = a + b/{x}", "ln {y} against 1/{x}", "an Arrhenius curve", "1/{x}", inverse_of},
     {"1/{y} = a + b/{x}", "1/{y} against 1/{x}", "a saturation curve", "1/{x}", inverse_of},
     {"{y} = a + b*ln({x})", "{y} against ln {x}", "a logarithm", "ln({x})", logarithm_of},
     {"{y} = a + b/{x}", "{y} against 1/{x}", "a reciprocal", "1/{x}", inverse_of},
     {"{y} = a + b*sqrt({x})", "{y} against √{x}", "a square root", "sqrt({x})", root_of},
     {"1/{y} = a + b*{x}", "1/{y} against {x}", "reciprocal of a linear function", "{x}", itself},
     {"sqrt({y}) = a + b*{x}", "√{y} against {x}", "a parabola that touches the axis", "{x}", itself},
     {"{y}^2 = a + b*{x}", "{y}² against {x}", "square root of a linear function", "{x}", itself}}};
// Below this what bend is left is called so.
constexpr double significant = 0.05;
// Ways that lie no farther apart than this can't be told apart by the data, and the commoner one goes first.
constexpr double indistinguishable = 2;

// The polynomial of lowest AICc, as a smooth curve through points of unknown shape; nothing where none can be fitted.
std::optional<Fit> smooth_polynomial(const Observations& observations) {
  constexpr int highest_degree = 8;
  std::optional<Fit> best;
  double lowest = infinity;
  for (int degree = 1; degree <= highest_degree; ++degree) {
    try {
      Fit made = fit(shape_model(fmt::format("polynomial({})", degree), observations.predictors()[0].name,
                                 observations.response().name),
                     observations, {.uncertainty = UncertaintyBasis::scatter, .events_as_numbers = true});
      const double aicc = quality_of(made).aicc;
      if (!(aicc < lowest)) continue;
      lowest = aicc;
      best = std::move(made);
    } catch (const Error&) {
      break;  // too few different x for this degree
    }
  }
  return best;
}

std::string filled(const char* pattern, const std::string& x, const std::string& y) {
  return fmt::format(fmt::runtime(pattern), fmt::arg("x", x), fmt::arg("y", y));
}

}  // namespace

std::vector<Straightening> straightenings(const Observations& observations) {
  if (observations.predictors().size() != 1 || observations.size() < 5) return {};
  const std::string& x = observations.predictors()[0].name;
  const std::string& y = observations.response().name;
  std::vector<Straightening> ways;
  for (const Way& way : known_ways) {
    try {
      const Model model = Model::written(filled(way.model, name_in_formula(x), name_in_formula(y)), {x});
      // Roots and squares take the response as positive on the way back.
      if (model.is_transformed() && as_eigen(observations.responses()).minCoeff() <= 0) continue;
      if (!invalid_rows(model, observations).empty()) continue;
      Fit made = fit(model, observations, {.events_as_numbers = true});
      const double aicc = quality_of(made).aicc;
      if (!std::isfinite(aicc)) continue;
      const Check bend = check(made, CheckKind::curvature);
      const bool bent = bend.p < significant;
      Vector places = observations.predictor(0);
      for (double& at : places) at = way.place(at);
      ways.push_back(
          {.model = model.text(),
           .meaning = way.meaning,
           .across = filled(way.across, x, y),
           .places = std::move(places),
           .delta_aicc = aicc,
           .curvature_p = bend.p,
           .sentence = fmt::format("{}: {}{}", filled(way.axes, x, y), way.meaning, bent ? ", still curved" : ""),
           .fit = std::move(made)});
    } catch (const Error&) {
      continue;  // this pair of axes is not for these data
    }
  }
  if (ways.empty()) return ways;
  const double best = std::min_element(ways.begin(), ways.end(), [](const auto& a, const auto& b) {
                        return a.delta_aicc < b.delta_aicc;
                      })->delta_aicc;
  for (Straightening& way : ways) way.delta_aicc -= best;
  std::stable_sort(ways.begin(), ways.end(), [](const Straightening& a, const Straightening& b) {
    return std::max(indistinguishable, a.delta_aicc) < std::max(indistinguishable, b.delta_aicc);
  });
  return ways;
}

namespace {

// Whether any check of the shape speaks against a curve.
bool departs(const Fit& fit) {
  const std::vector<Check> checks = residual_checks(fit);
  return std::any_of(checks.begin(), checks.end(), [](const Check& c) {
    const bool shape = c.kind == CheckKind::curvature || c.kind == CheckKind::runs ||
                       c.kind == CheckKind::serial_correlation || c.kind == CheckKind::lack_of_fit;
    return shape && c.p < significant;
  });
}

std::string parabola_sentence(const Observations& observations) {
  try {
    const Fit parabola =
        fit(shape_model("polynomial(2)", observations.predictors()[0].name, observations.response().name), observations,
            {.events_as_numbers = true});
    return departs(parabola) ? " A parabola does not follow them either."
                             : " No departure from a parabola was detected.";
  } catch (const Error&) {
    return "";  // too few different x for one
  }
}

}  // namespace

std::string straightness_sentence(const Observations& observations, std::span<const Straightening> ways) {
  if (ways.empty()) return "";
  constexpr std::size_t most = 3;
  std::vector<std::string> straight;
  for (const Straightening& way : ways) {
    if (way.delta_aicc <= indistinguishable && straight.size() < most && !departs(way.fit))
      straight.push_back(way.model);
  }
  if (!straight.empty())
    return fmt::format("No departure from a straight line was detected of {}.", fmt::join(straight, ", nor of "));
  return fmt::format("None of these axes straightens the points; the best is {}.{}", ways.front().model,
                     parabola_sentence(observations));
}

std::vector<Advice> look_remarks(const Observations& observations) {
  std::vector<Advice> remarks;
  if (observations.predictors().size() != 1) return remarks;
  const std::string& x = observations.predictors()[0].name;
  const std::string& y = observations.response().name;
  const auto name_rows = [&](const Vector& values, const std::string& name) {
    constexpr std::size_t most_named = 6;
    std::vector<std::size_t> rows;
    for (std::size_t i = 0; i < values.size(); ++i) {
      if (!(values[i] > 0)) rows.push_back(observations.source_rows()[i]);
    }
    if (rows.empty() || rows.size() == values.size()) return;
    const std::size_t named = std::min(rows.size(), most_named);
    const bool is_one = rows.size() == 1;
    std::string finding = fmt::format(
        "'{}' is zero or negative in row{} {}{}: a logarithm or reciprocal of it can't take {}.", name,
        is_one ? "" : "s", fmt::join(rows.begin(), rows.begin() + static_cast<std::ptrdiff_t>(named), ", "),
        rows.size() > named ? fmt::format(" and {} more", rows.size() - named) : "", is_one ? "it" : "them");
    if (rows.size() > named) {
      remarks.emplace_back(std::move(finding));
    } else {
      remarks.push_back(
          {finding + fmt::format(" Without {} these axes are tried as well", is_one ? "this row" : "these rows"),
           {Action::leave_row_out, fmt::format("{}", fmt::join(rows, ","))},
           "."});
    }
  };
  name_rows(observations.responses(), y);
  name_rows(observations.predictor(0), x);
  if (observations.size() >= 8) {
    if (const auto smooth = smooth_polynomial(observations)) {
      // A curve that misses the data leaves residuals whose size changes, too: of the scatter nothing can be said then.
      const std::vector<Check> checks = residual_checks(*smooth);
      const bool follows = !departs(*smooth);
      for (const Check& made : checks) {
        if (made.kind == CheckKind::equal_variance && made.is_significant() && follows)
          remarks.push_back(fmt::format("The scatter about a smooth curve {} with '{}' ({}).",
                                        made.statistic > 0 ? "grows" : "shrinks", y, p_equals(made.p)));
      }
    }
  }
  return remarks;
}

}  // namespace truecurve
