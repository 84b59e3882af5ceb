// Melt viscosity against temperature: an Arrhenius curve straightened with the weights that the stated uncertainties
// imply.
//
//     melt_viscosity demo/viscosity.csv
#include <truecurve/io/csv.hpp>
#include <truecurve/truecurve.hpp>

#include <iostream>

#include <fmt/format.h>

namespace tc = truecurve;

int main(int count, char** arguments) {
  if (count != 2) {
    std::cerr << "usage: melt_viscosity TABLE.csv\n";
    return 2;
  }
  try {
    const auto table = tc::read_csv(std::filesystem::path(arguments[1]));
    const auto melt = tc::Observations(table, {.response = "eta", .predictors = {"T"}});
    const auto arrhenius = tc::fit(tc::shape_model("arrhenius", "T", "eta", tc::Route::linearized), melt);
    std::cout << arrhenius.model().text() << '\n';
    // The parameters of the original curve, with the covariance of the straightened one propagated.
    for (const auto& q : tc::deduce(arrhenius.estimate(), 0.95).derived) {
      std::cout << fmt::format(
          "{} = {}{}\n", q.name, tc::with_uncertainty(q.value, q.standard_uncertainty),
          q.curved ? fmt::format(" (not symmetric; by Monte Carlo {})",
                                 tc::interval_text(q.monte_carlo.low, q.monte_carlo.high, q.standard_uncertainty))
                   : "");
    }
    const auto at_1425 = tc::band_at(arrhenius.estimate(), {1425}, 0.95)[0];
    std::cout << fmt::format("at 1425 K: eta = {} mPa s\n",
                             tc::with_uncertainty(at_1425.value, at_1425.standard_uncertainty));
  } catch (const tc::Error& error) {
    std::cerr << error.what() << '\n';
    return 1;
  }
  return 0;
}
