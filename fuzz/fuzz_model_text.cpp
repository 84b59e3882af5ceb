// Any text at all must give a model, or an Error that names the place; an accepted linear model must fit or say why
// not.
#include <truecurve/base/error.hpp>
#include <truecurve/fit/fit.hpp>
#include <truecurve/model/condition.hpp>

#include <algorithm>
#include <cmath>
#include <cstdlib>
#include <string>

extern "C" int LLVMFuzzerTestOneInput(const unsigned char* data, std::size_t size) {
  if (size > 400) return 0;
  const std::string text(reinterpret_cast<const char*>(data), size);
  static const truecurve::Table table = truecurve::Table::from_columns(
      {{"x", "", {0.5, 1, 2, 3, 5}}, {"t", "", {2, 1, 4, 3, 6}}, {"y", "", {1, 3, 2, 5, 4}}});
  try {
    const truecurve::Model model = truecurve::Model::written(text);
    std::vector<std::string> predictors;
    for (const auto* names : {&model.right_side_names(), &model.left_side_names()}) {
      for (const std::string& name : *names) {
        const bool known = std::find(predictors.begin(), predictors.end(), name) != predictors.end();
        if ((name == "x" || name == "t") && name != model.response() && !known) predictors.push_back(name);
      }
    }
    const truecurve::Observations points(table, {.response = model.response(), .predictors = predictors});
    const truecurve::Fit fit = truecurve::fit(model, points);
    for (const double value : fit.estimate().parameters()) {
      if (!std::isfinite(value)) std::abort();
    }
  } catch (const truecurve::Error& error) {
    if (error.message().empty() || error.code() == truecurve::ErrorCode::internal) std::abort();
  }
  try {
    (void)truecurve::rows_where(table, text);
  } catch (const truecurve::Error&) {  // most texts are no condition
  }
  return 0;
}
