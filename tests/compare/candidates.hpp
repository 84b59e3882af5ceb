// Fits to be compared, and candidates by their names.
#pragma once

#include <truecurve/io/csv.hpp>

#include "../support.hpp"

#include <stdexcept>

namespace truecurve::test {

inline Observations demo_rows(const char* file, const char* x, const char* y) {
  return Observations(read_csv(demo_file(file)),
                      {.response = y, .predictors = {x}, .response_uncertainty = Uncertainty::none()});
}

inline const Candidate& find(const Comparison& comparison, const std::string& name) {
  for (const Candidate& c : comparison.candidates) {
    if (c.name == name) return c;
  }
  throw std::out_of_range(name);
}

inline std::vector<Fit> fits_of(const Observations& rows, const std::vector<std::string>& models) {
  std::vector<Fit> fits;
  for (const std::string& model : models)
    fits.push_back(fit(model.find('=') != std::string::npos
                           ? Model::written(model)
                           : shape_model(model, rows.predictors()[0].name, rows.response().name),
                       rows));
  return fits;
}

}  // namespace truecurve::test
