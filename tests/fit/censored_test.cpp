// Limits among the responses: published results to their digits, the likelihood written down again, mirrors and units,
// what is refused.

#include "../support.hpp"

#include <Eigen/LU>

namespace truecurve {
namespace {

using Rows = std::vector<std::pair<double, Censoring>>;

CensoredRows rows_of(const std::vector<double>& x, const Rows& y) {
  std::vector<double> numbers;
  std::vector<Censoring> of;
  for (const auto& [value, censoring] : y) {
    numbers.push_back(value);
    of.push_back(censoring);
  }
  Choice choice{.response = "y"};
  std::vector<NamedNumbers> columns = {{"y", "", numbers}};
  if (!x.empty()) {
    columns.push_back({"x", "", x});
    choice.predictors = {"x"};
  }
  return {Observations(Table::from_columns(columns), choice), of};
}

// Failures of 37 of 96 locomotive controls, in 1000 miles; the others were running at 135. Nelson (1982) Applied Life
// Data Analysis, 3 and 8; Lawless (2003), 5.3.
CensoredRows controls() {
  Rows y;
  for (const double miles : {22.5,  37.5,  46.0,  48.5,  51.5,  53.0,  54.5,  57.5,  66.5,  68.0,  69.5,  76.5,  77.0,
                             78.5,  80.0,  81.5,  82.0,  83.0,  84.0,  91.5,  93.5,  102.5, 107.0, 108.5, 112.5, 113.5,
                             116.0, 117.0, 118.5, 119.0, 120.0, 122.5, 123.0, 127.5, 131.0, 132.5, 134.0})
    y.emplace_back(miles, Censoring::none);
  y.insert(y.end(), 59, {135, Censoring::above});
  return rows_of({}, y);
}

// Hours of 40 motor insulations at four temperatures, logarithms to base 10 against 1000/(T + 273.2). Schmee and Hahn
// (1979), Technometrics 21, 417.
CensoredRows insulations(bool as_logarithms) {
  std::vector<double> x;
  Rows y;
  const auto add = [&](double celsius, const std::vector<double>& hours, int running, double until) {
    const auto put = [&](double h, Censoring censoring) {
      x.push_back(1000 / (celsius + 273.2));
      y.emplace_back(as_logarithms ? std::log10(h) : h, censoring);
    };
    for (const double h : hours) put(h, Censoring::none);
    for (int k = 0; k < running; ++k) put(until, Censoring::above);
  };
  add(150, {}, 10, 8064);
  add(170, {1764, 2772, 3444, 3542, 3780, 4860, 5196}, 3, 5448);
  add(190, {408, 408, 1344, 1344, 1440}, 5, 1680);
  add(220, {408, 408, 504, 504, 504}, 5, 528);
  return rows_of(x, y);
}

void expect_close(double value, double published, double unit, const std::string& what) {
  EXPECT_NEAR(value, published, 0.5 * unit * (1 + 1e-9)) << what;
}

TEST(CensoredFit, GivesPublishedResultsToTheirDigits) {
  const Model constant = Model::written("y = c");
  const CensoredFit lognormal = fit_censored(constant, controls(), {.distribution = Distribution::lognormal});
  expect_close(std::log(lognormal.estimate.parameters()[0]), 5.117, 0.001, "Lawless (2003), lognormal location");
  expect_close(lognormal.scatter, 0.705, 0.001, "lognormal scale");
  const CensoredFit weibull = fit_censored(constant, controls(), {.distribution = Distribution::weibull});
  expect_close(std::log(weibull.estimate.parameters()[0]), 5.212, 0.001, "Lawless (2003), Weibull location");
  expect_close(weibull.scatter, 0.429, 0.001, "Weibull scale");
  EXPECT_NEAR(weibull.scatter_value() * weibull.scatter, 1, 1e-15);

  const CensoredFit line = fit_censored(Model::written("y = a + b*x", {"x"}), insulations(true));
  expect_close(line.estimate.parameters()[0], -6.019, 0.001, "Schmee and Hahn (1979), intercept");
  expect_close(line.estimate.parameters()[1], 4.311, 0.001, "slope");
  expect_close(line.scatter, 0.2592, 0.0001, "standard deviation");
  // The same curve of the hours themselves: the parameters agree, the likelihood is that of the hours.
  for (const char* text : {"y = 10^(a + b*x)", "ln(y) = ln(10)*a + ln(10)*b*x"}) {
    const CensoredFit hours =
        fit_censored(Model::written(text, {"x"}), insulations(false), {.distribution = Distribution::lognormal});
    EXPECT_TRUE(as_eigen(hours.estimate.parameters()).isApprox(as_eigen(line.estimate.parameters()), 1e-7)) << text;
    EXPECT_NEAR(hours.scatter, std::log(10.0) * line.scatter, 1e-7);
    double jacobian = 0;
    for (std::size_t i = 0; i < 40; ++i) {
      if (line.data.of[i] == Censoring::none)
        jacobian +=
            line.data.rows.responses()[static_cast<Eigen::Index>(i)] * std::log(10.0) + std::log(std::log(10.0));
    }
    EXPECT_NEAR(hours.log_likelihood, line.log_likelihood - jacobian, 1e-7) << text;
  }

  // Weeks of 42 remissions, Weibull regression on the treatment: Cox and Oakes (1984) Analysis of Survival Data, 5.
  std::vector<double> treated;
  Rows weeks;
  const auto add = [&](double group, const std::vector<double>& list, Censoring censoring) {
    for (const double w : list) {
      treated.push_back(group);
      weeks.emplace_back(w, censoring);
    }
  };
  add(1, {6, 6, 6, 7, 10, 13, 16, 22, 23}, Censoring::none);
  add(1, {6, 9, 10, 11, 17, 19, 20, 25, 32, 32, 34, 35}, Censoring::above);
  add(0, {1, 1, 2, 2, 3, 4, 4, 5, 5, 8, 8, 8, 8, 11, 11, 12, 12, 15, 17, 22, 23}, Censoring::none);
  const CensoredFit remissions = fit_censored(Model::written("ln(y) = a + b*x", {"x"}), rows_of(treated, weeks),
                                              {.distribution = Distribution::weibull});
  expect_close(remissions.estimate.parameters()[0], 2.248, 0.001, "Cox and Oakes (1984), intercept");
  expect_close(remissions.estimate.parameters()[1], 1.267, 0.001, "treatment");
  expect_close(remissions.scatter, 0.732, 0.001, "scale");
  expect_close(remissions.estimate.standard_uncertainties()[0], 0.166, 0.001, "its standard error");
  expect_close(remissions.estimate.standard_uncertainties()[1], 0.311, 0.001, "that of the treatment");
  expect_close(remissions.log_likelihood, -106.6, 0.1, "log likelihood");
}

// The log likelihood, written down again: densities and probabilities of the responses themselves.
double log_likelihood(Distribution distribution, const CensoredRows& data, const std::function<double(double)>& curve,
                      double s) {
  double sum = 0;
  for (std::size_t i = 0; i < data.of.size(); ++i) {
    const auto row = static_cast<Eigen::Index>(i);
    const double y = data.rows.responses()[row];
    const double f = curve(data.rows.predictors().empty() ? 0 : data.rows.predictor(0)[row]);
    double below = 0, density = 0;
    if (distribution == Distribution::weibull) {
      const double k = 1 / s;
      below = 1 - std::exp(-std::pow(y / f, k));
      density = k / f * std::pow(y / f, k - 1) * std::exp(-std::pow(y / f, k));
    } else {
      const bool logarithmic = distribution == Distribution::lognormal;
      const double z = (logarithmic ? std::log(y / f) : y - f) / s;
      below = std::erfc(-z / std::sqrt(2.0)) / 2;
      density = std::exp(-z * z / 2) / (s * std::sqrt(2 * std::numbers::pi) * (logarithmic ? y : 1));
    }
    sum += std::log(data.of[i] == Censoring::none ? density : data.of[i] == Censoring::below ? below : 1 - below);
  }
  return sum;
}

const Rows mixed_rows = {{21, Censoring::none}, {17, Censoring::above}, {14.5, Censoring::none},
                         {12, Censoring::none}, {13, Censoring::below}, {8.8, Censoring::none},
                         {9, Censoring::none},  {7, Censoring::above},  {5.1, Censoring::none},
                         {6, Censoring::below}, {5.5, Censoring::none}, {4.9, Censoring::none}};
const std::vector<double> mixed_x = {0, 0.5, 1, 1.5, 2, 2.5, 3, 3.5, 4, 4.5, 5, 5.5};

// Greatest likelihood, observed information, quantiles and profile ends for rows with limits on both sides.
TEST(CensoredFit, HoldsAgainstTheLikelihoodWrittenAgain) {
  const CensoredRows data = rows_of(mixed_x, mixed_rows);
  for (const Distribution distribution : {Distribution::normal, Distribution::lognormal, Distribution::weibull}) {
    const std::string what(name(distribution));
    const CensoredFit fit =
        fit_censored(Model::written("y = A*exp(-b*x)", {"x"}), data, {.distribution = distribution});
    ASSERT_TRUE(fit.converged);
    EXPECT_EQ(fit.estimate.degrees_of_freedom(), 12 - 2 - 1) << "less the curve's parameters and the scatter";
    EXPECT_LE(fit.evaluations, 40) << what << ": Newton's steps with the exact cross derivatives are few";
    const VectorXd best = as_eigen(fit.joint);
    const auto at = [&](const VectorXd& joint) {
      return log_likelihood(
          distribution, data, [&](double x) { return joint[0] * std::exp(-joint[1] * x); }, std::exp(joint[2]));
    };
    EXPECT_NEAR(at(best), fit.log_likelihood, 1e-9) << what;
    EXPECT_NEAR(fit.aicc, 2 * 3 - 2 * at(best) + 2.0 * 3 * 4 / (12 - 3 - 1), 1e-9);
    EXPECT_NEAR(fit.bic, 3 * std::log(12.0) - 2 * at(best), 1e-9);
    const VectorXd h = as_eigen(fit.joint_covariance).diagonal().cwiseSqrt() * 0.01;
    Eigen::Matrix3d information;
    for (int i = 0; i < 3; ++i) {
      VectorXd up = best, down = best;
      up[i] += 1e-3 * h[i];
      down[i] -= 1e-3 * h[i];
      EXPECT_NEAR((at(up) - at(down)) / (2e-3 * h[i]) * h[i], 0, 1e-6) << what << ": the slope along " << i;
      for (int j = 0; j < 3; ++j) {
        const auto moved = [&](double a, double b) {
          VectorXd joint = best;
          joint[i] += a * h[i];
          joint[j] += b * h[j];
          return at(joint);
        };
        information(i, j) = -(moved(1, 1) - moved(1, -1) - moved(-1, 1) + moved(-1, -1)) / (4 * h[i] * h[j]);
      }
    }
    const Eigen::Matrix3d covariance = information.inverse();
    EXPECT_TRUE(covariance.isApprox(as_eigen(fit.joint_covariance), 2e-4))
        << what << "\n"
        << covariance - as_eigen(fit.joint_covariance);
    EXPECT_NEAR(fit.estimate.covariance()(0, 1), fit.joint_covariance(0, 1), 1e-9);
    EXPECT_NEAR(fit.scatter_uncertainty() / fit.scatter_value(), std::sqrt(fit.joint_covariance(2, 2)), 1e-12);

    // At an end of a profile twice the log likelihood, maximised over a fine grid of the others, has fallen by 3.84.
    const Interval of_b = censored_interval(fit, "b", 0.95);
    for (const double end : {of_b.low, of_b.high}) {
      double highest = -infinity;
      double a = fit.joint[0], s = fit.joint[2], reach = 6;
      for (int round = 0; round < 14; ++round, reach /= 2.5) {
        const double a0 = a, s0 = s;
        for (int i = -8; i <= 8; ++i) {
          for (int k = -8; k <= 8; ++k) {
            const VectorXd joint = Eigen::Vector3d(a0 + reach * i / 8, end, s0 + 0.15 * reach * k / 8);
            const double value = joint[0] > 0 ? at(joint) : -infinity;
            if (value > highest) {
              highest = value;
              a = joint[0];
              s = joint[2];
            }
          }
        }
      }
      EXPECT_NEAR(2 * (fit.log_likelihood - highest), 3.841458820694124, 2e-4) << what;
    }
    EXPECT_LT(of_b.low, fit.joint[1]);
    EXPECT_GT(of_b.high, fit.joint[1]);

    // A quantile by the distribution itself, and its first-order uncertainty by differences.
    const VectorXd place = VectorXd::Constant(1, 2.2);
    const auto value_at = [&](const VectorXd& joint) {
      const double f = joint[0] * std::exp(-joint[1] * 2.2);
      const double sd = std::exp(joint[2]);
      return distribution == Distribution::weibull  ? f * std::pow(-std::log(0.9), sd)
             : distribution == Distribution::normal ? f - 1.2815515655446004 * sd
                                                    : f * std::exp(-1.2815515655446004 * sd);
    };
    const CensoredQuantile q = quantile_of(fit, 0.1, place, 0.95);
    EXPECT_NEAR(q.value, value_at(best), 1e-9) << what;
    VectorXd slope(3);
    for (int i = 0; i < 3; ++i) {
      VectorXd up = best, down = best;
      up[i] += 1e-3 * h[i];
      down[i] -= 1e-3 * h[i];
      slope[i] = (value_at(up) - value_at(down)) / (2e-3 * h[i]);
    }
    EXPECT_NEAR(q.standard_uncertainty, std::sqrt(slope.dot(as_eigen(fit.joint_covariance) * slope)), 1e-5 * q.value)
        << what;
    EXPECT_LT(q.interval.low, q.value);
    EXPECT_GT(q.interval.high, q.value);
  }
}

// Of rows that are all measured the normal distribution is least squares, with the divisor n.
TEST(CensoredFit, WithoutLimitsIsLeastSquares) {
  Rows y = mixed_rows;
  for (auto& [value, censoring] : y) censoring = Censoring::none;
  const CensoredRows data = rows_of(mixed_x, y);
  const Model model = Model::written("y = A*exp(-b*x)", {"x"});
  const CensoredFit fit_all = fit_censored(model, data);
  const Fit squares = fit(model, data.rows);
  EXPECT_TRUE(as_eigen(fit_all.estimate.parameters()).isApprox(as_eigen(squares.estimate().parameters()), 1e-7));
  EXPECT_NEAR(fit_all.scatter, std::sqrt(squares.chi_squared() / 12), 1e-8);
  EXPECT_TRUE(std::isinf(censored_interval(fit_all, "s", 0.95).high) == false);
  const CensoredOtherwise other = fitted_otherwise(fit_all);
  EXPECT_EQ(other.left_out.size(), 0);
  EXPECT_NEAR(other.as_measured[0], fit_all.joint[0], 1e-7);
}

// A decay that is over before the second time of measuring: any faster one fits as well, and the interval has no end
// there.
TEST(CensoredFit, LeavesAProfileWithoutAnEndOpen) {
  const std::vector<double> x = {0, 0, 0, 3, 3, 4, 4, 5, 5};
  Rows y;
  for (const double value : {10.2, 9.7, 10.1, 1.2, 0.8, 1.1, 0.9, 1.05, 0.95}) y.emplace_back(value, Censoring::none);
  y.back().second = Censoring::below;
  const CensoredFit open =
      fit_censored(Model::written("y = c + A*exp(-k*x)", {"x"}), rows_of(x, y), {.starts = {{"k", 1.5}}});
  const Interval of_k = censored_interval(open, "k", 0.95);
  EXPECT_EQ(of_k.high, infinity);
  EXPECT_TRUE(of_k.low > 0.1 && of_k.low < 3) << of_k.low;
}

// The mirror image swaps the sides; another unit of the response multiplies what has it.
TEST(CensoredFit, FollowsMirrorsAndUnits) {
  const CensoredRows data = rows_of(mixed_x, mixed_rows);
  const Model line = Model::written("y = a + b*x", {"x"});
  const CensoredFit plain = fit_censored(line, data);
  Rows mirrored = mixed_rows;
  for (auto& [value, censoring] : mirrored) {
    value = -value;
    if (censoring != Censoring::none) censoring = censoring == Censoring::above ? Censoring::below : Censoring::above;
  }
  const CensoredFit mirror = fit_censored(line, rows_of(mixed_x, mirrored));
  EXPECT_TRUE(as_eigen(mirror.estimate.parameters()).isApprox(-as_eigen(plain.estimate.parameters()), 1e-9));
  EXPECT_NEAR(mirror.log_likelihood, plain.log_likelihood, 1e-10);
  EXPECT_NEAR(quantile_of(mirror, 0.1, VectorXd::Constant(1, 2.0), 0.9).interval.low,
              -quantile_of(plain, 0.9, VectorXd::Constant(1, 2.0), 0.9).interval.high, 1e-6);
  for (const Distribution distribution : {Distribution::normal, Distribution::lognormal, Distribution::weibull}) {
    const CensoredFit one = fit_censored(line, data, {.distribution = distribution});
    for (const double unit : {1e-9, 1e12}) {
      Rows scaled = mixed_rows;
      for (auto& [value, censoring] : scaled) value *= unit;
      const CensoredFit other = fit_censored(line, rows_of(mixed_x, scaled), {.distribution = distribution});
      EXPECT_TRUE(as_eigen(other.estimate.parameters()).isApprox(unit * as_eigen(one.estimate.parameters()), 1e-7))
          << name(distribution);
      EXPECT_NEAR(other.scatter / (distribution == Distribution::normal ? unit : 1), one.scatter, 1e-7 * one.scatter);
      EXPECT_NEAR(censored_interval(other, "b", 0.95).low / unit, censored_interval(one, "b", 0.95).low, 1e-5);
    }
  }
}

// What a page is made of: shares that the rows reach, remarks, quantiles at every place.
TEST(CensoredFit, GathersWhatAReportShows) {
  const CensoredFit fit = fit_censored(Model::written("y = c"), controls(), {.distribution = Distribution::normal});
  const CensoredResults r = censored_results(fit, std::vector{0.01, 0.9}, std::vector{Vector()}, 0.9);
  const auto plotted = plotting_positions(fit);
  EXPECT_EQ(r.lowest_share, plotted.front().share);
  EXPECT_EQ(r.highest_share, plotted.back().share);
  EXPECT_NEAR(r.highest_share, 36.5 / 96, 1e-9);
  ASSERT_EQ(r.distributions.size(), 3U);
  EXPECT_EQ(r.distributions.front().distribution, Distribution::lognormal);
  ASSERT_EQ(r.remarks.size(), 1U);  // the normal distribution's AIC is larger by 4.3
  EXPECT_TRUE(has(r.remarks[0], "A lognormal distribution describes these data better: its AIC is smaller by 4.28"));
  EXPECT_EQ(r.parameters.back().name, "s");
  EXPECT_LT(r.parameters.back().low, fit.scatter);
  EXPECT_GT(r.parameters.back().high, fit.scatter);
  EXPECT_EQ(r.quantiles[1].share, 0.9);
  for (const int measured : {19, 20}) {
    Rows y;
    for (int i = 0; i < measured; ++i) y.emplace_back(10 + (i * 7) % 11, Censoring::none);
    const CensoredResults few = censored_results(fit_censored(Model::written("y = c"), rows_of({}, y)), {}, {}, 0.95);
    EXPECT_EQ(few.remarks.size(), measured < 20 ? 1U : 0U);
  }
}

// Kaplan and Meier's estimate by hand: of 6 rows 2, 3+, 5, 7+, 8, 9 the steps are 1/6, 5/6·1/4, 5/8·1/2, 5/16.
TEST(CensoredFit, PlotsSharesByTheProductLimit) {
  const CensoredRows data = rows_of({}, {{5, Censoring::none},
                                         {2, Censoring::none},
                                         {3, Censoring::above},
                                         {9, Censoring::none},
                                         {7, Censoring::above},
                                         {8, Censoring::none}});
  const auto shares = plotting_positions(fit_censored(Model::written("y = c"), data));
  ASSERT_EQ(shares.size(), 4U);
  const double steps[] = {1.0 / 6, 5.0 / 24, 5.0 / 16, 5.0 / 16};
  double below = 0;
  for (std::size_t i = 0; i < 4; ++i) {
    EXPECT_NEAR(shares[i].share, below + steps[i] / 2, 1e-9) << i;
    below += steps[i];
  }
  EXPECT_EQ(shares[0].row, 1U);
  // Limits below take their share from below the smallest measured row.
  const auto low = plotting_positions(fit_censored(
      Model::written("y = c"),
      rows_of({}, {{1, Censoring::below}, {1, Censoring::below}, {2, Censoring::none}, {3, Censoring::none}})));
  EXPECT_NEAR(low[0].share, 0.5 + 0.125, 1e-9);
}

TEST(CensoredRows, AreReadFromCellsAndWords) {
  const auto table_of = [](const std::vector<std::string>& cells, const std::vector<std::string>& words) {
    std::vector<Column> columns(words.empty() ? 1 : 2);
    columns[0].name = "y";
    for (std::uint32_t i = 0; i < cells.size(); ++i) {
      const bool is_number = cells[i].find_first_not_of("0123456789.") == std::string::npos;
      columns[0].numbers.push_back(is_number ? test::number_of(cells[i]) : not_a_number);
      if (!is_number) columns[0].texts.push_back({i, cells[i]});
      if (words.empty()) continue;
      columns[1].name = "side";
      columns[1].numbers.push_back(not_a_number);
      if (!words[i].empty()) columns[1].texts.push_back({i, words[i]});
    }
    return Table(std::move(columns));
  };
  const CensoredRows cells =
      censored_rows(table_of({"<0.05", "> 1e7", "\u2264 3", "\u22652,5", "<=4", ">=+6", "8"}, {}), {.response = "y"});
  const std::vector<double> values = {0.05, 1e7, 3, 2.5, 4, 6, 8};
  const Censoring b = Censoring::below, a = Censoring::above, n = Censoring::none;
  EXPECT_EQ(cells.of, (std::vector<Censoring>{b, a, b, a, b, a, n}));
  for (std::size_t i = 0; i < values.size(); ++i)
    EXPECT_EQ(cells.rows.responses()[static_cast<Eigen::Index>(i)], values[i]);
  EXPECT_EQ(cells.count(b), 3U);
  const CensoredRows words = censored_rows(table_of({"1", "2", "3", "4"}, {"below", "", "above", "none"}),
                                           {.response = "y", .left_out = {{2, "spilt"}}}, "side");
  EXPECT_EQ(words.of, (std::vector<Censoring>{b, a, n}));
  const auto refused = [&](const Table& table, const char* said_by) {
    try {
      (void)censored_rows(table, {.response = "y"}, said_by);
    } catch (const Error& error) {
      return std::string(error.what());
    }
    return std::string();
  };
  EXPECT_TRUE(has(refused(table_of({"1", "2"}, {"low", ""}), "side"), "row 1, column 'side': 'low'"));
  EXPECT_TRUE(has(refused(table_of({"<1", "2"}, {"above", ""}), "side"), "'above' beside '<1'"));
  EXPECT_TRUE(has(refused(table_of({"<x", "2"}, {}), ""), "'<x' is not a number"));
  EXPECT_TRUE(has(refused(table_of({"1", "2"}, {}), "none"), "none"));
}

TEST(CensoredFit, RefusesWhatTheRowsCantTell) {
  for (const Distribution distribution : {Distribution::normal, Distribution::weibull}) {
    for (const double share : {0.0, 1.0, -0.1, not_a_number})
      EXPECT_EQ(test::caught([&] { (void)standard_quantile(distribution, share); }).value(), shortest(share));
  }
  EXPECT_NEAR(standard_quantile(Distribution::weibull, 1 - std::exp(-1)), 0, 1e-15);
  const auto refused = [](const char* text, const std::vector<double>& x, const Rows& y, CensoredOptions options = {}) {
    try {
      (void)fit_censored(x.empty() ? Model::written(text) : Model::written(text, {"x"}), rows_of(x, y), options);
    } catch (const Error& error) {
      return std::string(error.what());
    }
    return std::string("not refused");
  };
  const Censoring n = Censoring::none, a = Censoring::above, b = Censoring::below;
  EXPECT_TRUE(has(refused("y = c", {}, {{1, a}, {2, a}, {3, b}}), "no row is measured"));
  EXPECT_TRUE(has(refused("y = c", {}, {{1, n}}), "1 row can't determine 1 parameter and the scatter"));
  EXPECT_TRUE(has(refused("y = c", {}, {{5, n}, {5, n}, {5, n}}), "no scatter"));
  EXPECT_TRUE(has(refused("y = c", {}, {{5, n}, {4, a}, {3, a}}), "no scatter"));
  const CensoredOptions weibull{.distribution = Distribution::weibull};
  EXPECT_TRUE(has(refused("y = c", {}, {{1, n}, {0, n}, {2, n}}, weibull), "row 2: y = 0"));
  EXPECT_TRUE(has(refused("y^2 = a + b*x", {1, 2, 3}, {{1, n}, {2, n}, {2.5, n}}, weibull), "left side"));
  EXPECT_TRUE(has(refused("ln(y) = a + b*x", {1, 2, 3}, {{1, n}, {2, n}, {2.5, n}}), "normal distribution"));
  CensoredRows unmarked = rows_of({}, {{1, n}, {2, n}, {3, n}});
  unmarked.of.pop_back();
  EXPECT_EQ(test::caught([&] { (void)fit_censored(Model::written("y = c"), unmarked); }).message(),
            "3 rows for 2 marks of what is known");
  EXPECT_TRUE(has(refused("y = b*x", {-1, 1, 2, 3}, {{1, n}, {2, n}, {4, n}, {6, n}}, weibull), "is not above 0"));
  const auto of_rows = [](const Rows& y) { return fit_censored(Model::written("y = c"), rows_of({}, y)); };
  EXPECT_THROW((void)ranked_by_aicc({{"one", of_rows({{1, n}, {2, n}, {3, n}, {4, n}})},
                                     {"other", of_rows({{1, n}, {2, n}, {3, n}, {4, a}})}}),
               Error);
  EXPECT_THROW((void)ranked_by_aicc({}), Error);
  const CensoredFit fine = fit_censored(Model::written("y = c"), controls(), weibull);
  EXPECT_THROW((void)censored_interval(fine, "nobody", 0.95), Error);
  EXPECT_THROW((void)censored_interval(fine, "c", 1.5), Error);
  EXPECT_THROW((void)quantile_of(fine, 1, VectorXd(), 0.95), Error);
  EXPECT_THROW((void)quantile_of(fine, 0.5, VectorXd::Constant(1, 3.0), 0.95), Error);
}

}  // namespace
}  // namespace truecurve
