// Density of bronze against tin content: a polynomial, what its terms explain, and the tin content that a density
// tells.
//
//     density_polynomial demo/density.csv
#include <truecurve/io/csv.hpp>
#include <truecurve/truecurve.hpp>

#include <iostream>

#include <fmt/format.h>

namespace tc = truecurve;

int main(int count, char** arguments) {
  if (count != 2) {
    std::cerr << "usage: density_polynomial TABLE.csv\n";
    return 2;
  }
  try {
    const auto table = tc::read_csv(std::filesystem::path(arguments[1]));
    const auto castings = tc::Observations(table, {.response = "rho", .predictors = {"w_Sn"}});
    const auto square = tc::fit(tc::shape_model("polynomial(2)", "w_Sn", "rho"), castings);
    for (const auto& p : tc::parameter_intervals(square.estimate(), 0.95)) {
      std::cout << fmt::format("{} = {} {}, p = {}\n", p.name, tc::with_uncertainty(p.value, p.standard_uncertainty),
                               p.unit, tc::probability_text(p.p));
    }
    // Two castings of each alloy tell pure error from lack of fit.
    if (const auto split = tc::lack_of_fit(square))
      std::cout << fmt::format("lack of fit: p = {}\n", tc::probability_text(split->lack_of_fit.p));
    // Which tin content has a casting of 8.750(4) g/cm3?
    for (const auto& root : tc::solve(square.estimate(), 8.75, {.response_uncertainty = 0.004})) {
      std::cout << fmt::format("w_Sn = {} %, 95 % interval {}\n",
                               tc::with_uncertainty(root.value, root.standard_uncertainty),
                               tc::interval_text(root.interval.low, root.interval.high, root.standard_uncertainty));
    }
  } catch (const tc::Error& error) {
    std::cerr << error.what() << '\n';
    return 1;
  }
  return 0;
}
