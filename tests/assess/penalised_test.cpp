// Firth's penalty: closed forms, the score that it modifies, the profile's ends by a plain search.
#include <truecurve/io/record.hpp>

#include "../support.hpp"

#include <Eigen/LU>

namespace truecurve {
namespace {

const Model logit = Model::written("ln(y/(1 - y)) = a + b*x");

Observations events(const VectorXd& x, const VectorXd& k, const VectorXd& n) {
  return Observations::counted(x, k, n, ResponseKind::events);
}

// Two groups: half an outcome is added to each cell of the table; two counts: half a count to each.
TEST(Penalised, OfTwoGroupsAddsHalfAnOutcomeToEachCell) {
  struct Cells {
    double k0, n0, k1, n1;
  };
  for (const auto& [k0, n0, k1, n1] : {Cells{0, 5, 4, 5}, {0, 3, 7, 7}, {2, 9, 5, 8}, {1, 1, 0, 20}}) {
    const auto found = penalised_estimates(
        logit, events(Eigen::Vector2d(0, 1), Eigen::Vector2d(k0, k1), Eigen::Vector2d(n0, n1)), 0.95);
    ASSERT_TRUE(found.converged);
    const double of_0 = std::log((k0 + 0.5) / (n0 - k0 + 0.5));
    EXPECT_NEAR(found.parameters[0].value, of_0, 1e-7);
    EXPECT_NEAR(found.parameters[1].value, std::log((k1 + 0.5) / (n1 - k1 + 0.5)) - of_0, 1e-7);
    const bool separated = k0 == 0 || k1 == n1 || k0 == n0 || k1 == 0;
    EXPECT_EQ(found.why_none.empty(), !separated);
    EXPECT_EQ(std::isnan(found.greatest_log_likelihood), separated);
    if (!separated) EXPECT_GT(found.greatest_log_likelihood, found.log_likelihood);
  }
  const auto counts = penalised_estimates(
      Model::written("ln(y) = a + b*x"),
      Observations::counted(Eigen::Vector2d(0, 1), Eigen::Vector2d(0, 7), Eigen::Vector2d(2, 3), ResponseKind::counts),
      0.9);
  EXPECT_NEAR(counts.parameters[0].value, std::log(0.5 / 2), 1e-7);
  EXPECT_NEAR(counts.parameters[1].value, std::log(7.5 / 3) - std::log(0.5 / 2), 1e-7);
}

struct Logistic {
  VectorXd x, y;
  // log likelihood + ln det(information)/2, by hand
  [[nodiscard]] double operator()(double a, double b) const {
    double sum = 0;
    Eigen::Matrix2d information = Eigen::Matrix2d::Zero();
    for (Eigen::Index i = 0; i < x.size(); ++i) {
      const double at = a + b * x[i];
      const double p = 1 / (1 + std::exp(-at));
      sum -= std::log1p(std::exp(y[i] == 1 ? -at : at));
      const Eigen::Vector2d g(1, x[i]);
      information += p * (1 - p) * g * g.transpose();
    }
    return sum + std::log(information.determinant()) / 2;
  }
};

// Separated outcomes in single trials: sum (y - p + h (1/2 - p)) x = 0 with the hat values h, and at the ends of the
// interval of b the penalised likelihood, maximised over a, has fallen by half of 3.84.
TEST(Penalised, SolvesTheModifiedScoreAndProfilesIt) {
  Logistic by_hand{VectorXd::LinSpaced(10, 0, 9), VectorXd::Zero(10)};
  for (int i = 5; i < 10; ++i) by_hand.y[i] = 1;
  for (const bool separated : {true, false}) {
    if (!separated) std::swap(by_hand.y[4], by_hand.y[6]);
    const auto found = penalised_estimates(logit, events(by_hand.x, by_hand.y, VectorXd::Ones(10)), 0.95);
    ASSERT_TRUE(found.converged);
    EXPECT_EQ(found.why_none.empty(), !separated);
    const double a = found.parameters[0].value;
    const double b = found.parameters[1].value;
    const Eigen::Matrix2d covariance = as_eigen(found.estimate.covariance());
    Eigen::Vector2d score = Eigen::Vector2d::Zero();
    Eigen::Matrix2d information = Eigen::Matrix2d::Zero();
    for (Eigen::Index i = 0; i < 10; ++i) {
      const double p = 1 / (1 + std::exp(-a - b * by_hand.x[i]));
      const Eigen::Vector2d g(1, by_hand.x[i]);
      const double h = p * (1 - p) * g.dot(covariance * g);
      score += (by_hand.y[i] - p + h * (0.5 - p)) * g;
      information += p * (1 - p) * g * g.transpose();
    }
    EXPECT_NEAR(score.norm(), 0, 1e-5);
    EXPECT_TRUE(covariance.isApprox(information.inverse(), 1e-6));
    EXPECT_NEAR(found.log_likelihood + found.penalty, by_hand(a, b), 1e-9);
    const auto best_at = [&](double slope) {
      double low = -4.5 * slope - 6, high = -4.5 * slope + 6;
      for (int i = 0; i < 200; ++i) {
        const double one = low + 0.382 * (high - low);
        const double two = low + 0.618 * (high - low);
        (by_hand(one, slope) > by_hand(two, slope) ? high : low) =
            by_hand(one, slope) > by_hand(two, slope) ? two : one;
      }
      return by_hand((low + high) / 2, slope);
    };
    for (const double end : {found.parameters[1].low, found.parameters[1].high})
      EXPECT_NEAR(2 * (by_hand(a, b) - best_at(end)), 3.841458820694124, 1e-5) << end;
    EXPECT_NEAR(found.parameters[1].p, std::erfc(std::sqrt(by_hand(a, b) - best_at(0))), 1e-7);
    for (const double unit : {1e-6, 1e6}) {
      const auto in_unit = penalised_estimates(logit, events(unit * by_hand.x, by_hand.y, VectorXd::Ones(10)), 0.95);
      EXPECT_NEAR(in_unit.parameters[1].low * unit, found.parameters[1].low, 1e-5) << unit;
      EXPECT_NEAR(in_unit.parameters[1].high * unit, found.parameters[1].high, 1e-5) << unit;
    }
  }
}

TEST(Penalised, IsAskedForByName) {
  const test::TemporaryFolder folder;
  const std::string record = (folder.path() / "p.json").string();
  const std::string how = "fit demo/castings_trial.csv 'ln(p/(1-p)) = a + b*T_pour' --y cracked --event 1 --penalised ";
  const auto with = [&how](const std::string& more) { return test::run_typed(how + more); };
  const auto made = with("--derive 'middle = -a/b' --output " + record);
  ASSERT_EQ(made.code, 0) << made.error;
  for (const char* words : {"(Firth 1993)", "the outcomes are separated", "penalised profile interval", "middle"})
    EXPECT_TRUE(has(made.out, words));
  const auto kept = nlohmann::json::parse(test::file_text(record));
  EXPECT_EQ(kept["record"], "truecurve.penalised/1");
  EXPECT_TRUE(kept["greatest_log_likelihood"].is_null());
  EXPECT_EQ(kept["data"]["rows_used"], 12);
  EXPECT_EQ(test::run_command({"predict", record, "--at", "T_pour=1150"}).code, 0);
  EXPECT_TRUE(with("--format csv").out.starts_with("name,value,standard_uncertainty,low,high,p\na,-1"));
  EXPECT_TRUE(has(with("--figure f.svg").error, "--penalised"));
  EXPECT_TRUE(has(with("--uncertainty scatter").error, "does not go with --penalised"));
  const auto shape =
      test::run_typed("fit demo/castings.csv share-logistic --x T_pour --y state --event cracked --penalised");
  EXPECT_TRUE(has(shape.error, "is not linear behind a link"));
  EXPECT_TRUE(
      has(test::run_typed("fit demo/density.csv 'rho = a + b*w_Sn' --penalised").error, "this one is measured"));
  // There is no scale in it, whatever is asked for.
  const Observations steep = events(test::vector({1, 2, 3, 4}), test::vector({1, 6, 2, 9}), VectorXd::Constant(4, 10));
  const Estimate plain = penalised_estimates(logit, steep, 0.95).estimate;
  const Estimate scaled = penalised_estimates(logit, steep, 0.95, {.uncertainty = UncertaintyBasis::scatter}).estimate;
  EXPECT_TRUE(scaled.has_known_scale());
  EXPECT_EQ(scaled.scale(), 1);
  EXPECT_NEAR(scaled.standard_uncertainties()[1], plain.standard_uncertainties()[1], 1e-9);
  for (const char* text : {"y = a + b*x", "ln(y/(1-y)) = a + exp(b*x)"}) {
    const Model other = Model::written(text);
    const Observations rows = events(test::vector({1, 2, 3, 4}), test::vector({1, 3, 5, 8}), VectorXd::Constant(4, 10));
    EXPECT_EQ(test::caught([&] { (void)penalised_estimates(other, rows, 0.95); }).code(), ErrorCode::not_supported);
  }
  EXPECT_THROW((void)penalised_estimates(logit, events(VectorXd::Ones(3), VectorXd::Ones(3), VectorXd::Ones(3)), 0.95),
               Error);
}

}  // namespace
}  // namespace truecurve
