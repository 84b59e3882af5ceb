#include "claims.hpp"

#include <boost/math/distributions/binomial.hpp>

namespace truecurve::test {
namespace {

double standard_error(double rate, int trials) { return std::sqrt(rate * (1 - rate) / trials); }

// Probability of no more than `held` in `trials` that each hold at this rate.
double at_most(int held, int trials, double rate) {
  return boost::math::cdf(boost::math::binomial(trials, std::clamp(rate, 0.0, 1.0)), held);
}

}  // namespace

void Claims::count(const std::string& design, int n, const Claim& claim, bool held) {
  auto line = std::find_if(lines_.begin(), lines_.end(),
                           [&](const Line& l) { return l.design == design && l.claim.what == claim.what; });
  if (line == lines_.end()) {
    // The claims of a design stay together.
    const auto last = std::find_if(lines_.rbegin(), lines_.rend(), [&](const Line& l) { return l.design == design; });
    line = lines_.insert(last == lines_.rend() ? lines_.end() : last.base(), Line{design, claim, {}});
  }
  Tally& tally = line->at[n];
  tally.held += held;
  ++tally.trials;
}

void Claims::expect() const {
  constexpr double rare = 3e-5;  // as four standard errors of a normal variable, on either side
  for (const Line& line : lines_) {
    const double off = line.claim.within / 100;
    for (const auto& [n, tally] : line.at) {
      const auto about = fmt::format("{}: {} at n = {} held in {} of {}, claimed {}", line.design, line.claim.what, n,
                                     tally.held, tally.trials, line.claim.rate);
      const bool is_error = line.claim.rate < 0.5;
      if (!line.claim.is_cautious || !is_error)
        EXPECT_GT(at_most(tally.held, tally.trials, line.claim.rate - off), rare) << about;
      if (!line.claim.is_cautious || is_error)
        EXPECT_GT(at_most(tally.trials - tally.held, tally.trials, 1 - line.claim.rate - off), rare) << about;
    }
  }
}

std::string Claims::table(const std::vector<int>& sizes) const {
  std::string head = "| design | what is printed | claimed |";
  std::string rule = "|---|---|---|";
  for (const int n : sizes) {
    head += fmt::format(" n = {} |", n);
    rule += "---|";
  }
  std::string text = "\n" + head + "\n" + rule + "\n";
  std::string design;
  for (const Line& line : lines_) {
    text += fmt::format("| {} | {} | {}{:g} %{} |", line.design == design ? "" : line.design, line.claim.what,
                        !line.claim.is_cautious ? ""
                        : line.claim.rate < 0.5 ? "at most "
                                                : "at least ",
                        100 * line.claim.rate, line.claim.within > 0 ? fmt::format(" ± {:g}", line.claim.within) : "");
    design = line.design;
    for (const int n : sizes) {
      const auto tally = line.at.find(n);
      if (tally == line.at.end()) {
        text += " |";
        continue;
      }
      const double found = static_cast<double>(tally->second.held) / tally->second.trials;
      text += fmt::format(" {:.1f} ± {:.1f} |", 100 * found,
                          100 * standard_error(std::clamp(found, 0.001, 0.999), tally->second.trials));
    }
    text += "\n";
  }
  return text;
}

}  // namespace truecurve::test
