// Counts, over data simulated from a known truth, how often what is printed holds: every interval, band, limit and
// test.
#pragma once

#include <truecurve/assess/bands.hpp>

#include <map>
#include <string>
#include <vector>

namespace truecurve::test {

/// A claim: what is printed, and the rate at which it says it holds.
struct Claim {
  std::string what;
  double rate;
  double within = 0;  ///< points by which an approximate claim may be off; 0: exact up to the binomial error
  /// On the safe side only: intervals hold at least, errors happen at most as often.
  bool is_cautious = false;
};

class Claims {
 public:
  /// One trial of a claim under a design at n rows.
  void count(const std::string& design, int n, const Claim& claim, bool held);

  /// A test for every claim: what was found lies within four standard errors, and the points that it is approximate by.
  void expect() const;

  /// Rows for docs/methods.md, a column for each of the sizes.
  [[nodiscard]] std::string table(const std::vector<int>& sizes) const;

 private:
  struct Tally {
    int held = 0, trials = 0;
  };
  struct Line {
    std::string design;
    Claim claim;
    std::map<int, Tally> at;
  };
  std::vector<Line> lines_;
};

inline bool holds(const Interval& interval, double truth) { return interval.low <= truth && truth <= interval.high; }

}  // namespace truecurve::test
