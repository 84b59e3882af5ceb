// Candidates side by side against published cases and independent calculations.
#include <truecurve/io/comparison_record.hpp>
#include <truecurve/io/csv.hpp>
#include <truecurve/truecurve.hpp>

#include "../../src/compare/common_predictors.hpp"
#include "candidates.hpp"

namespace truecurve {
namespace {

using Eigen::Index;
using test::demo_rows;
using test::find;
using test::fits_of;

// Burnham and Anderson (2002), table 3.2: all models of the cement data's four predictors, differences and weights. The
// table was made from residual variances rounded to two decimals (4.45, ...), which is worth 0.02 in a difference and
// 0.002 in a weight.
TEST(Compare, AgreesWithThePublishedWeightsOfTheCementData) {
  const Table table = test::case_table(test::reference_case("metrology", "Hald-cement"));
  std::vector<std::string> names;
  for (const Column& column : table.columns()) names.push_back(column.name);
  const std::string y = names.back() == "y" ? "y" : names.front();
  std::vector<std::string> x;
  for (const std::string& name : names) {
    if (name != y) x.push_back(name);
  }
  ASSERT_EQ(x.size(), 4u);
  std::vector<CandidateModel> candidates;
  for (unsigned set = 1; set < 16; ++set) {
    std::string text = y + " = b0";
    std::string name;
    std::vector<std::string> predictors;
    for (unsigned k = 0; k < 4; ++k) {
      if ((set >> k & 1U) == 0) continue;
      predictors.push_back(x[k]);
      text += fmt::format(" + b{}*{}", k + 1, x[k]);
      name += std::to_string(k + 1);
    }
    candidates.push_back(
        {name, Model::written(text, predictors), Observations(table, {.response = y, .predictors = predictors})});
  }
  const Comparison all = compare_candidates(candidates);
  ASSERT_EQ(all.candidates.size(), 15u);
  struct Published {
    const char* name;
    double delta, weight;
  };
  for (const auto& [name, delta, weight] :
       {Published{"12", 0.00, 0.567}, Published{"124", 3.13, 0.119}, Published{"123", 3.16, 0.117},
        Published{"14", 3.33, 0.107}, Published{"134", 3.88, 0.081}, Published{"234", 8.73, 0.007}}) {
    EXPECT_NEAR(find(all, name).delta_aicc, delta, 0.02) << name;
    EXPECT_NEAR(find(all, name).weight, weight, 0.002) << name;
  }
  EXPECT_EQ(all.candidates[0].name, "12");
  EXPECT_EQ(all.suggestion.name, "12");
}

// Six rows have an AICc for at most four parameters with the scatter: the others share no weight, and take none away.
TEST(Compare, WeighsCandidatesThatHaveTheCriterion) {
  const Observations rows = Observations::of(Vector{1, 2, 3, 4, 5, 6}, Vector{2.1, 3.6, 6.3, 7.9, 9.8, 12.4});
  const Comparison all = compare(fits_of(rows, {"polynomial(1)", "polynomial(2)", "polynomial(3)", "polynomial(4)"}));
  const Candidate& line = find(all, "polynomial(1)");
  const Candidate& bend = find(all, "polynomial(2)");
  const double delta = std::abs(line.aicc - bend.aicc);
  EXPECT_NEAR(std::max(line.weight, bend.weight), 1 / (1 + std::exp(-delta / 2)), 1e-12);
  EXPECT_NEAR(line.weight + bend.weight, 1, 1e-12);
  for (const char* name : {"polynomial(3)", "polynomial(4)"}) {
    EXPECT_TRUE(std::isnan(find(all, name).aicc)) << name;
    EXPECT_TRUE(std::isnan(find(all, name).delta_aicc)) << name;
    EXPECT_TRUE(std::isnan(find(all, name).weight)) << name;
  }
}

// The degree ladder of the density data, every number by hand: ordinary least squares in long double.
TEST(Compare, AgreesWithTheLadderCalculatedByHand) {
  const Observations rows = demo_rows("density.csv", "w_Sn", "rho");
  const Comparison ladder =
      compare(fits_of(rows, {"polynomial(1)", "polynomial(2)", "polynomial(3)", "polynomial(4)"}));
  const auto n = static_cast<Index>(rows.size());
  const auto ln = static_cast<long double>(n);
  std::vector<long double> squares, criteria;
  for (int degree = 1; degree <= 4; ++degree) {
    const auto p = static_cast<std::size_t>(degree) + 1;
    const auto term = [&rows](Index i, std::size_t d) {
      return std::pow(static_cast<long double>(rows.predictor(0)[i]) - 13.0L, static_cast<int>(d));
    };
    test::LongMatrix squares_of_columns(p, std::vector<long double>(p));
    std::vector<long double> moments(p);
    for (std::size_t d = 0; d < p; ++d) {
      for (std::size_t e = 0; e < p; ++e) {
        for (Index i = 0; i < n; ++i) squares_of_columns[d][e] += term(i, d) * term(i, e);
      }
      for (Index i = 0; i < n; ++i) moments[d] += term(i, d) * rows.responses()[i];
    }
    const test::LongMatrix inverse = test::inverse(squares_of_columns);
    std::vector<long double> residuals, leverages;
    for (Index i = 0; i < n; ++i) {
      residuals.push_back(rows.responses()[i]);
      leverages.push_back(0);
      for (std::size_t d = 0; d < p; ++d) {
        for (std::size_t e = 0; e < p; ++e) {
          residuals.back() -= term(i, d) * inverse[d][e] * moments[e];
          leverages.back() += term(i, d) * inverse[d][e] * term(i, e);
        }
      }
    }
    squares.push_back(std::inner_product(residuals.begin(), residuals.end(), residuals.begin(), 0.0L));
    const long double k = degree + 2;
    const long double minus_two_l = ln * (std::log(2 * std::numbers::pi_v<long double> * squares.back() / ln) + 1);
    criteria.push_back(minus_two_l + 2 * k + 2 * k * (k + 1) / (ln - k - 1));
    long double press = 0;
    for (Index i = 0; i < n; ++i)
      press += std::pow(residuals[static_cast<std::size_t>(i)] / (1 - leverages[static_cast<std::size_t>(i)]), 2.0L);
    const Candidate& c = find(ladder, fmt::format("polynomial({})", degree));
    const auto near = [](double got, long double wanted) {
      EXPECT_NEAR(got, static_cast<double>(wanted), 1e-9 * std::abs(static_cast<double>(wanted)));
    };
    near(c.aicc, criteria.back());
    near(c.bic, minus_two_l + k * std::log(ln));
    near(c.leave_one_out.size.root_mean_square, std::sqrt(press / ln));
    near(c.residual_sd, std::sqrt(squares.back() / (ln - degree - 1)));
    long double mean = 0;
    for (const double y : as_eigen(rows.responses())) mean += y / ln;
    long double total = 0;
    for (const double y : as_eigen(rows.responses())) total += (y - mean) * (y - mean);
    near(c.r_squared, 1 - squares.back() / total);
    near(c.adjusted_r_squared, 1 - squares.back() / (ln - degree - 1) / (total / (ln - 1)));
  }
  long double sum = 0;
  for (const long double a : criteria) sum += std::exp((criteria[1] - a) / 2);
  EXPECT_NEAR(ladder.candidates[0].weight, static_cast<double>(1 / sum), 1e-9);
  ASSERT_EQ(ladder.nested_tests.size(), 6u);
  for (const NestedPair& pair : ladder.nested_tests) {
    const std::size_t small = ladder.candidates[pair.smaller].parameters - 2;
    const std::size_t large = ladder.candidates[pair.larger].parameters - 2;
    const auto added = static_cast<long double>(large - small);
    const long double dof = ln - static_cast<long double>(large) - 2;
    const long double f = (squares[small] - squares[large]) / added / (squares[large] / dof);
    EXPECT_NEAR(pair.test.statistic, static_cast<double>(f), 1e-7 * static_cast<double>(f));
    EXPECT_DOUBLE_EQ(pair.test.p, f_upper(pair.test.statistic, static_cast<double>(added), static_cast<double>(dof)));
  }
  EXPECT_EQ(find(ladder, "polynomial(3)").added_to, "polynomial(2)");
  // From the smallest up, each beside its nearest special case first.
  std::string order;
  for (const NestedPair& pair : ladder.nested_tests)
    order +=
        fmt::format("{}{} ", ladder.candidates[pair.smaller].parameters, ladder.candidates[pair.larger].parameters);
  EXPECT_EQ(order, "23 34 24 45 35 25 ");
  // The p of what a candidate adds to the next smaller one; the smallest is asked for its highest power.
  for (const NestedPair& pair : ladder.nested_tests) {
    const Candidate& larger = ladder.candidates[pair.larger];
    if (ladder.candidates[pair.smaller].parameters + 1 == larger.parameters)
      EXPECT_EQ(larger.added_p, pair.test.p) << larger.name;
  }
  const Candidate& line = find(ladder, "polynomial(1)");
  EXPECT_TRUE(line.added_to.empty());
  EXPECT_EQ(line.added_p, parameter_intervals(line.fit.estimate(), 0.95)[1].p);
  // The largest residual in units of its own scatter, and its row.
  for (const Candidate& c : ladder.candidates) {
    Index at = 0;
    const VectorXd standardized =
        as_eigen(c.fit.residuals()).array() / ((1 - as_eigen(c.fit.leverage()).array()).sqrt() * c.residual_sd);
    standardized.cwiseAbs().maxCoeff(&at);
    EXPECT_NEAR(c.largest_residual, standardized[at], 1e-9) << c.name;
    EXPECT_EQ(c.largest_residual_row, rows.source_rows()[static_cast<std::size_t>(at)]);
  }
  // Of several that are as large, the first.
  const Observations even = Observations::of({1, 2, 3, 4}, {3, 1, 3, 1});
  const Comparison constants =
      compare(std::vector<Fit>{fit(Model::written("y = c"), even), fit(shape_model("line"), even)});
  EXPECT_EQ(find(constants, "y = c").largest_residual_row, 1u);
  EXPECT_GT(find(constants, "y = c").largest_residual, 0);
  EXPECT_EQ(ladder.suggestion.name, "polynomial(2)");
}

// A search that did not end at a minimum gives no curve to count, to test or to compare routes by, however close it
// came; neither does the second of two equal curves, nor one that passes through every row.
TEST(Compare, CountsNoCurveThatDoesNotStand) {
  const Observations rows =
      Observations::of(Vector{0, 1, 2, 3, 4, 5, 6, 7}, Vector{11.02, 8.15, 6.1, 4.7, 3.6, 2.87, 2.39, 1.96});
  const Fit whole = fit(Model::written("y = a*exp(-x/tau)"), rows);
  const auto ended = [&](const char* text, double a, double tau) {
    return fit(Model::written(text), rows, {.starts = {{"a", a}, {"tau", tau}}, .most_evaluations = 1});
  };
  const std::vector<Fit> fits = {ended("y = a*exp(-x/tau)", whole.parameter("a").value, whole.parameter("tau").value),
                                 whole, ended("y = a*exp(-x/tau) + c", 10, 3),
                                 fit(Model::written("ln(y) = c - x/tau"), rows),
                                 fit(Model::written("y = a", {"x"}), rows)};
  const Comparison all = compare(fits, {.names = {"ended", "whole", "richer", "logarithms", "level"}});
  for (const Candidate& c : all.candidates) {
    const bool stands = c.name != "ended" && c.name != "richer";
    EXPECT_EQ(c.has(RemarkCode::not_converged), !stands) << c.name;
    EXPECT_FALSE(c.has(RemarkCode::same_curve)) << c.name;
  }
  ASSERT_LT(find(all, "richer").aicc, find(all, "whole").aicc);
  ASSERT_NEAR(find(all, "ended").aicc, find(all, "whole").aicc, 1e-4);
  EXPECT_EQ(std::min(find(all, "whole").delta_aicc, find(all, "logarithms").delta_aicc), 0);
  EXPECT_TRUE(all.nested_tests.empty());
  EXPECT_EQ(all.routes.size(), 1U);
  EXPECT_EQ(compare(std::vector<Fit>{whole, fit(Model::written("y = a*exp(-x/tau) + c"), rows)}).nested_tests.size(),
            1U);

  const std::vector<std::string> ladder = {"y = a", "y = a + b*x", "y = a + b*x + c*x^2"};
  const Vector x = {1, 2, 3, 4, 5, 6};
  const auto models_of = [&](const Observations& points, std::vector<std::string> texts) {
    std::vector<Fit> made;
    for (const std::string& text : texts) made.push_back(fit(Model::written(text, {"x"}), points));
    return compare(made, {.names = std::move(texts)});
  };
  EXPECT_TRUE(models_of(Observations::of(x, Vector{3, 5, 7, 9, 11, 13}), ladder).nested_tests.empty());
  const Observations points = Observations::of(x, Vector{2.1, 3.6, 6.3, 7.9, 9.8, 12.4});
  EXPECT_EQ(models_of(points, {"y = a", "y = a + b*x", "y = b*x + a"}).nested_tests.size(), 1U);
  // Of two special cases with as many parameters, the one that stands first.
  const Comparison two = models_of(points, {"y = a + c*x^2", "y = a + b*x", ladder[2]});
  const bool line_first = &find(two, "y = a + b*x") < &find(two, "y = a + c*x^2");
  EXPECT_EQ(find(two, ladder[2]).added_to, line_first ? "y = a + b*x" : "y = a + c*x^2");
}

// What a candidate's numbers are where a sum is nothing, or no degree of freedom is left.
TEST(Compare, HasNoNumbersOfNothing) {
  const Model level = Model::written("y = a", {"x"});
  const Model straight = shape_model("line");
  const auto compared = [](const Observations& rows, const std::vector<Model>& models) {
    std::vector<Fit> fits;
    for (const Model& model : models) fits.push_back(fit(model, rows));
    return compare(fits, {.names = {"level", "line"}});
  };
  // A mean explains nothing, not even by rounding.
  for (double scale = 0.1; scale < 3; scale += 0.0703) {
    const std::vector<double> y = {3.3 * scale, 5.6 * scale, 7.1 * scale, 9.3 * scale, 10.7 * scale};
    const Comparison five =
        compared(Observations::of({1, 2, 3, 4, 5}, y, std::vector<double>(5, 0.2 * scale)), {level, straight});
    EXPECT_EQ(find(five, "level").r_squared, 0);
    EXPECT_NEAR(find(five, "level").adjusted_r_squared, 0, 1e-15);
    double chi_squared = 0;
    for (const double value : y) chi_squared += std::pow((value / scale - 7.2) / 0.2, 2);
    EXPECT_NEAR(find(five, "level").reduced_chi_squared, chi_squared / 4, 1e-9 * chi_squared);
  }
  // Two rows leave a line no degree of freedom: that it passes through them says nothing.
  for (const double y : {7.7, 5.9, 1.0 / 3, 1e5 / 7}) {
    const Candidate line = find(compared(Observations::of({0.1, 0.7}, {3.3, y}), {level, straight}), "line");
    for (const double none : {line.residual_sd, line.adjusted_r_squared, line.aicc, line.bic, line.log_likelihood,
                              line.largest_residual, line.reduced_chi_squared})
      EXPECT_TRUE(std::isnan(none));
    EXPECT_FALSE(line.has(RemarkCode::exact));
    EXPECT_TRUE(line.has(RemarkCode::few_rows));
  }
  // Through every row, and of equal readings: no largest residual, and no share of what does not vary.
  const Comparison exact =
      compared(Observations::of({1, 2, 3, 4, 5}, {0.3, 0.7, 1.1, 1.5, 1.9000000000000001}), {level, straight});
  EXPECT_TRUE(find(exact, "line").has(RemarkCode::exact));
  EXPECT_EQ(find(exact, "line").residual_sd, 0);
  EXPECT_TRUE(std::isnan(find(exact, "line").largest_residual));
  const Comparison equal = compared(Observations::of({1, 2, 3, 4}, {3, 3, 3, 3}), {level, straight});
  EXPECT_TRUE(std::isnan(find(equal, "line").r_squared));
  EXPECT_TRUE(std::isnan(find(equal, "line").adjusted_r_squared));
  // Of counts no sum of squares says anything.
  const Comparison counted =
      compared(Observations::counted({1, 2, 3, 4}, {12, 15, 21, 22}, std::vector<double>(4, 1), ResponseKind::counts),
               {level, straight});
  for (const Candidate& c : counted.candidates) {
    EXPECT_TRUE(std::isnan(c.residual_sd));
    EXPECT_TRUE(std::isnan(c.r_squared));
    EXPECT_FALSE(std::isnan(c.deviance));
  }
}

// A model of ln(y) is scored by the lognormal density it implies for y.
TEST(Compare, ScoresATransformByTheDensityOfTheMeasuredResponse) {
  const Observations rows = demo_rows("viscosity.csv", "T", "eta");
  const Model straight = shape_model("arrhenius", "T", "eta", Route::linearized);
  const Fit made = fit(straight, rows);
  const std::vector<Fit> fits = {made, fit(shape_model("arrhenius", "T", "eta"), rows)};
  const Comparison both = compare(fits, {.names = {"linearized", "direct"}});
  const auto n = static_cast<double>(rows.size());
  const double sigma = std::sqrt(made.chi_squared() / n);
  double log_likelihood = 0;
  for (Index i = 0; i < as_eigen(rows.responses()).size(); ++i) {
    const double y = rows.responses()[i];
    const double z = (std::log(y) - std::log(made.fitted_response()[i])) / sigma;
    log_likelihood += std::log(std::exp(-z * z / 2) / (y * sigma * std::sqrt(2 * std::numbers::pi)));
  }
  EXPECT_NEAR(find(both, "linearized").aicc, -2 * log_likelihood + 6 + 24 / (n - 4), 1e-9);

  // Both routes in the parameters of the curve; the linearized ones as the law of propagation has them.
  ASSERT_EQ(both.routes.size(), 1u);
  const RoutePair& pair = both.routes[0].pair;
  const DerivedQuantity a = derive(made.estimate(), "exp(c)", 0.95);
  EXPECT_NEAR(pair.parameters[0].linearized, a.value, 1e-6 * a.value);
  EXPECT_NEAR(pair.parameters[0].linearized_uncertainty, a.standard_uncertainty, 1e-5 * a.standard_uncertainty);
  EXPECT_NEAR(pair.parameters[1].linearized_uncertainty, made.parameter("b").standard_uncertainty, 1e-3);
  const Fit& direct = find(both, "direct").fit;
  EXPECT_EQ(pair.parameters[1].direct, direct.estimate().parameters()[1]);
  EXPECT_EQ(pair.parameters[1].direct_uncertainty, direct.estimate().standard_uncertainties()[1]);
  EXPECT_EQ(pair.delta_aicc, find(both, "linearized").aicc - find(both, "direct").aicc);
  EXPECT_EQ(pair.direct_spread_p, check(direct, CheckKind::equal_variance).p);
  EXPECT_EQ(pair.linearized_spread_p, check(made, CheckKind::equal_variance).p);
  EXPECT_EQ(pair.direct_weights, "equal weights");
  EXPECT_EQ(pair.direct_scatter, "the same for all rows");
  EXPECT_EQ(pair.linearized_scatter, "proportional to eta");
  EXPECT_EQ(pair.linearized_weights, "weights 1/eta^2");
  EXPECT_FALSE(explain_routes(fits_of(rows, {"line"})[0], made).has_value());
}

// Leave-one-out of curves: each row left out by hand and the model fitted anew, without a hint.
TEST(LeaveOneOut, IsARefitWithoutEachRow) {
  const Observations rows = demo_rows("patina.csv", "years", "d");
  for (const char* shape : {"logistic", "line", "power"}) {
    const Model model = shape_model(shape, "years", "d");
    const LeaveOneOut left_out = leave_one_out(fit(model, rows));
    EXPECT_EQ(left_out.method, model.is_linear() ? LeaveOneOut::Method::exact : LeaveOneOut::Method::refitted);
    for (std::size_t row = 1; row <= rows.size(); row += 4) {
      const Fit rest = fit(model, rows.without(std::span(&row, 1), "test"));
      const auto at = static_cast<Index>(row - 1);
      const double predicted = band_at(rest.estimate(), as_eigen(rows.predictor(0)).segment(at, 1), 0.95)[0].value;
      EXPECT_NEAR(left_out.errors[at], rows.responses()[at] - predicted, 1e-6) << shape << row;
    }
  }
  // A transform: predicted on the scale of the left side, taken back to the measured one.
  const Observations melt = demo_rows("viscosity.csv", "T", "eta");
  const Model straight = shape_model("arrhenius", "T", "eta", Route::linearized);
  const LeaveOneOut left_out = leave_one_out(fit(straight, melt));
  EXPECT_EQ(left_out.method, LeaveOneOut::Method::exact);
  const std::size_t row = 3;
  const Fit rest = fit(straight, melt.without(std::span(&row, 1), "test"));
  const double predicted = band_at(rest.estimate(), as_eigen(melt.predictor(0)).segment(2, 1), 0.95)[0].value;
  EXPECT_NEAR(left_out.errors[2], melt.responses()[2] - predicted, 1e-10);
}

TEST(LeaveOneOut, IsOneStepWithManyRowsAndSaysHowGoodThatIs) {
  RandomNumbers random(5);
  const VectorXd x = VectorXd::LinSpaced(501, 0, 10);
  VectorXd y(501);
  for (Index i = 0; i < 501; ++i) y[i] = 5 * std::exp(-0.4 * x[i]) + 0.1 * random.normal();
  const LeaveOneOut left_out = leave_one_out(fit(shape_model("exponential"), Observations::of(x, y)));
  EXPECT_EQ(left_out.method, LeaveOneOut::Method::one_step);
  EXPECT_LT(std::abs(left_out.one_step_difference), 1e-3);
  EXPECT_NE(left_out.one_step_difference, 0);
  // Against refits without the row of the highest leverage, and without one each of twenty-four times twenty rows, by
  // the golden ratio.
  const Fit all = fit(shape_model("exponential"), Observations::of(x, y));
  const Vector leverage = all.leverage();
  std::vector<std::size_t> rows = {
      static_cast<std::size_t>(std::max_element(leverage.begin(), leverage.end()) - leverage.begin())};
  for (std::size_t k = 0; rows.size() < 25; ++k) {
    const std::size_t i =
        20 * k + static_cast<std::size_t>(20 * std::fmod(0.6180339887498949 * static_cast<double>(k), 1));
    if (i != rows[0]) rows.push_back(i);
  }
  double one_step = 0, refitted = 0;
  for (const std::size_t i : rows) {
    const std::size_t row = i + 1;
    const Fit rest = fit(shape_model("exponential"), Observations::of(x, y).without(std::span(&row, 1), "test"));
    const double predicted = band_at(rest.estimate(), Vector{x[static_cast<Index>(i)]}, 0.95)[0].value;
    one_step += std::pow(left_out.errors[static_cast<Index>(i)], 2);
    refitted += std::pow(y[static_cast<Index>(i)] - predicted, 2);
  }
  EXPECT_NEAR(left_out.one_step_difference, std::sqrt(one_step / refitted) - 1, 1e-11);
  EXPECT_NEAR(left_out.size.root_mean_square, 0.1, 0.01);
  // Up to 500 every row is left out in turn.
  if (!test::is_sanitized()) {
    const LeaveOneOut fewer =
        leave_one_out(fit(shape_model("exponential"), Observations::of(VectorXd(x.head(500)), VectorXd(y.head(500)))));
    EXPECT_EQ(fewer.method, LeaveOneOut::Method::refitted);
    EXPECT_NEAR(fewer.errors[20], left_out.errors[20], 1e-3);
  }
  // What rounding leaves of a line is no error, in any unit; what is more is one.
  for (const double unit : {1e-9, 1.0, 1e9}) {
    Vector values = {0.3, 0.7, 1.1, 1.5, 1.9};
    for (double& value : values) value *= unit;
    EXPECT_EQ(leave_one_out(fit(shape_model("line"), Observations::of({1, 2, 3, 4, 5}, values))).size.root_mean_square,
              0);
    values[2] += 1e-9 * unit;
    EXPECT_GT(leave_one_out(fit(shape_model("line"), Observations::of({1, 2, 3, 4, 5}, values))).size.root_mean_square,
              0);
  }
  // A row that nothing else predicts leaves the whole size unknown.
  const Fit lonely = fit(shape_model("line"), Observations::of(Eigen::Vector3d(1, 1, 2), Eigen::Vector3d(1, 2, 3)));
  EXPECT_TRUE(std::isnan(leave_one_out(lonely).errors[2]));
  EXPECT_TRUE(std::isnan(leave_one_out(lonely).size.root_mean_square));
}

// Errors in their own uncertainties, and what can't be said of as many parameters as rows.
TEST(LeaveOneOut, IsAlsoMeasuredInTheUncertaintiesGiven) {
  const VectorXd x = Eigen::Vector4d(1, 2, 3, 5);
  const VectorXd y = Eigen::Vector4d(2.1, 3.8, 6.3, 9.9);
  const VectorXd u = Eigen::Vector4d(0.1, 0.4, 0.2, 0.3);
  const Observations rows = Observations::of(x, y, u);
  const LeaveOneOut left_out = leave_one_out(fit(shape_model("line"), rows));
  EXPECT_NEAR(left_out.size.in_uncertainties, std::sqrt(as_eigen(left_out.errors).cwiseQuotient(u).squaredNorm() / 4),
              1e-12);
  EXPECT_NEAR(left_out.size.root_mean_square, as_eigen(left_out.errors).norm() / 2, 1e-12);
  const Comparison comparison = compare(fits_of(rows, {"line-through-origin", "y = 1 + b*x", "polynomial(3)"}));
  for (const Candidate& c : comparison.candidates) {
    EXPECT_EQ(std::isnan(c.log_likelihood), c.parameters == 4) << c.name;
    EXPECT_EQ(std::isnan(c.bic), c.parameters == 4) << c.name;
  }
}

TEST(CrossValidation, KeepsReplicatesTogether) {
  const Observations rows = demo_rows("density.csv", "w_Sn", "rho");  // nine compositions, two castings each
  const Model model = shape_model("polynomial(2)", "w_Sn", "rho");
  const Fit made = fit(model, rows);
  // With as many folds as compositions each is predicted by the other eight.
  double sum = 0;
  for (std::size_t row = 1; row <= rows.size(); row += 2) {
    const std::vector<std::size_t> pair = {row, row + 1};
    ASSERT_EQ(rows.predictor(0)[static_cast<Index>(row - 1)], rows.predictor(0)[static_cast<Index>(row)]);
    const Fit rest = fit(model, rows.without(pair, "test"));
    const VectorXd at = as_eigen(rows.predictor(0)).segment(static_cast<Index>(row - 1), 2);
    for (int i = 0; i < 2; ++i) {
      const double predicted = band_at(rest.estimate(), at, 0.95)[static_cast<std::size_t>(i)].value;
      sum += std::pow(rows.responses()[static_cast<Index>(row) - 1 + i] - predicted, 2);
    }
  }
  const double by_hand = std::sqrt(sum / static_cast<double>(rows.size()));
  EXPECT_NEAR(cross_validation(made, 9, 1).root_mean_square, by_hand, 1e-9 * by_hand);
  // Of fewer folds: the compositions in ascending order, shuffled (Durstenfeld 1964) and dealt out in turn.
  for (const auto& [folds, seed] : {std::pair{2U, 7U}, {4U, 7U}, {4U, 8U}, {4U, 9U}, {3U, 10U}, {4U, 11U}}) {
    RandomNumbers random(seed);
    std::vector<std::size_t> order = {0, 1, 2, 3, 4, 5, 6, 7, 8};
    for (std::size_t last = 9; last > 1; --last)
      std::swap(order[last - 1], order[static_cast<std::size_t>(random.uniform() * static_cast<double>(last))]);
    double squares = 0;
    for (std::size_t fold = 0; fold < folds; ++fold) {
      std::vector<std::size_t> held;
      for (std::size_t g = fold; g < 9; g += folds) {
        held.push_back(2 * order[g] + 1);
        held.push_back(2 * order[g] + 2);
      }
      std::sort(held.begin(), held.end());
      const Fit rest = fit(model, rows.without(held, "test"));
      for (const std::size_t row : held) {
        const auto i = static_cast<Index>(row - 1);
        squares += std::pow(rows.responses()[i] - band_at(rest.estimate(), {rows.predictor(0)[i]}, 0.95)[0].value, 2);
      }
    }
    const double wanted = std::sqrt(squares / static_cast<double>(rows.size()));
    EXPECT_NEAR(cross_validation(made, static_cast<int>(folds), seed).root_mean_square, wanted, 1e-9 * wanted);
  }
  EXPECT_EQ(test::caught([&] { (void)cross_validation(made, 1, 1); }).code(), ErrorCode::bad_argument);
  EXPECT_NE(cross_validation(made, 4, 7).root_mean_square, cross_validation(made, 4, 8).root_mean_square);
  EXPECT_EQ(test::caught([&] { (void)cross_validation(made, 10, 1); }).code(), ErrorCode::bad_argument);
}

// y = 1.94 x + ... : the prediction error of a new row has variance s² (1 + 1/n + (x - mean)²/Sxx).
TEST(HeldOut, IsMeasuredInItsOwnUncertainty) {
  const Observations rows =
      Observations::of(Eigen::VectorXd::LinSpaced(6, 1, 6), (VectorXd(6) << 3.3, 5.6, 7.1, 9.3, 10.7, 12.9).finished());
  const std::vector<CandidateModel> candidates = {{"line", shape_model("line"), rows},
                                                  {"logarithm", shape_model("logarithm"), rows}};
  const Comparison comparison = compare_candidates(candidates, {}, {.rows = {6}, .reason = "x > 5"});
  const Candidate& line = find(comparison, "line");
  EXPECT_EQ(line.fit.size(), 5u);
  for (const HeldOutRows& held : comparison.held_out) {
    if (held.name != "line") continue;
    const double s = line.residual_sd;
    EXPECT_NEAR(held.rows[0].standard_uncertainty, s * std::sqrt(1 + 1.0 / 5 + 9.0 / 10), 1e-12);
    EXPECT_NEAR(held.rows[0].error, 12.9 - (line.fit.parameter("a").value + 6 * line.fit.parameter("b").value), 1e-12);
    EXPECT_EQ(held.rows[0].row, 6u);
  }
  EXPECT_EQ(comparison.held_out.size(), 2u);
  EXPECT_EQ(test::caught([&] { (void)compare_candidates(candidates, {}, {.rows = {}, .reason = "x > 9"}); }).code(),
            ErrorCode::bad_argument);
  const HoldOut every{.rows = {1, 2, 3, 4, 5, 6}, .reason = "x > 0"};
  EXPECT_EQ(test::caught([&] { (void)compare_candidates(candidates, {}, every); }).message(),
            "'x > 0' holds out every row");
}

// Over a short range the height of a decay and what it decays to are hardly known, and only together; over a long one
// they are.
TEST(Compare, RemarksOnParametersThatAreNotToldApart) {
  for (const double range : {1.6, 20.0}) {
    const VectorXd x = VectorXd::LinSpaced(13, 0, range);
    const VectorXd y = (2 * (-x.array() / 5).exp() + 1).matrix();
    const Fit decay =
        fit(Model::written("y = a*exp(-x/tau) + c"), Observations::of(x, y, VectorXd::Constant(13, 0.03)));
    const Comparison comparison = compare(std::vector<Fit>{decay});
    for (const char* name : {"a", "c"})
      EXPECT_EQ(decay.parameter(name).standard_uncertainty<0.5 * std::abs(decay.parameter(name).value), range> 10)
          << name << " over " << range << ": " << decay.parameter(name).value << " "
          << decay.parameter(name).standard_uncertainty;
    EXPECT_EQ(comparison.candidates[0].has(RemarkCode::not_told_apart), range < 10) << range;
  }
}

// Written otherwise a curve is the same in every unit, and a mirrored one, which fits as well, is another.
TEST(Compare, KnowsOneCurveInEveryUnit) {
  for (const double unit : {1e-12, 1.0, 1e12}) {
    const Vector x = {-2, -1.5, -1, -0.5, 0, 0.5, 1, 1.5, 2};
    Vector y = {2.1, 1.4, 0.8, 0.3, 0.2, 0.3, 0.8, 1.4, 2.1};
    for (double& value : y) value *= unit;
    const Comparison all = compare(fits_of(Observations::of(x, y), {"y = a + b*exp(x)", "y = a + b*exp(-x)"}));
    EXPECT_FALSE(find(all, "y = a + b*exp(-x)").has(RemarkCode::same_curve)) << unit;
    const Comparison decays =
        compare(fits_of(Observations::of(Vector{0, 1, 2, 3, 4, 5}, Vector{9.1 * unit, 6.2 * unit, 4.1 * unit,
                                                                          2.7 * unit, 1.9 * unit, 1.3 * unit}),
                        {"exponential", "exponential-half-life"}));
    EXPECT_TRUE(find(decays, "exponential-half-life").has(RemarkCode::same_curve)) << unit;
  }
}

// Fits are compared that have the same rows with the same responses of the same sizes.
TEST(Compare, RefusesFitsOfOtherRows) {
  const Vector x = {1, 2, 3, 4, 5, 6};
  const Vector y = {1, 2, 4, 5, 7, 8};
  const Vector other = {1, 2, 4, 5, 7, 9};
  const Vector sizes(6, 10), more(6, 11);
  const std::size_t row = 2;
  const auto line = [](const Observations& rows) { return fit(Model::written("y = a + b*x"), rows); };
  const auto share = [&](const Vector& numbers, const Vector& tried) {
    return fit(Model::written("ln(y/(1 - y)) = a + b*x"),
               Observations::counted(x, numbers, tried, ResponseKind::events));
  };
  const Fit whole = line(Observations::of(x, y));
  const Fit shares = share(y, sizes);
  EXPECT_NO_THROW((void)compare(std::vector<Fit>{whole, line(Observations::of(x, y))}));
  EXPECT_NO_THROW((void)compare(std::vector<Fit>{shares, share(y, sizes)}));
  for (const auto& [one, another] : {std::pair{whole, line(Observations::of(x, other))},
                                     {whole, line(Observations::of(x, y).without(std::span(&row, 1), "out"))},
                                     {shares, share(other, sizes)},
                                     {shares, share(y, more)}}) {
    const std::vector<Fit> two = {one, another};
    const Error error = test::caught([&two] { (void)compare(two); });
    EXPECT_EQ(error.code(), ErrorCode::bad_argument);
    EXPECT_TRUE(has(error.message(), "was fitted to other rows than"));
  }
}

// What the highest power adds is known of a lone polynomial, too.
TEST(Compare, KnowsWhatTheHighestPowerAdds) {
  const Observations rows = Observations::of(Vector{1, 2, 3, 4, 5, 6}, Vector{2.1, 3.6, 6.3, 7.9, 9.8, 12.4});
  const std::map<std::string, std::size_t> highest = {
      {"y = a + b*x", 1}, {"y = b*x + a", 0}, {"y = a + b*x + c*x^2", 2}, {"y = a + c*x^2 + b*x", 1}};
  for (const auto& [text, at] : highest) {
    const Comparison alone = compare(std::vector<Fit>{fit(Model::written(text), rows)});
    EXPECT_DOUBLE_EQ(alone.candidates[0].added_p, parameter_intervals(alone.candidates[0].fit.estimate(), 0.95)[at].p)
        << text;
  }
  for (const char* text : {"y = a + b*sqrt(x)", "y = a*x^b", "y = a"})
    EXPECT_TRUE(std::isnan(compare(std::vector<Fit>{fit(Model::written(text, {"x"}), rows)}).candidates[0].added_p))
        << text;
}

// From a correlation of 0.99 and uncertainties of half the values on, in pairs.
TEST(Compare, RemarksOnParametersByTheirCorrelation) {
  const auto is_remarked = [](double range, double u) {
    const VectorXd x = VectorXd::LinSpaced(13, 0, range);
    const VectorXd y = (2 * (-x.array() / 5).exp() + 1).matrix();
    const Fit decay = fit(Model::written("y = a*exp(-x/tau) + c"), Observations::of(x, y, VectorXd::Constant(13, u)));
    const Matrix r = correlation(decay.estimate());
    bool expected = false;
    for (std::size_t i = 0; i < 3; ++i) {
      for (std::size_t j = 0; j < i; ++j) {
        const auto hardly = [&](std::size_t k) {
          return decay.estimate().standard_uncertainties()[k] >= std::abs(decay.estimate().parameters()[k]) / 2;
        };
        expected = expected || (std::abs(r(i, j)) > 0.99 && hardly(i) && hardly(j));
      }
    }
    EXPECT_EQ(compare(std::vector<Fit>{decay}).candidates[0].has(RemarkCode::not_told_apart), expected)
        << range << " " << u;
    return expected;
  };
  int by_uncertainty = 0;
  for (int k = 0; k < 30; ++k) by_uncertainty += is_remarked(1.6, 0.006 * std::pow(1.08, k));
  EXPECT_GT(by_uncertainty, 5);
  EXPECT_LT(by_uncertainty, 25);
  int by_correlation = 0;
  for (int k = 0; k < 40; ++k) by_correlation += is_remarked(4 + 0.2 * k, 0.4);
  EXPECT_GT(by_correlation, 5);
  EXPECT_LT(by_correlation, 35);
}

// A curve that bends within its parameters' uncertainty is remarked on, from the same curvature on as a fit's own page.
TEST(Compare, RemarksOnCurvesThatBendWithinTheirUncertainty) {
  const VectorXd x = VectorXd::LinSpaced(6, 0, 5);
  const VectorXd wiggle = test::vector({1, -1, 1, 1, -1, 1});
  std::set<bool> seen;
  for (const double noise : {0.01, 0.3, 0.8, 1.2}) {
    const Fit decay =
        fit(Model::written("y = a*exp(-k*x)"), Observations::of(x, VectorXd((-x.array()).exp()) + noise / 4 * wiggle),
            {.starts = {{"a", 1}, {"k", 1}}});
    const Comparison comparison = compare(std::vector<Fit>{decay, fit(shape_model("line"), decay.observations())});
    const double bend = curvature_of(decay, 0.95).intrinsic;
    EXPECT_EQ(find(comparison, "y = a*exp(-k*x)").has(RemarkCode::curvature), bend > fair_curvature) << bend;
    EXPECT_FALSE(find(comparison, "line").has(RemarkCode::curvature));
    seen.insert(bend > fair_curvature);
  }
  EXPECT_EQ(seen.size(), 2u);
}

// The suggested candidate is judged as it would be alone, by 5 %; the others share 1 %.
TEST(Compare, JudgesTheChecksOfTheOthersTogether) {
  RandomNumbers random(12);
  int shared = 0, close = 0;
  for (int set = 0; set < 30; ++set) {
    VectorXd x = VectorXd::LinSpaced(20, 0, 10);
    VectorXd y(20);
    for (Index i = 0; i < 20; ++i)
      y[i] = 5 + 2 * x[i] - 0.025 * x[i] * x[i] + 0.04 * std::pow(x[i] - 5, 3) / 10 + 0.3 * random.normal();
    const std::vector<Fit> fits =
        fits_of(Observations::of(x, y), {"line", "polynomial(2)", "polynomial(3)", "polynomial(4)", "polynomial(5)"});
    for (std::size_t count = 2; count <= fits.size(); ++count) {
      const Comparison comparison = compare({fits.begin(), fits.begin() + static_cast<std::ptrdiff_t>(count)});
      const double share = 0.01 / static_cast<double>(count - 1);
      for (const Candidate& candidate : comparison.candidates) {
        const bool is_suggested = candidate.name == comparison.suggestion.name;
        int speaking = 0;
        for (const Check& each : candidate.checks) {
          speaking += is_suggested ? each.family_p < 0.05 : each.family_p <= share;
          shared += !is_suggested && each.family_p > share && each.family_p <= 0.01;
          close += !is_suggested && each.family_p > share && each.family_p <= 1.1 * share;
        }
        EXPECT_EQ(std::count_if(candidate.remarks.begin(), candidate.remarks.end(),
                                [](const CandidateRemark& remark) { return remark.code == RemarkCode::check; }),
                  speaking)
            << candidate.name;
      }
    }
  }
  EXPECT_GT(shared, 0) << "none lies between a share and the whole";
  EXPECT_GT(close, 0) << "none lies just above a share";
}

// Two curves of known value and uncertainty: at the limits their distributions, by weight, leave out 2.5 % on either
// side.
TEST(Average, IsTheMixtureOfItsCandidates) {
  const Observations rows = demo_rows("patina.csv", "years", "d");
  const std::vector<Fit> fits = fits_of(rows, {"logistic", "gompertz", "1/d = p + q*years"});
  const std::vector<WeightedEstimate> curves = {{"one", 0.7, fits[0].estimate()}, {"two", 0.3, fits[1].estimate()}};
  const Vector at = {30};
  const AveragedPoint averaged = averaged_band(curves, std::span(&at, 1), 0.95)[0];
  const BandPoint a = band_at(fits[0].estimate(), at, 0.95)[0];
  const BandPoint b = band_at(fits[1].estimate(), at, 0.95)[0];
  const double value = 0.7 * a.value + 0.3 * b.value;
  EXPECT_NEAR(averaged.whole.value, value, 1e-12);
  EXPECT_NEAR(averaged.between, std::sqrt(0.7 * 0.3) * std::abs(a.value - b.value), 1e-12);
  const auto below = [](double y, const Fit& fit, const BandPoint& p, double own) {
    const double t = (y - p.value) / std::hypot(p.standard_uncertainty, own);
    const double beyond = student_t_two_sided(t, fit.degrees_of_freedom()) / 2;
    return t < 0 ? beyond : 1 - beyond;
  };
  const auto mixed = [&](double y, double with_readings) {
    return 0.7 * below(y, fits[0], a, with_readings * quality_of(fits[0]).residual_sd) +
           0.3 * below(y, fits[1], b, with_readings * quality_of(fits[1]).residual_sd);
  };
  EXPECT_NEAR(mixed(averaged.whole.confidence.low, 0), 0.025, 1e-9);
  EXPECT_NEAR(mixed(averaged.whole.confidence.high, 0), 0.975, 1e-9);
  EXPECT_NEAR(mixed(averaged.whole.prediction.low, 1), 0.025, 1e-9);
  EXPECT_NEAR(mixed(averaged.whole.prediction.high, 1), 0.975, 1e-9);
  EXPECT_NEAR(averaged.confidences[1].high, b.confidence.high, 1e-12);
  const Interval one = averaged_band(curves, std::span(&at, 1), 0.682689492137086)[0].whole.confidence;
  EXPECT_NEAR(averaged.whole.standard_uncertainty, (one.high - one.low) / 2, 1e-9);
  // A candidate that says by a third that there is no upper limit opens nothing while it has hardly any weight.
  Vector far = {1};
  while (std::isfinite(band_at(fits[2].estimate(), far, 0.3)[0].confidence.high)) far[0] += 0.1;
  ASSERT_TRUE(std::isinf(band_at(fits[2].estimate(), far, 0.95)[0].confidence.high));
  for (const double weight : {0.001, 0.1}) {
    const std::vector<WeightedEstimate> with_open = {{"one", 1 - weight, fits[0].estimate()},
                                                     {"open", weight, fits[2].estimate()}};
    EXPECT_EQ(std::isinf(averaged_band(with_open, std::span(&far, 1), 0.95)[0].whole.confidence.high), weight > 0.05);
  }
  // Curves through the origin agree there to nothing: the interval is the origin.
  const std::vector<Fit> through = fits_of(rows, {"d = b*years", "d = b*years + c*years^2"});
  const std::vector<WeightedEstimate> both = {{"b", 0.4, through[0].estimate()}, {"c", 0.6, through[1].estimate()}};
  const Vector origin = {0};
  const AveragedPoint nothing = averaged_band(both, std::span(&origin, 1), 0.95)[0];
  EXPECT_EQ(nothing.whole.value, 0);
  EXPECT_NEAR(nothing.whole.confidence.low, 0, 1e-11);
  EXPECT_NEAR(nothing.whole.confidence.high, 0, 1e-11);
  EXPECT_GT(nothing.whole.prediction.high, 0.1);
  const WeightedEstimate half{"half", 0.5, fits[0].estimate()};
  EXPECT_EQ(test::caught([&] { (void)averaged_band(std::span(&half, 1), std::span(&at, 1), 0.95); }).code(),
            ErrorCode::bad_argument);
}

// One candidate that has all the weight is averaged to its own bands, as it was fitted and whatever its readings do.
// Curves that are exact are what they say, with their weights: of two, the interval reaches from the one to the other,
// whether a left side rises or falls.
TEST(Average, OfExactCurvesReachesFromOneToTheOther) {
  const Eigen::Vector4d x(1, 2, 4, 8);
  const Fit falling =
      fit(Model::written("1/y = a + b*x"), Observations::of(x, (0.5 + 0.25 * x.array()).inverse().matrix()));
  const Fit rising = fit(Model::written("ln(y) = a + b*x"), Observations::of(x, (0.125 * x.array()).exp().matrix()));
  const Vector at = {3};
  const double low = 1 / (0.5 + 0.25 * 3);
  const double high = std::exp(0.125 * 3);
  for (const bool first : {false, true}) {
    std::vector<WeightedEstimate> curves = {{"falling", 0.5, falling.estimate()}, {"rising", 0.5, rising.estimate()}};
    if (first) std::swap(curves[0], curves[1]);
    const AveragedPoint both = averaged_band(curves, std::span(&at, 1), 0.95)[0];
    EXPECT_NEAR(both.whole.value, (low + high) / 2, 1e-9);
    EXPECT_NEAR(both.whole.confidence.low, low, 1e-6);
    EXPECT_NEAR(both.whole.confidence.high, high, 1e-6);
  }
}

TEST(Average, OfOneIsItsBand) {
  const VectorXd x = VectorXd::LinSpaced(9, 1, 9);
  const VectorXd decay = (VectorXd(9) << 61, 44, 24, 18.5, 10.5, 7.9, 4.3, 3.1, 2).finished();
  const Observations plain = Observations::of(x, decay);
  const Observations stated = Observations::of(x, decay, 0.1 * decay);
  const Observations falling =
      Observations::of(x, (VectorXd(9) << 50.2, 33.1, 25.4, 19.8, 16.8, 14.1, 12.6, 11.1, 9.9).finished());
  const Observations counted = Observations::counted({1, 2, 3, 4, 5, 6, 7, 8, 9}, {40, 31, 19, 15, 8, 6, 4, 4, 1},
                                                     {1, 1, 1, 1, 1, 1, 1, 1, 1}, ResponseKind::counts);
  const Model curve = Model::written("y = a*exp(-k*x)");
  const Model straight = Model::written("ln(y) = c - k*x");
  struct Case {
    const char* name;
    Fit fit;
    Vector own;
  };
  for (const Case& c : {Case{"direct", fit(curve, plain), {}},
                        {"direct, its readings stated", fit(curve, plain), {0.4}},
                        {"direct, proportional", fit(curve, plain, {.spread = Spread::proportional()}), {}},
                        {"straightened", fit(straight, plain), {}},
                        {"straightened, its readings stated", fit(straight, plain), {0.4}},
                        {"straightened, proportional", fit(straight, plain, {.spread = Spread::proportional()}), {}},
                        {"straightened, of stated uncertainties", fit(straight, stated), {0.4}},
                        {"straightened beside its predictor", fit(Model::written("ln(y*x) = c - k*x"), plain), {}},
                        {"a falling reciprocal", fit(Model::written("1/y = a + b*x"), falling), {}},
                        {"counted", fit(curve, counted), {}}}) {
    SCOPED_TRACE(c.name);
    const std::vector<WeightedEstimate> alone = {{"alone", 1, c.fit.estimate()}};
    const Vector at = {2.5, 8};
    const Vector own_at = c.own.size() == 0 ? Vector() : Vector{c.own[0], 2 * c.own[0]};
    const std::vector<AveragedPoint> averages = averaged_band(alone, std::span(&at, 1), 0.95, own_at);
    const std::vector<BandPoint> bands = band(c.fit.estimate(), std::span(&at, 1), 0.95, own_at);
    for (std::size_t i = 0; i < 2; ++i) {
      const AveragedPoint& averaged = averages[i];
      const BandPoint& own = bands[i];
      EXPECT_EQ(averaged.between, 0);
      EXPECT_NEAR(averaged.whole.value / own.value, 1, 1e-12);
      EXPECT_NEAR(averaged.whole.confidence.low / own.confidence.low, 1, 1e-9);
      EXPECT_NEAR(averaged.whole.confidence.high / own.confidence.high, 1, 1e-9);
      if (std::isnan(own.prediction.low)) {
        EXPECT_TRUE(std::isnan(averaged.whole.prediction.low));
        continue;
      }
      EXPECT_NEAR(averaged.whole.prediction.low / own.prediction.low, 1, 1e-9);
      EXPECT_NEAR(averaged.whole.prediction.high / own.prediction.high, 1, 1e-9);
    }
  }
}

// A curve of one predictor becomes one of all that another candidate has, where both are of the same readings.
TEST(CommonPredictors, AreTakenFromTheSameReadings) {
  const Vector t = {20, 22, 24, 26, 28};
  const Vector d = {300, 310, 320, 330, 341};
  const Vector f = {50, 40, 80, 60, 20};
  const Vector u = {5, 4, 8, 6, 2};  // a tenth
  const auto table_of = [&](const Vector& u_of) {
    return Table::from_columns({{"t", "mm", {t.begin(), t.end()}},
                                {"D", "mm", {d.begin(), d.end()}},
                                {"f", "Hz", {f.begin(), f.end()}},
                                {"again", "Hz", {f.begin(), f.end()}},
                                {"u", "Hz", {u_of.begin(), u_of.end()}}});
  };
  Vector other = u;
  other[3] = 7;
  const Choice narrow{.response = "f", .predictors = {"t"}, .response_uncertainty = Uncertainty("u")};
  const auto with = [&narrow](const char* response, const Uncertainty& uncertainty) {
    Choice wide = narrow;
    wide.predictors = {"t", "D"};
    wide.response = response;
    wide.response_uncertainty = uncertainty;
    return wide;
  };
  struct Case {
    const char* what;
    Table table;
    Choice wide;
    std::size_t predictors;
  };
  for (const Case& c : {Case{"the same", table_of(u), with("f", Uncertainty("u")), 2},
                        {"another column of the same numbers", table_of(u), with("again", Uncertainty("u")), 1},
                        {"as a percentage", table_of(u), with("f", Uncertainty::percent(10)), 1},
                        {"without uncertainties", table_of(u), with("f", Uncertainty::none()), 1},
                        {"one uncertainty another", table_of(other), with("f", Uncertainty("u")), 1}}) {
    SCOPED_TRACE(c.what);
    const std::vector<CandidateModel> candidates = {
        {"line", Model::written("f = a + b*t"), Observations(table_of(u), narrow)},
        {"both", Model::written(c.wide.response + " = a + b*t + c*D"), Observations(c.table, c.wide)}};
    const auto widened = detail::with_common_predictors(candidates);
    EXPECT_EQ(widened[0].observations.predictors().size(), c.predictors);
    EXPECT_EQ(widened[1].observations.predictors().size(), 2u);
  }
  // More predictors, of which the narrow one's is none.
  Choice elsewhere = narrow;
  elsewhere.predictors = {"D", "again"};
  const auto apart = detail::with_common_predictors(std::vector<CandidateModel>{
      {"line", Model::written("f = a + b*t"), Observations(table_of(u), narrow)},
      {"both", Model::written("f = a + b*D + c*again"), Observations(table_of(u), elsewhere)}});
  EXPECT_EQ(apart[0].observations.predictors().size(), 1u);
  // A row more, which the narrow one does not have.
  const Table four =
      Table::from_columns({{"t", "mm", {20, 22, 24, 26}}, {"f", "Hz", {50, 40, 80, 60}}, {"u", "Hz", {5, 4, 8, 6}}});
  const auto longer = detail::with_common_predictors(std::vector<CandidateModel>{
      {"line", Model::written("f = a + b*t"), Observations(four, narrow)},
      {"both", Model::written("f = a + b*t + c*D"), Observations(table_of(u), with("f", Uncertainty("u")))}});
  EXPECT_EQ(longer[0].observations.predictors().size(), 1u);
}

// Akaike weights by their definition: exp(-difference/2), of which the sum is 1.
TEST(CensoredCandidates, AreWeighedByAicc) {
  std::istringstream lives("life (h)\n120\n190\n260\n310\n>400\n>400\n");
  const CensoredRows rows = censored_rows(read_csv(lives, "lives.csv"), {.response = "life"});
  std::vector<CensoredCandidate> candidates;
  for (const Distribution distribution : {Distribution::normal, Distribution::weibull, Distribution::lognormal})
    candidates.push_back({"level", fit_censored(Model::written("life = scale"), rows, {.distribution = distribution})});
  const std::vector<CensoredCandidate> ranked = ranked_by_aicc(candidates);
  double sum = 0;
  for (const CensoredCandidate& c : ranked) sum += std::exp((ranked[0].fit.aicc - c.fit.aicc) / 2);
  for (std::size_t i = 0; i < 3; ++i) {
    EXPECT_EQ(ranked[i].difference, ranked[i].fit.aicc - ranked[0].fit.aicc);
    EXPECT_GE(ranked[i].difference, i == 0 ? 0 : ranked[i - 1].difference);
    EXPECT_NEAR(ranked[i].weight, std::exp(-ranked[i].difference / 2) / sum, 1e-15);
  }
  EXPECT_GT(ranked[1].difference, 0.01);
}

// A candidate that can't take half of the rows fails; one that takes more costs all the others its rows, or falls out.
TEST(Candidates, FailWhereTheyCanNotTakeHalfOfTheRows) {
  for (std::size_t zeros = 0; zeros <= 8; ++zeros) {
    SCOPED_TRACE(zeros);
    Vector x(8), y(8);
    for (std::size_t i = 0; i < 8; ++i) {
      x[i] = static_cast<double>(i);
      y[i] = i < zeros ? 0 : 1 + x[i] + 0.1 * std::sin(x[i] * x[i]);
    }
    const Observations rows = Observations::of(x, y);
    const std::vector<CandidateModel> candidates = {{"line", Model::written("y = a + b*x"), rows},
                                                    {"straightened", Model::written("ln(y) = a + b*x"), rows}};
    const FittedCandidates all = fit_candidates(candidates);
    EXPECT_EQ(all.failed.size(), zeros >= 4 ? 1u : 0u);
    EXPECT_EQ(all.not_common.size(), zeros >= 4 ? 0u : zeros);
    EXPECT_EQ(all.fits[0].size(), zeros >= 4 ? 8u : 8u - zeros);
    if (zeros >= 4)
      EXPECT_EQ(all.failed[0].reason,
                fmt::format("it can't take {} of 8 rows (row 1: ln(y) is not defined at y = 0)", zeros));
    EXPECT_EQ(fit_candidates(candidates, UnsuitableRows::candidate_dropped).failed.size(), zeros > 0 ? 1u : 0u);
  }
}

// A candidate is one for the response that its rows have, and that the first one has.
TEST(Candidates, AreOfOneResponse) {
  const Table table =
      Table::from_columns({{"x", "", {1, 2, 3, 4}}, {"y", "", {2.1, 3.9, 6.2, 7.8}}, {"z", "", {3.1, 4.9, 7.2, 8.8}}});
  const auto rows = [&table](const char* response) {
    return Observations(table, {.response = response, .predictors = {"x"}});
  };
  const CandidateModel first = {"first", Model::written("y = a + b*x"), rows("y")};
  EXPECT_EQ(fit_candidates(std::vector{first, first}).fits.size(), 2u);
  for (const CandidateModel& other : {CandidateModel{"other", Model::written("z = a + b*x"), rows("z")},
                                      {"other", Model::written("z = a + b*x"), rows("y")},
                                      {"other", Model::written("y = a + b*x"), rows("z")}}) {
    const Error error = test::caught([&] { (void)fit_candidates(std::vector{first, other}); });
    EXPECT_EQ(error.code(), ErrorCode::bad_argument);
    EXPECT_EQ(error.subject(), "other");
    EXPECT_EQ(error.message(),
              fmt::format("'other' is a curve of '{}', and 'first' one of 'y'", other.model.response()));
  }
}

TEST(Compare, MeetsBadUse) {
  const Observations rows =
      Observations::of(VectorXd::LinSpaced(8, 0, 7), (VectorXd(8) << 9.1, 6.2, 4.1, 2.7, 0, 1.3, 0.9, 0.5).finished());
  const std::vector<CandidateModel> candidates = {
      {"direct", shape_model("exponential"), rows},
      {"straightened", shape_model("exponential", "x", "y", Route::linearized), rows},
      {"half-life", shape_model("exponential-half-life"), rows},
      {"hopeless", Model::written("y = a*exp(b*x)*c"), rows},
      {"reciprocal root", Model::written("y = a + b/(x - 2) + c/(x - 3) + d/(x - 5) + e/(x - 6) + g/(x - 7)"), rows}};
  const Comparison comparison = compare_candidates(candidates);
  // Row 5 has no logarithm, so nobody is fitted to it; what can't take half of the rows falls out and costs no rows.
  ASSERT_EQ(comparison.not_common.size(), 1u);
  EXPECT_EQ(comparison.not_common[0].row, 5u);
  EXPECT_TRUE(has(comparison.not_common[0].reason, "straightened"));
  ASSERT_EQ(comparison.candidates.size(), 3u);
  for (const Candidate& c : comparison.candidates) EXPECT_EQ(c.fit.size(), 7u);
  ASSERT_EQ(comparison.failed.size(), 2u);
  EXPECT_TRUE(find(comparison, "half-life").has(RemarkCode::same_curve));
  EXPECT_TRUE(std::isnan(find(comparison, "half-life").weight));
  // A curve that stands there twice is tested once.
  const Comparison twice = compare_candidates(std::vector<CandidateModel>{
      candidates[0], candidates[2], {"with offset", shape_model("exponential-offset"), rows}});
  for (const NestedPair& pair : twice.nested_tests) {
    EXPECT_FALSE(twice.candidates[pair.smaller].has(RemarkCode::same_curve));
    EXPECT_FALSE(twice.candidates[pair.larger].has(RemarkCode::same_curve));
  }
  EXPECT_EQ(twice.nested_tests.size(), 1u);
  double sum = 0;
  for (const Candidate& c : comparison.candidates) sum += std::isnan(c.weight) ? 0 : c.weight;
  EXPECT_NEAR(sum, 1, 1e-12);
  // The catalogue's way keeps the row and drops the candidate.
  const Comparison dropped = compare_candidates(candidates, {}, {}, UnsuitableRows::candidate_dropped);
  EXPECT_EQ(dropped.candidates[0].fit.size(), 8u);
  EXPECT_EQ(dropped.failed.size(), 3u);

  const std::vector<Fit> other_rows = {fits_of(rows, {"line"})[0], comparison.candidates[0].fit};
  EXPECT_EQ(test::caught([&] { (void)compare(other_rows); }).code(), ErrorCode::bad_argument);
  EXPECT_EQ(test::caught([&] { (void)compare({}); }).code(), ErrorCode::bad_argument);
  const std::vector<CandidateModel> only_bad = {candidates[3]};
  EXPECT_EQ(test::caught([&] { (void)compare_candidates(only_bad); }).code(), ErrorCode::rank_deficient);

  // Too few rows for AICc: said, and ordered by leave-one-out.
  const Observations four = Observations::of(Eigen::Vector4d(1, 2, 3, 4), Eigen::Vector4d(1.1, 3.8, 9.2, 15.9));
  const Comparison few = compare(fits_of(four, {"line", "polynomial(2)"}));
  EXPECT_EQ(few.ordered_by, "leave-one-out");
  EXPECT_TRUE(few.candidates[0].has(RemarkCode::few_rows));
  EXPECT_TRUE(few.suggestion.name.empty());
  // No scatter at all: the simplest that passes through every row.
  const Observations exact = Observations::of(VectorXd::LinSpaced(9, 0, 8), VectorXd::LinSpaced(9, 1, 17));
  const Comparison through = compare(fits_of(exact, {"polynomial(2)", "line", "square-root"}));
  EXPECT_EQ(through.suggestion.name, "line");
  EXPECT_TRUE(through.candidates[0].has(RemarkCode::exact));
}

TEST(Comparison, IsRestoredFromItsRecord) {
  const Observations rows = demo_rows("patina.csv", "years", "d");
  const Comparison comparison = compare(fits_of(rows, {"logistic", "gompertz", "polynomial(3)"}));
  const std::string record = comparison_record(comparison, 0.9);
  EXPECT_FALSE(has(record, "nan"));
  const auto curves = read_comparison_record(record, "memory");
  ASSERT_EQ(curves.size(), 3u);
  for (std::size_t i = 0; i < 3; ++i) {
    EXPECT_EQ(curves[i].weight, comparison.candidates[i].weight);
    EXPECT_EQ(as_eigen(curves[i].estimate.parameters()),
              as_eigen(comparison.candidates[i].fit.estimate().parameters()));
  }
  auto damaged = nlohmann::json::parse(record);
  damaged["candidates"][1]["weight"] = 0.9;
  EXPECT_EQ(test::caught([&] { (void)read_comparison_record(damaged.dump(), "memory"); }).code(),
            ErrorCode::bad_record);
  damaged["candidates"][1]["fit"]["parameters"][0].erase("value");
  const Error error = test::caught([&] { (void)read_comparison_record(damaged.dump(), "memory"); });
  EXPECT_EQ(error.subject(), "/candidates/1/fit/parameters/0/value");
}

}  // namespace
}  // namespace truecurve
