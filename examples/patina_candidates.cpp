// Patina over years: which curve, and what do they say of a plate that was held back?
//
//     patina_candidates demo/patina.csv
#include <truecurve/io/csv.hpp>
#include <truecurve/truecurve.hpp>

#include <iostream>

#include <fmt/format.h>

namespace tc = truecurve;

int main(int count, char** arguments) {
  if (count != 2) {
    std::cerr << "usage: patina_candidates TABLE.csv\n";
    return 2;
  }
  try {
    const auto table = tc::read_csv(std::filesystem::path(arguments[1]));
    const auto plates = tc::Observations(table, {.response = "d", .predictors = {"years"}});
    std::vector<tc::CandidateModel> candidates;
    for (const char* shape : {"exponential", "logistic", "gompertz", "power"})
      candidates.push_back({shape, tc::shape_model(shape, "years", "d"), plates});
    const auto comparison =
        tc::compare_candidates(candidates, {}, {.rows = tc::rows_where(table, "years > 25"), .reason = "years > 25"});
    for (const auto& c : comparison.candidates)
      std::cout << fmt::format("{:<12} {:5.1f} behind, weight {:.3f}\n", c.name, c.delta_aicc, c.weight);
    for (const auto& held : comparison.held_out)
      std::cout << fmt::format("{:<12} misses the last plate by {:.1f} of its uncertainties\n", held.name,
                               held.rows.front().in_uncertainties);
    std::cout << comparison.suggestion.reason << '\n';
  } catch (const tc::Error& error) {
    std::cerr << error.what() << '\n';
    return 1;
  }
  return 0;
}
