// How far the numbers of a fit can be trusted, said in sentences.
//
// Example:
//     const Eigen::VectorXd x = Eigen::VectorXd::LinSpaced(8, 0.5, 4);
//     Eigen::VectorXd y = 10 * x.array() / (3 + x.array());
//     for (int i = 0; i < 8; ++i) y[i] += i % 2 ? 0.2 : -0.2;
//     const auto trust = truecurve::trust_of(
//         truecurve::fit(truecurve::shape_model("saturation"), truecurve::Observations::of(x, y)), 0.95);
//     EXPECT_EQ(trust.profiles.size(), 2u);
#pragma once

#include <truecurve/assess/curvature.hpp>
#include <truecurve/assess/profile.hpp>

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

[[nodiscard]] Trust trust_of(const Fit& fit, double level, Profiles profiles = Profiles::where_cheap);

}  // namespace truecurve
