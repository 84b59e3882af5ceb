// Fits a line in every pair of transformed axes and ranks them on the scale of the measured response.
#include <truecurve/assess/checks.hpp>
#include <truecurve/assess/quality.hpp>
#include <truecurve/assess/straighten.hpp>
#include <truecurve/base/error.hpp>
#include <truecurve/fit/invalid_rows.hpp>
#include <truecurve/model/shapes.hpp>

#include <algorithm>
#include <array>
#include <cmath>

#include <fmt/format.h>

namespace truecurve {
namespace {

struct Axis {
  const char* text;  // {} is the column
  const char* said;
};
constexpr std::array<Axis, 5> left_axes = {{{"{}", "{}"}, {"ln({})", "ln {}"}, {"1/{}", "1/{}"}, {"sqrt({})", "√{}"}, {"{}^2", "{}²"}}};
constexpr std::array<Axis, 5> right_axes = {{{"{}", "{}"}, {"ln({})", "ln {}"}, {"1/{}", "1/{}"}, {"sqrt({})", "√{}"}, {"{}^2", "{}²"}}};
constexpr const char* meanings[5][5] = {
    {"a straight line", "a logarithm", "a reciprocal", "a square root", "a parabola about zero"},
    {"an exponential", "a power", "an Arrhenius curve", "an exponential of the root", "a bell or its inverse"},
    {"a reciprocal of a line", "a reciprocal of a logarithm", "a saturation curve", "a reciprocal of the root", "a resonance wing"},
    {"a parabola with its foot on the axis", "a squared logarithm", "a squared reciprocal", "a squared root", "a quartic about zero"},
    {"a root of a line", "a root of a logarithm", "a root of a reciprocal", "a root of the root", "a hyperbola or ellipse"}};

std::string axis(const char* pattern, const std::string& name) { return fmt::format(fmt::runtime(pattern), name); }

}  // namespace

std::vector<Straightening> straightenings(const Observations& observations) {
  if (observations.predictors().size() != 1 || observations.size() < 5) return {};
  const std::string& x = observations.predictors()[0].name;
  const std::string& y = observations.response().name;
  std::vector<Straightening> ways;
  std::vector<double> scores;
  for (std::size_t i = 0; i < left_axes.size(); ++i) {
    for (std::size_t j = 0; j < right_axes.size(); ++j) {
      const std::string text = fmt::format("{} = a + b*{}", axis(left_axes[i].text, y), axis(right_axes[j].text, x));
      const std::string model_text = text.substr(0, text.find("b*1/")) == text ? text : text.substr(0, text.find("b*1/")) + "b/" + x;
      try {
        const Model model = Model::written(model_text, {x});
        // The square of the response can't tell its sign back; a root needs positive values.
        if (i > 0 && observations.responses().minCoeff() <= 0) continue;
        if (!invalid_rows(model, observations).empty()) continue;
        Fit made = fit(model, observations);
        const double aicc = quality_of(made).aicc;
        if (!std::isfinite(aicc)) continue;
        const Check bend = curvature_check(made);
        ways.push_back({.model = model_text, .meaning = meanings[i][j], .curvature_p = bend.p, .fit = std::move(made)});
        ways.back().sentence = fmt::format("{} against {} is {}: {}", axis(left_axes[i].said, y), axis(right_axes[j].said, x),
                                           std::isnan(bend.p) || bend.p >= 0.05 ? "straight as far as can be seen" : "still bent", meanings[i][j]);
        scores.push_back(aicc);
      } catch (const Error&) {
        continue;  // this pair of axes is not for these data
      }
    }
  }
  if (ways.empty()) return ways;
  const double best = *std::min_element(scores.begin(), scores.end());
  for (std::size_t i = 0; i < ways.size(); ++i) ways[i].delta_aicc = scores[i] - best;
  std::stable_sort(ways.begin(), ways.end(), [](const Straightening& a, const Straightening& b) { return a.delta_aicc < b.delta_aicc; });
  return ways;
}

std::vector<std::string> look_remarks(const Observations& observations) {
  std::vector<std::string> remarks;
  if (observations.predictors().size() != 1) return remarks;
  const std::string& x = observations.predictors()[0].name;
  const std::string& y = observations.response().name;
  const auto name_rows = [&](const VectorXd& values, const std::string& name) {
    std::string rows;
    int count = 0;
    for (Eigen::Index i = 0; i < values.size(); ++i) {
      if (values[i] > 0) continue;
      ++count;
      if (count <= 6) rows += fmt::format("{}{}", count == 1 ? "" : ", ", observations.source_rows()[static_cast<std::size_t>(i)]);
    }
    if (count == 0 || count == values.size()) return;
    remarks.push_back(fmt::format("'{}' is zero or negative in row{} {}{}: a logarithm or reciprocal of it can't take {}.", name, count == 1 ? "" : "s", rows,
                                  count > 6 ? fmt::format(" and {} more", count - 6) : "", count == 1 ? "it" : "them"));
  };
  name_rows(observations.responses(), y);
  name_rows(observations.predictor(0), x);
  if (observations.size() >= 8 && is_plain_name(x) && is_plain_name(y)) {
    try {
      const Check fan = spread_check(fit(shape_model("polynomial(3)", x, y), observations));
      if (fan.p < 0.05) remarks.push_back(fmt::format("The points fan out: about a smooth curve their scatter changes with the value of '{}' (p = {}).", y, probability_text(fan.p)));
    } catch (const Error&) {  // too few different x for a smooth curve: then nothing can be said of the spread
    }
  }
  return remarks;
}

}  // namespace truecurve
