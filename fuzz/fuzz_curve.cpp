// A model's text and its data together, whatever they are: a fit with finite estimates, or an Error that says why; its
// intervals, profile and record included. The input is the text, a line break, then bytes that become the rows.
#include <truecurve/assess/trust.hpp>
#include <truecurve/base/error.hpp>
#include <truecurve/fit/fit.hpp>

#include "bytes.hpp"

#include <cmath>
#include <cstdlib>
#include <cstring>
#include <string>

extern "C" int LLVMFuzzerTestOneInput(const unsigned char* data, std::size_t size) {
  const auto* const end = static_cast<const unsigned char*>(std::memchr(data, '\n', size));
  if (end == nullptr || end - data > 80 || size > 160) return 0;
  const std::string text(reinterpret_cast<const char*>(data), static_cast<std::size_t>(end - data));
  const std::vector<double> numbers = truecurve::fuzzed::numbers_from(end + 1, data + size);
  const std::size_t rows = numbers.size() / 2;
  if (rows < 1) return 0;
  truecurve::Vector x(rows);
  truecurve::Vector y(rows);
  for (std::size_t i = 0; i < rows; ++i) {
    x[i] = numbers[2 * i];
    y[i] = numbers[2 * i + 1];
  }
  try {
    const truecurve::Model model = truecurve::Model::written(text, {"x"});
    if (model.response() != "y" || model.parameters().size() > 4) return 0;
    // A few evaluations are enough to see whether anything breaks.
    truecurve::FitOptions options{.most_evaluations = 40};
    for (const std::string& name : model.parameters()) options.starts.push_back({name, 1});
    const truecurve::Fit fit = truecurve::fit(model, truecurve::Observations::of(x, y), options);
    for (const double value : fit.estimate().parameters()) {
      if (!std::isfinite(value)) std::abort();
    }
    if (!std::isfinite(fit.chi_squared())) std::abort();
    for (const std::string& sentence : truecurve::trust_of(fit, 0.95).sentences) {
      if (sentence.empty()) std::abort();
    }
  } catch (const truecurve::Error& error) {
    if (error.message().empty() || error.code() == truecurve::ErrorCode::internal) std::abort();
  }
  return 0;
}
