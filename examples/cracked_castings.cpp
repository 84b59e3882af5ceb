// Cracked or sound against the pouring temperature: the probability of a crack, the temperature at which half of the
// castings crack, and how cold to pour so that only one in a hundred does.
//
//     cracked_castings demo/castings.csv cracked_castings.png
#include <truecurve/figure/fit_figure.hpp>
#include <truecurve/io/csv.hpp>
#include <truecurve/truecurve.hpp>

#include <iostream>

#include <fmt/format.h>

namespace tc = truecurve;

int main(int count, char** arguments) {
  if (count != 3) {
    std::cerr << "usage: cracked_castings TABLE.csv FIGURE.png\n";
    return 2;
  }
  try {
    const auto table = tc::read_csv(std::filesystem::path(arguments[1]));
    const tc::Observations castings(table, {.response = "state",
                                            .predictors = {"T_pour"},
                                            .counting = {.kind = tc::ResponseKind::events, .event = "cracked"}});
    const auto cracked = tc::fit(tc::shape_model("share-logistic", "T_pour", "state"), castings);
    const auto middle = tc::profile_interval(cracked, "m", 0.95);
    std::cout << fmt::format("half of the castings crack at {:.0f} (profile interval {:.0f} to {:.0f})\n", middle.value,
                             middle.interval.low, middle.interval.high);
    for (const auto& root : tc::solve(cracked.estimate(), 0.01, {.low = 1000, .high = 1200}))
      std::cout << fmt::format("1 % crack at {}\n", tc::with_uncertainty(root.value, root.standard_uncertainty));
    for (const auto& group : tc::counted_quality(cracked).groups)
      std::cout << fmt::format("{:2} cracked of {:2}, {:4.1f} expected\n", group.observed, group.size, group.expected);
    tc::draw_fit(cracked, arguments[2]);
  } catch (const tc::Error& error) {
    std::cerr << error.what() << '\n';
    return 1;
  }
  return 0;
}
