// A comparison's page: its tables hold the numbers of the candidates, its sentences say what these rest on.
#include <truecurve/report/comparison_page.hpp>

#include "../support.hpp"
#include "page_reading.hpp"

namespace truecurve {
namespace {

using test::cell;
using test::has_caution;
using test::number;
using test::says;
using test::sentences;
using test::table_in;

const std::vector<double> seven_x = {1, 2, 3, 4, 5, 6, 7};
const std::vector<double> seven_y = {3.3, 5.6, 7.1, 9.3, 10.7, 12.1, 14.3};

TEST(ComparisonPage, RanksCandidatesAndPredictsTheirAverage) {
  const auto points = Observations::of({1, 2, 3, 4, 5, 6, 7}, {3.3, 5.6, 7.1, 9.3, 10.7, 12.1, 14.3});
  const std::vector<Fit> fits = {fit(shape_model("line"), points), fit(shape_model("power"), points),
                                 fit(shape_model("polynomial(2)"), points)};
  const Comparison comparison = compare(fits, {.folds = 3});
  const Page page = comparison_page(comparison);
  for (std::size_t i = 0; i < 3; ++i) {
    const Candidate& c = comparison.candidates[i];
    const std::string place = fmt::format("{}", i + 1);
    EXPECT_EQ(cell(page, "The candidates", place, "candidate"), c.name);
    EXPECT_EQ(cell(page, "The candidates", place, "AICc"), fmt::format("{:.1f}", c.aicc));
    EXPECT_EQ(cell(page, "The candidates", place, "ΔAICc"),
              fmt::format("{:.1f}", c.aicc - comparison.candidates[0].aicc));
    EXPECT_EQ(cell(page, "The candidates", place, "Akaike weight"), fmt::format("{:.3f}", c.weight));
    EXPECT_EQ(cell(page, "The candidates", place, "leave-one-out RMSE"),
              rounded(c.leave_one_out.size.root_mean_square, 4));
    EXPECT_EQ(cell(page, "The candidates", place, "BIC"), fmt::format("{:.1f}", c.bic));
    EXPECT_EQ(cell(page, "The candidates", place, "parameters"), fmt::format("{}", c.parameters));
    EXPECT_EQ(cell(page, "The candidates", place, "3-fold"), rounded(c.cross_validation.root_mean_square, 4));
    EXPECT_EQ(cell(page, "Goodness", place, "S"), rounded(c.residual_sd, 4));
    EXPECT_EQ(cell(page, "Goodness", place, "R²"), rounded(c.r_squared, 6));
    EXPECT_EQ(cell(page, "Goodness", place, "adjusted R²"), rounded(c.adjusted_r_squared, 6));
    EXPECT_EQ(cell(page, "Goodness", place, "p (extra term)"),
              std::isnan(c.added_p) ? "-" : probability_text(c.added_p));
    EXPECT_EQ(number(page, i, "bic"), c.bic);
    EXPECT_EQ(number(page, i, "parameters"), static_cast<double>(c.parameters));
    EXPECT_EQ(number(page, i, "cross_validation_sd"), c.cross_validation.root_mean_square);
  }
  EXPECT_EQ(page.subject, "3 candidates compared by their fits to all 7 rows");
  EXPECT_EQ(answer_of(page).find(comparison.suggestion.headline), 0U);
  EXPECT_FALSE(has_caution(page, "Remarks on the other"));
  // Ten are described, the others counted.
  CompareOptions named;
  std::vector<Fit> twelve;
  for (int i = 0; i < 12; ++i) {
    named.names.push_back(fmt::format("candidate {}", i + 1));
    twelve.push_back(fits[static_cast<std::size_t>(i % 3)]);
  }
  EXPECT_TRUE(
      has_caution(comparison_page(compare(twelve, named)), "Remarks on the other 2 candidates are in the record."));

  std::vector<WeightedEstimate> curves;
  for (const Candidate& c : comparison.candidates)
    curves.push_back({.name = c.name,
                      .weight = c.weight,
                      .estimate = c.fit.estimate(),
                      .is_suggested = c.name == comparison.suggestion.name});
  const std::vector<Vector> at = {{2.5, 20}};
  const auto values = averaged_band(curves, at, 0.95);
  const Page average = averaged_prediction_page(curves, at, values, 0.95);
  EXPECT_EQ(number(average, 1, "x"), 20);
  EXPECT_EQ(number(average, 1, "between"), values[1].between);
  EXPECT_EQ(number(average, 1, "prediction_low"), values[1].whole.prediction.low);
  EXPECT_EQ(cell(average, "", "2.5", "y"),
            with_uncertainty(values[0].whole.value, values[0].whole.standard_uncertainty));
  EXPECT_EQ(cell(average, "", "20", "SD between candidates"), rounded(values[1].between, 2));
  EXPECT_TRUE(has_caution(average, "Extrapolated"));
}

// Row by row, and together.
TEST(ComparisonPage, ShowsWhatWasHeldOut) {
  const Table table = Table::from_columns({{"x", "", seven_x}, {"y", "mm", seven_y}});
  const Observations rows(table, {.response = "y", .predictors = {"x"}});
  const std::vector<CandidateModel> candidates = {{"line", shape_model("line"), rows},
                                                  {"logarithm", shape_model("logarithm"), rows}};
  const Comparison comparison = compare_candidates(candidates, {}, {.rows = {6, 7}, .reason = "x > 5"});
  const Page page = comparison_page(comparison);
  const PageTable& held = table_in(page, "Hold-out data: 2 rows with x > 5");
  ASSERT_EQ(held.rows.size(), 6U) << text_of(page);
  EXPECT_EQ(held.headings[3].text, "measured (mm)");
  for (std::size_t i = 0; i < 2; ++i) {
    const HeldOutRows& expected = comparison.held_out[i];
    double squares = 0, relative = 0;
    for (std::size_t k = 0; k < 2; ++k) {
      const HeldOutRow& row = expected.rows[k];
      const auto& cells = held.rows[3 * i + k];
      EXPECT_EQ(cells[0], k == 0 ? fmt::format("{}", i + 1) : "");
      EXPECT_EQ(cells[1], k == 0 ? expected.name : "");
      EXPECT_EQ(cells[2], fmt::format("{}", 6 + k));
      EXPECT_EQ(cells[3], shortest(seven_y[5 + k]));
      EXPECT_EQ(cells[4], with_uncertainty(row.predicted, row.standard_uncertainty));
      EXPECT_EQ(cells[5], rounded(seven_y[5 + k] - row.predicted, 3));
      EXPECT_EQ(cells[6], fmt::format("{:.2f}", (seven_y[5 + k] - row.predicted) / row.standard_uncertainty));
      squares += std::pow(seven_y[5 + k] - row.predicted, 2);
      relative += std::pow((seven_y[5 + k] - row.predicted) / row.standard_uncertainty, 2);
    }
    EXPECT_EQ(held.rows[3 * i + 2][1], "  root mean square");
    EXPECT_EQ(held.rows[3 * i + 2][5], rounded(std::sqrt(squares / 2), 3));
    EXPECT_EQ(held.rows[3 * i + 2][6], fmt::format("{:.2f}", std::sqrt(relative / 2)));
  }
  EXPECT_EQ(page.subject, "2 candidates compared by their fits to 5 of 7 rows");
  // Of many rows the first twelve are listed, and all are in the mean.
  std::vector<double> many_x, many_y;
  std::vector<std::size_t> held_rows;
  for (std::size_t i = 0; i < 20; ++i) {
    many_x.push_back(1 + static_cast<double>(i));
    many_y.push_back(2 * many_x.back() + (i % 3 == 0 ? 0.1 : -0.05) + (i == 19 ? 7 : 0));
    if (i >= 6) held_rows.push_back(i + 1);
  }
  const Observations many = Observations::of(many_x, many_y);
  const std::vector<CandidateModel> two = {{"line", shape_model("line"), many},
                                           {"logarithm", shape_model("logarithm"), many}};
  const Comparison of_many = compare_candidates(two, {}, {.rows = held_rows, .reason = "x > 6"});
  const Page page_of_many = comparison_page(of_many);
  const PageTable& listed = table_in(page_of_many, "Hold-out");
  ASSERT_EQ(listed.rows.size(), 26U);
  EXPECT_EQ(listed.rows[11][2], "18");
  double sum = 0;
  for (const HeldOutRow& row : of_many.held_out[0].rows) sum += row.error * row.error;
  EXPECT_EQ(listed.rows[12][5], rounded(std::sqrt(sum / 14), 3));
  // One row is its own mean.
  EXPECT_EQ(table_in(comparison_page(compare_candidates(candidates, {}, {.rows = {7}, .reason = "x > 6"})), "Hold-out")
                .rows.size(),
            2U);
  EXPECT_TRUE(says(page,
                   "; S is unweighted; R² is about the mean. Leave-one-out RMSE: root mean square error of "
                   "predicting each row from the others, in mm."))
      << sentences(page);
}

// What the uncertainties are taken from stands once where all candidates take the same.
TEST(ComparisonPage, SaysWhatTheUncertaintiesRestOn) {
  const auto points = Observations::of(seven_x, seven_y);
  const auto stated = Observations::of(seven_x, seven_y, std::vector<double>(7, 0.2));
  const Model straight = shape_model("line");
  const Model bent = shape_model("polynomial(2)");
  const auto page_of = [](const std::vector<Fit>& fits, const CompareOptions& options = {}) {
    return comparison_page(compare(fits, options));
  };
  const Page plain = page_of({fit(straight, points), fit(bent, points)});
  EXPECT_TRUE(says(
      plain, "The scatter is estimated from the residuals of each candidate and assumed to be the same for all rows."))
      << sentences(plain);
  const Page as_stated = page_of({fit(straight, stated), fit(bent, stated)});
  EXPECT_TRUE(says(as_stated, "The stated uncertainties (given with the data) are used as stated by every candidate."))
      << sentences(as_stated);
  EXPECT_TRUE(says(as_stated,
                   "; chi²/dof uses its uncertainties; R² is about the mean. Leave-one-out RMSE: root mean "
                   "square error of predicting each row from the others, in standard uncertainties of the "
                   "data."))
      << sentences(as_stated);
  const FitOptions by_scatter{.uncertainty = UncertaintyBasis::scatter};
  const Comparison weighted =
      compare(std::vector<Fit>{fit(straight, stated, by_scatter), fit(bent, stated, by_scatter)});
  const Page as_weights = comparison_page(weighted);
  EXPECT_TRUE(
      says(as_weights,
           "The given uncertainties (given with the data) are used as relative weights; the scale is estimated from "
           "the residuals of each candidate."))
      << sentences(as_weights);
  for (std::size_t i = 0; i < 2; ++i) {
    const Candidate& c = weighted.candidates[i];
    EXPECT_EQ(cell(as_weights, "Goodness", fmt::format("{}", i + 1), "chi²/dof"), rounded(c.reduced_chi_squared, 4));
    EXPECT_EQ(cell(as_weights, "The candidates", fmt::format("{}", i + 1), "leave-one-out RMSE"),
              rounded(c.leave_one_out.size.in_uncertainties, 4));
  }
  EXPECT_TRUE(says(page_of({fit(straight, stated), fit(bent, stated, by_scatter)}),
                   "The candidates use different uncertainties of the data; see below."));
  // Stated by all, but not from one place.
  const Observations elsewhere(
      Table::from_columns({{"x", "", seven_x}, {"y", "", seven_y}}),
      {.response = "y", .predictors = {"x"}, .response_uncertainty = Uncertainty::number(0.4)});
  ASSERT_NE(elsewhere.uncertainty_origin(), stated.uncertainty_origin());
  EXPECT_TRUE(says(page_of({fit(straight, stated), fit(bent, elsewhere)}),
                   "The candidates use different uncertainties of the data; see below."));
  // Only what is nonlinear is refitted without each row.
  const std::string refitted = "Nonlinear candidates were refitted without each row.";
  EXPECT_FALSE(says(plain, refitted)) << sentences(plain);
  EXPECT_TRUE(says(page_of({fit(straight, points), fit(shape_model("power"), points)}), refitted));
  FitOptions growing;
  growing.spread = Spread::proportional();
  const Page apart = page_of({fit(straight, points), fit(straight, points, growing)});
  EXPECT_TRUE(says(apart, "the assumed scatter differs between candidates; see below.")) << sentences(apart);
  const PageTable& curves = table_in(apart, "The curves");
  ASSERT_EQ(curves.rows.size(), 4U);
  EXPECT_TRUE(has(curves.rows[0][1], "; scatter "));
  EXPECT_FALSE(has(table_in(plain, "The curves").rows[0][1], "; scatter "));
  // In groups: how many, and how they were dealt.
  EXPECT_TRUE(says(page_of({fit(straight, points), fit(bent, points)}, {.folds = 3, .seed = 7}),
                   "; 3-fold: of predicting groups of rows (seed 7), replicates kept together."));
  // Counts have a likelihood of their own.
  const Observations counts =
      Observations::counted(seven_x, {2, 5, 4, 9, 12, 11, 17}, std::vector<double>(7, 1), ResponseKind::counts);
  const Comparison of_counts = compare(
      std::vector<Fit>{fit(Model::written("y = a + b*x"), counts), fit(Model::written("ln(y) = a + b*x"), counts)});
  const Page counted = comparison_page(of_counts);
  EXPECT_TRUE(says(counted,
                   "Every candidate is fitted by maximum likelihood, the counts of 'y' having a Poisson "
                   "distribution."))
      << sentences(counted);
  for (std::size_t i = 0; i < 2; ++i) {
    const Candidate& c = of_counts.candidates[i];
    const std::string place = fmt::format("{}", i + 1);
    EXPECT_EQ(cell(counted, "Goodness", place, "deviance"), rounded(c.deviance, 4));
    EXPECT_EQ(cell(counted, "Goodness", place, "degrees of freedom"), "5");
    EXPECT_EQ(cell(counted, "The candidates", place, "leave-one-out deviance"),
              rounded(std::pow(c.leave_one_out.size.root_mean_square, 2), 4));
  }
}

// Nested pairs, the curves with their parameters, and what could not be fitted.
TEST(ComparisonPage, ShowsNestedPairsCurvesAndFailures) {
  const auto points = Observations::of(seven_x, seven_y);
  Comparison comparison =
      compare(std::vector<Fit>{fit(shape_model("line"), points), fit(shape_model("polynomial(2)"), points)});
  comparison.failed.push_back({.name = "power", .reason = "it has no start"});
  comparison.not_common = {{.row = 8, .reason = "it is empty", .column = "y"},
                           {.row = 9, .reason = "it is empty", .column = "y"}};
  const Page page = comparison_page(comparison);
  EXPECT_TRUE(has_caution(page, "Not fitted: power: it has no start."));
  EXPECT_TRUE(has_caution(page, "Rows 8, 9 were fitted by no candidate, so that all are judged on the same rows: "));
  comparison.not_common.pop_back();
  EXPECT_TRUE(has_caution(comparison_page(comparison), "Row 8 was fitted by no candidate"));
  ASSERT_EQ(comparison.nested_tests.size(), 1U);
  const NestedTest& test = comparison.nested_tests[0].test;
  const PageTable& nested = table_in(page, "Nested candidates");
  ASSERT_EQ(nested.rows.size(), 1U);
  EXPECT_EQ(nested.rows[0][0], "line");
  EXPECT_EQ(nested.rows[0][1], "polynomial(2)");
  EXPECT_EQ(nested.rows[0][3], rounded(test.statistic, 4));
  EXPECT_EQ(nested.rows[0][4], "1, 4");
  EXPECT_EQ(nested.rows[0][5], probability_text(test.p));
  for (std::size_t i = 0; i < 2; ++i) {
    const Candidate& c = comparison.candidates[i];
    std::string list;
    for (const ParameterInterval& p : parameter_intervals(c.fit.estimate(), 0.95))
      list += (list.empty() ? "" : ", ") + p.name + " = " + with_uncertainty(p.value, p.standard_uncertainty);
    const auto& curves = table_in(page, "The curves").rows;
    EXPECT_EQ(curves[2 * i][0], fmt::format("{}", i + 1));
    EXPECT_EQ(curves[2 * i][1], c.name + ": " + c.fit.model().text());
    EXPECT_EQ(curves[2 * i + 1][1], list);
    EXPECT_EQ(cell(page, "Goodness", fmt::format("{}", i + 1), "largest residual"),
              fmt::format("{:.2f}, row {}", c.largest_residual, c.largest_residual_row));
  }
  // A name of twenty columns stands, a longer one is cut; what is suggested is answered with its parameters.
  comparison.candidates[0].name = std::string(20, 'n');
  comparison.candidates[1].name = std::string(21, 'm');
  comparison.suggestion = {.name = comparison.candidates[1].name, .reason = "R.", .headline = "Take m."};
  const Page named = comparison_page(comparison);
  EXPECT_EQ(cell(named, "The candidates", "1", "candidate"), std::string(20, 'n'));
  EXPECT_EQ(cell(named, "The candidates", "2", "candidate"), std::string(19, 'm') + "…");
  EXPECT_EQ(named.answer.find("Take m. " + std::string(21, 'm') + " has "), 0U) << named.answer;
  // Ordered by what the table is headed with.
  comparison.ordered_by = "leave-one-out";
  EXPECT_EQ(table_in(comparison_page(comparison), "The candidates, best first by leave-one-out error").rows.size(), 2U);
  // Approximate errors are said to be.
  comparison.candidates[0].leave_one_out.method = LeaveOneOut::Method::one_step;
  comparison.candidates[0].leave_one_out.one_step_difference = -0.0348;
  EXPECT_TRUE(says(comparison_page(comparison), " That of " + std::string(20, 'n') +
                                                    " is approximated by one step (differs by 3 % from refits without "
                                                    "some rows)."));
  comparison.candidates[1].leave_one_out.method = LeaveOneOut::Method::refitted;
  EXPECT_TRUE(says(comparison_page(comparison), " Nonlinear candidates were refitted without each row. That of "));
}

// Two routes to one curve: parameter by parameter, in standard uncertainties of the direct one.
TEST(ComparisonPage, ShowsTheTwoRoutesOfACurve) {
  std::vector<double> y;
  for (std::size_t i = 0; i < 7; ++i) y.push_back(20 * std::exp(-0.4 * seven_x[i]) * (i % 3 == 0 ? 1.04 : 0.98));
  const auto points = Observations::of(seven_x, y);
  const Comparison comparison = compare(std::vector<Fit>{
      fit(shape_model("exponential"), points), fit(shape_model("exponential", "x", "y", Route::linearized), points)});
  ASSERT_EQ(comparison.routes.size(), 1U);
  const ExplainedRoutes& routes = comparison.routes[0];
  const Page page = comparison_page(comparison);
  const PageTable& table =
      table_in(page, "One curve by two routes: " + comparison.candidates[routes.direct].name + " and ");
  ASSERT_EQ(table.rows.size(), 2U);
  for (std::size_t k = 0; k < 2; ++k) {
    const RouteParameter& p = routes.pair.parameters[k];
    EXPECT_EQ(table.rows[k],
              (std::vector<std::string>{p.name, with_uncertainty(p.direct, p.direct_uncertainty),
                                        with_uncertainty(p.linearized, p.linearized_uncertainty),
                                        fmt::format("{:.2f}", (p.linearized - p.direct) / p.direct_uncertainty)}));
  }
  EXPECT_TRUE(says(page,
                   "The direct route assumes a scatter of y that is the same for all rows (equal weights), the "
                   "linearized route by ln(y) one that is proportional to y (weights 1/y^2). " +
                       routes.pair.verdict))
      << sentences(page);
}

}  // namespace
}  // namespace truecurve
