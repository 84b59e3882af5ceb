// Tone of bells against wall thickness and diameter: a product of powers, and a hypothesis from physics put to the
// test.
//
//     bell_tone demo/tone.csv
#include <truecurve/io/csv.hpp>
#include <truecurve/truecurve.hpp>

#include <iostream>

#include <fmt/format.h>

namespace tc = truecurve;

int main(int count, char** arguments) {
  if (count != 2) {
    std::cerr << "usage: bell_tone TABLE.csv\n";
    return 2;
  }
  try {
    const auto table = tc::read_csv(std::filesystem::path(arguments[1]));
    const auto bells = tc::Observations(table, {.response = "f", .predictors = {"t", "D"}});
    const auto tone = tc::fit(tc::Model::written("ln(f) = c + p*ln(t) + q*ln(D)"), bells);
    std::cout << fmt::format("{}\n{}\n", tc::parameter_text(tone.parameter("p")),
                             tc::parameter_text(tone.parameter("q")));
    // A plate's tone grows with its thickness and falls with the square of its diameter: p = 1, q = -2, so p + q = -1.
    const auto physics = tc::test_hypothesis(tone.estimate(), "p + q = -1");
    std::cout << fmt::format("{}: t = {:.2f}, p = {}\n", physics.hypothesis, physics.t,
                             tc::probability_text(physics.p));
    for (const auto& check : tc::residual_checks(tone)) std::cout << check.sentence << '\n';
  } catch (const tc::Error& error) {
    std::cerr << error.what() << '\n';
    return 1;
  }
  return 0;
}
