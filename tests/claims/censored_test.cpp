// What is printed of responses with limits among them, held against the curve and the scatter that they were made from.

#include "../support.hpp"
#include "claims.hpp"

namespace truecurve {
namespace {

using test::Claims;
using test::holds;

struct CensoredTruth {
  std::string name;
  Distribution distribution;
  double limit_share;  // of all responses that lie beyond the limit
  Censoring side;
  double scatter;  // s
  bool with_predictor;
  [[nodiscard]] double curve(double x) const { return with_predictor ? 20 * std::exp(-0.3 * x) : 20; }
  [[nodiscard]] double response(double x, double z) const {
    return distribution == Distribution::normal ? curve(x) + scatter * z : curve(x) * std::exp(scatter * z);
  }
};

// With a predictor the limit is the same for all rows, with none it cuts the share off.
CensoredRows drawn_rows(const CensoredTruth& truth, int n, RandomNumbers& random) {
  std::vector<double> x, y;
  std::vector<Censoring> of;
  const double share = truth.side == Censoring::below ? truth.limit_share : 1 - truth.limit_share;
  const double limit =
      truth.response(2.5, standard_quantile(truth.distribution, std::min(std::max(share, 1e-12), 1 - 1e-12)));
  for (int i = 0; i < n; ++i) {
    x.push_back(5.0 * i / (n - 1));
    const double z = standard_quantile(truth.distribution, random.uniform());
    const double value = truth.response(x.back(), z);
    const bool beyond = truth.limit_share > 0 && (truth.side == Censoring::below ? value < limit : value > limit);
    y.push_back(beyond ? limit : value);
    of.push_back(beyond ? truth.side : Censoring::none);
  }
  Choice choice{.response = "y"};
  if (truth.with_predictor) choice.predictors = {"x"};
  return {Observations(Table::from_columns({{"x", "", x}, {"y", "", y}}), choice), of};
}

void judge(const CensoredTruth& truth, int n, RandomNumbers& random, Claims& claims) {
  const CensoredRows rows = drawn_rows(truth, n, random);
  if (rows.count(Censoring::none) < 4) return;
  const Model model = truth.with_predictor ? Model::written("y = A*exp(-b*x)", {"x"}) : Model::written("y = c");
  const auto count = [&](const std::string& what, double within, bool held) {
    claims.count(truth.name, n, {what, 0.95, within}, held);
  };
  const CensoredFit fit = fit_censored(model, rows, {.distribution = truth.distribution});
  claims.count(truth.name, n, {.what = "converged", .rate = 0.999, .is_cautious = true}, fit.converged);
  const double few = n < 30 ? 6 : 3;
  for (const std::string& name : fit.estimate.parameter_names()) {
    const double of = name == "b" ? 0.3 : 20;
    count("profile interval of " + name, few, holds(censored_interval(fit, name, 0.95), of));
  }
  const double of_scatter = truth.distribution == Distribution::weibull ? 1 / truth.scatter : truth.scatter;
  count("profile interval of the scatter", few, holds(censored_interval(fit, fit.scatter_name(), 0.95), of_scatter));
  const VectorXd at = truth.with_predictor ? VectorXd::Constant(1, 1.0) : VectorXd();
  for (const double share : {0.01, 0.5, 0.9}) {
    const double of = truth.response(1.0, standard_quantile(truth.distribution, share));
    count(fmt::format("quantile {}", share), few, holds(quantile_of(fit, share, at, 0.95).interval, of));
  }
}

TEST(Claims, OfCensoredResponses) {
  Claims claims;
  const std::vector<int> sizes = {20, 50, 200};
  const int sets = test::simulated_sets(20, 1000);
  for (const CensoredTruth& truth :
       {CensoredTruth{"lognormal lives, 30 % run-outs", Distribution::lognormal, 0.3, Censoring::above, 0.5, false},
        {"Weibull lives, 60 % run-outs", Distribution::weibull, 0.6, Censoring::above, 0.5, false},
        {"Weibull strengths, all measured", Distribution::weibull, 0, Censoring::above, 0.1, false},
        {"lognormal, 40 % below the limit", Distribution::lognormal, 0.4, Censoring::below, 0.8, false},
        {"normal curve, limit below", Distribution::normal, 0.5, Censoring::below, 1, true},
        {"Weibull curve, run-outs", Distribution::weibull, 0.5, Censoring::above, 0.4, true}}) {
    for (const int n : sizes) {
      RandomNumbers random(20'261'129 + static_cast<std::uint64_t>(n));
      for (int set = 0; set < sets; ++set) judge(truth, n, random, claims);
    }
  }
  claims.expect();
  test::update_docs_table("<!-- claims of censored responses -->", claims.table(sizes));
}

}  // namespace
}  // namespace truecurve
