// How far the numbers of a fit can be trusted, said in sentences.
//
// Example:
//     const Eigen::VectorXd x = Eigen::VectorXd::LinSpaced(8, 0.5, 4);
//     Eigen::VectorXd y = 10 * x.array() / (3 + x.array());
//     for (int i = 0; i < 8; ++i) y[i] += i % 2 ? 0.2 : -0.2;
//     const auto trust = truecurve::trust_of(
//         truecurve::fit(truecurve::shape_model("saturation"), truecurve::Observations::of(x, y)), 0.95);
//     EXPECT_EQ(trust.profiles.size(), 2u);
//     EXPECT_NE(trust.sentences[0].find("can't be trusted"), std::string::npos);
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
};

struct Trust {
  std::vector<ProfileInterval> profiles{};  ///< one a parameter of a model that is not linear; empty where not made
  Curvature curvature{};
  std::vector<CorrelatedPair> pairs{};   ///< those beyond 0.99, of a model that is not linear
  std::vector<std::string> sentences{};  ///< what to be careful about; empty where all is well
};

/// Whether profiles are made: by themselves up to 1000 rows, as each takes some hundred evaluations.
enum class Profiles { where_cheap, always };

[[nodiscard]] Trust trust_of(const Fit& fit, double level, Profiles profiles = Profiles::where_cheap);

}  // namespace truecurve
