// Fits a straight line to the comparison of two thermometers, says how sure the result is, and draws it.
//
//     straight_line demo/thermometers.csv thermometers.png
#include <truecurve/figure/fit_figure.hpp>
#include <truecurve/io/csv.hpp>
#include <truecurve/truecurve.hpp>

#include <iostream>

#include <fmt/format.h>

namespace tc = truecurve;

int main(int count, char** arguments) {
  if (count != 3) {
    std::cerr << "usage: straight_line TABLE.csv FIGURE.png\n";
    return 2;
  }
  try {
    const auto table = tc::read_csv(std::filesystem::path(arguments[1]));
    // The column u(t_test) holds the standard uncertainties and is found by its name.
    const auto readings = tc::Observations(table, {.response = "t_test", .predictors = {"t_ref"}});
    const auto line = tc::fit(tc::shape_model("line", "t_ref", "t_test"), readings);

    std::cout << fmt::format("{}\n{}\n", tc::parameter_text(line.parameter("a")),
                             tc::parameter_text(line.parameter("b")));
    const auto quality = tc::quality_of(line);
    std::cout << fmt::format("chi-squared = {:.2f} with {} degrees of freedom, p = {}\n", quality.chi_squared,
                             quality.degrees_of_freedom, tc::probability_text(quality.chi_squared_p));

    // What does the new thermometer show at 150 °C, and how sure is that?
    const auto at_150 = tc::band_at(line.estimate(), {150}, 0.95)[0];
    std::cout << fmt::format("at 150 °C it shows {} °C\n",
                             tc::with_uncertainty(at_150.value, at_150.standard_uncertainty));
    tc::draw_fit(line, arguments[2]);
  } catch (const tc::Error& error) {
    std::cerr << error.what() << '\n';
    return 1;
  }
  return 0;
}
