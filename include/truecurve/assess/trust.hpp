// How far the numbers of a fit can be trusted, said in sentences.
//
// Example:
//     std::vector<double> x, y;
//     for (int i = 0; i < 8; ++i) {
//       x.push_back(0.5 + i / 2.0);
//       y.push_back(10 * x.back() / (3 + x.back()) + (i % 2 ? 0.2 : -0.2));
//     }
//     const auto trust = truecurve::trust_of(
//         truecurve::fit(truecurve::shape_model("saturation"), truecurve::Observations::of(x, y)), 0.95);
//     EXPECT_EQ(trust.profiles.size(), 2u);
#pragma once

#include <truecurve/assess/curvature.hpp>
#include <truecurve/assess/profile.hpp>
#include <truecurve/base/level.hpp>

#include <string>
#include <vector>

namespace truecurve {

/// Two parameters that hardly move without each other.
struct CorrelatedPair {
  std::string first{};
  std::string second{};
  double correlation = not_a_number;
  /// Whether the data hardly determine them separately: a profile of one of them is open. Else the correlation is a
  /// matter of where along the axis they are quoted, and the note of Trust says so, with a better place.
  bool is_redundant = false;
};

struct Trust {
  std::vector<ProfileInterval> profiles{};  ///< one a parameter of a model that is not linear; empty where not made
  Curvature curvature{};
  std::vector<CorrelatedPair> pairs{};   ///< those beyond 0.99, the closest first; not the powers of a polynomial
  std::string note{};                    ///< on strongly correlated parameters, with a better place to quote them at
  std::vector<std::string> sentences{};  ///< cautions; empty where all is well
};

/// Whether profiles are made: by themselves up to 1000 rows, as each takes some hundred evaluations.
enum class Profiles { where_cheap, always };

/// What to distrust in a fit, and why. Cost: the profiles that are made; residual checks are not part of it. Throws no
/// Error of its own.
[[nodiscard]] Trust trust_of(const Fit& fit, Level level, Profiles profiles = Profiles::where_cheap);

}  // namespace truecurve
