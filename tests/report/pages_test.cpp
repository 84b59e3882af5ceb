// What pages show are the numbers of the results, in the right rows and columns, rounded as a report rounds them.
#include <truecurve/io/csv.hpp>
#include <truecurve/report/calibration_page.hpp>
#include <truecurve/report/censored_page.hpp>
#include <truecurve/report/comparison_page.hpp>
#include <truecurve/report/estimate_page.hpp>
#include <truecurve/report/fit_page.hpp>
#include <truecurve/report/look_page.hpp>
#include <truecurve/report/penalised_page.hpp>
#include <truecurve/report/renderers.hpp>
#include <truecurve/report/study_report.hpp>

#include "../support.hpp"
#include "page_reading.hpp"

#include <cstdlib>

namespace truecurve {
namespace {

using test::cell;
using test::has_caution;
using test::line;
using test::number;
using test::table_in;

// Replicates about a line, with stated uncertainties.
Observations rows() {
  return Observations::of({1, 1, 2, 2, 3, 3, 4, 4, 5, 5}, {2.9, 3.2, 5.2, 4.9, 7.1, 6.8, 9.3, 9.0, 10.9, 11.2},
                          std::vector<double>(10, 0.2));
}

TEST(FitPage, ShowsParametersQualityAndVariance) {
  const Fit line_fit = fit(shape_model("line"), rows());
  const Page page = fit_page(line_fit, {.level = 0.9});
  const auto intervals = parameter_intervals(line_fit.estimate(), 0.9);
  for (const ParameterInterval& p : intervals) {
    EXPECT_EQ(cell(page, "Parameters", p.name, "value"), with_uncertainty(p.value, p.standard_uncertainty));
    EXPECT_EQ(cell(page, "Parameters", p.name, "standard uncertainty"), rounded(p.standard_uncertainty, 2));
    EXPECT_EQ(cell(page, "Parameters", p.name, "90 % interval"), interval_text(p.low, p.high, p.standard_uncertainty));
    EXPECT_EQ(cell(page, "Parameters", p.name, "t"), rounded(p.value / p.standard_uncertainty, 4));
  }
  EXPECT_EQ(table_in(page, "Parameters").headings[5].text, "p (H0: = 0)");
  const Quality q = quality_of(line_fit);
  EXPECT_EQ(line(page, "Goodness", "data points n"),
            (std::pair<std::string, std::string>{"10", "2 parameters, 8 degrees of freedom"}));
  EXPECT_EQ(line(page, "Goodness", "chi-squared").first, rounded(q.chi_squared, 4));
  EXPECT_EQ(line(page, "Goodness", "chi-squared").second, "p = " + probability_text(q.chi_squared_p));
  EXPECT_EQ(line(page, "Goodness", "chi-squared / degrees of freedom").first, rounded(q.chi_squared / 8, 4));
  EXPECT_EQ(line(page, "Goodness", "chi-squared / degrees of freedom").second,
            "Birge ratio " + rounded(std::sqrt(q.chi_squared / 8), 4));
  EXPECT_EQ(line(page, "Goodness", "AIC, AICc"),
            (std::pair<std::string, std::string>{rounded(q.aic, 6), rounded(q.aicc, 6)}));
  // The variance table's parts add up, by rows of their own.
  const auto sum = [&](const char* source) { return std::stod(cell(page, "Variance", source, "sum of squares")); };
  EXPECT_NEAR(sum("explained") + sum("residual"), sum("total"), 1e-5 * sum("total"));
  EXPECT_NEAR(sum("  lack of fit") + sum("  pure error"), sum("residual"), 1e-4);
  EXPECT_EQ(cell(page, "Variance", "  pure error", "degrees of freedom"), "5");
  EXPECT_EQ(cell(page, "Variance", "  lack of fit", "degrees of freedom"), "3");
  const auto sources = [](const Page& shown) {
    std::string names;
    for (const auto& row : table_in(shown, "Variance").rows) names += row[0] + ";";
    return names;
  };
  EXPECT_EQ(sources(page), "explained;residual;  lack of fit;  pure error;total;");
  EXPECT_EQ(sources(fit_page(fit(shape_model("polynomial(2)"), rows()))),
            "explained;  by b1;  by b2;residual;  lack of fit;  pure error;total;");
  EXPECT_EQ(page.subject, "fitted to all 10 rows");
  EXPECT_TRUE(
      answer_of(page).starts_with(fmt::format("The intercept a is {} and the slope b is {}.",
                                              with_uncertainty(intervals[0].value, intervals[0].standard_uncertainty),
                                              with_uncertainty(intervals[1].value, intervals[1].standard_uncertainty))))
      << answer_of(page);
}

// The ends that the profile of chi-squared has, in place of the symmetric ones.
TEST(FitPage, ShowsTheIntervalsThatWereAskedFor) {
  const Observations points = Observations::of({0, 1, 2, 3, 4, 6}, {9.7, 6.4, 3.3, 2.4, 1.6, 0.2});
  const Fit decay = fit(Model::written("y = a*exp(-x/tau)"), points);
  const Trust trust = trust_of(decay, 0.95);
  const auto symmetric = parameter_intervals(decay.estimate(), 0.95);
  ASSERT_EQ(trust.profiles.size(), 2U);
  const Page profiled = fit_page(decay, {.level = 0.95, .trust = trust, .intervals = Intervals::profile});
  const Page plain = fit_page(decay, {.level = 0.95, .trust = trust, .intervals = Intervals::symmetric});
  for (std::size_t j = 0; j < 2; ++j) {
    const ProfileInterval& p = trust.profiles[j];
    const double u = symmetric[j].standard_uncertainty;
    EXPECT_EQ(cell(profiled, "Parameters", p.parameter, "95 % profile interval"),
              interval_text(p.interval.low, p.interval.high, u));
    EXPECT_EQ(number(profiled, j, "high"), p.interval.high);
    EXPECT_EQ(cell(plain, "Parameters", p.parameter, "95 % interval"),
              interval_text(symmetric[j].low, symmetric[j].high, u));
    EXPECT_EQ(number(plain, j, "low"), symmetric[j].low);
  }
  // At a limit there is no standard uncertainty, and the interval of the profile is rounded to its own width.
  const Fit limited =
      fit(Model::written("y = a*exp(-x/tau)"), points, {.within = {{.parameter = "tau", .low = 0, .high = 1.5}}});
  ASSERT_TRUE(limited.estimate().is_at_limit(1));
  Trust known = trust;
  known.profiles[1].interval = {1.05123, 1.5};
  const Page at_limit = fit_page(limited, {.level = 0.95, .trust = known, .intervals = Intervals::profile});
  EXPECT_EQ(cell(at_limit, "Parameters", "tau", "standard uncertainty"), "at its limit");
  EXPECT_EQ(cell(at_limit, "Parameters", "tau", "95 % profile interval"), "1.05 to 1.50");
}

// Pearson's chi-squared of counts, of which the page gives four digits.
TEST(FitPage, JudgesCountsByPearsonsChiSquared) {
  const std::vector<double> x = {1, 2, 3, 4, 5, 6};
  const std::vector<double> counts = {212, 187, 166, 131, 122, 96};
  const Fit decay = fit(Model::written("ln(y) = a + b*x"),
                        Observations::counted(x, counts, std::vector<double>(6, 1), ResponseKind::counts));
  double pearson = 0;
  for (std::size_t i = 0; i < 6; ++i)
    pearson += std::pow(counts[i] - decay.fitted_response()[i], 2) / decay.fitted_response()[i];
  std::string text = text_of(fit_page(decay));
  for (std::size_t at = 0; (at = text.find("\n  ", at)) != std::string::npos;) text.replace(at, 3, " ");
  EXPECT_TRUE(
      has(text, fmt::format("Pearson's chi-squared is {} with 4 degrees of freedom; if curve and distribution are "
                            "right, it would be at least this large with probability {}:",
                            rounded(pearson, 4), probability_text(chi_squared_upper(pearson, 4)))));
}

TEST(FitPage, SaysWhatWasHeldAndLeftOut) {
  const Page held = fit_page(fit(Model::written("y = a + b*x"), rows(), {.fixed = {{"b", 2}}}));
  EXPECT_EQ(cell(held, "Parameters", "b", "value"), "2");
  EXPECT_EQ(cell(held, "Parameters", "b", "standard uncertainty"), "held");
  EXPECT_TRUE(has(answer_of(held), "b was held at 2."));
  const Table table = Table::from_columns({{"x", "", {1, 2, 3, 4, 5, 6}}, {"y", "", {3, 5, 7.1, 9, 11, 40}}});
  const Page page = fit_page(fit(
      shape_model("line"), Observations(table, {.response = "y", .predictors = {"x"}, .left_out = {{6, "mistyped"}}})));
  EXPECT_TRUE(has_caution(page, "Left out: row 6: mistyped."));
  EXPECT_EQ(page.subject, "fitted to 5 of 6 rows");
}

// Row by row, against the formulas of a line: leverage 1/n + (x - mean)²/Sxx, Cook's distance from both.
TEST(FitPage, ShowsRowsAndIsBrief) {
  const Table table = Table::from_columns({{"x", "min", {1, 2, 3, 4, 6}}, {"y", "g", {3.1, 4.8, 50, 9.3, 12.8}}});
  const Fit made = fit(shape_model("line"),
                       Observations(table, {.response = "y", .predictors = {"x"}, .left_out = {{3, "mistyped"}}}));
  const Page page = fit_page(made, {.rows = true});
  const double a = made.parameter("a").value;
  const double b = made.parameter("b").value;
  const std::vector<double> x = {1, 2, 4, 6};
  const std::vector<double> y = {3.1, 4.8, 9.3, 12.8};
  double squares = 0;
  for (std::size_t i = 0; i < 4; ++i) squares += std::pow(y[i] - a - b * x[i], 2);
  const double s = std::sqrt(squares / 2);
  ASSERT_EQ(page.data.rows.size(), 4U);
  for (std::size_t i = 0; i < 4; ++i) {
    const double residual = y[i] - a - b * x[i];
    const double h = 0.25 + std::pow(x[i] - 3.25, 2) / 14.75;
    const double z = residual / (s * std::sqrt(1 - h));
    EXPECT_EQ(number(page, i, "row"), static_cast<double>(i < 2 ? i + 1 : i + 2));
    EXPECT_EQ(number(page, i, "x"), x[i]);
    EXPECT_EQ(number(page, i, "y"), y[i]);
    EXPECT_NEAR(number(page, i, "fitted"), a + b * x[i], 1e-12);
    EXPECT_NEAR(number(page, i, "residual"), residual, 1e-12);
    EXPECT_NEAR(number(page, i, "standardized"), z, 1e-9);
    EXPECT_NEAR(number(page, i, "leverage"), h, 1e-12);
    EXPECT_NEAR(number(page, i, "cook_distance"), z * z * h / (2 * (1 - h)), 1e-9);
  }
  const PageTable rows = table_in(page, "Rows");
  ASSERT_EQ(rows.rows.size(), 4U);
  EXPECT_EQ(rows.headings[1].text, "x (min)");
  EXPECT_EQ(rows.rows[2][0], "4");
  EXPECT_EQ(rows.rows[2][6], fmt::format("{:.2f}", 0.25 + 0.75 * 0.75 / 14.75));
  // Residuals have the decimals that two digits of their root mean square call for, whatever the unit.
  for (const auto& [unit, decimals] : {std::pair{1.0, 2}, {1e-3, 5}, {1e-2, 4}, {10.0, 1}}) {
    std::vector<double> scaled = y;
    for (double& value : scaled) value *= unit;
    const double rms = std::sqrt(squares / 4) * unit;
    ASSERT_EQ(rounded(rms, 2).size() - rounded(rms, 2).find('.') - 1, static_cast<std::size_t>(decimals));
    const Page other = fit_page(fit(shape_model("line"), Observations::of(x, scaled)), {.rows = true});
    for (std::size_t i = 0; i < 4; ++i) {
      EXPECT_EQ(table_in(other, "Rows").rows[i][4], fmt::format("{:.{}f}", (y[i] - a - b * x[i]) * unit, decimals));
      EXPECT_EQ(table_in(other, "Rows").rows[i][3], fmt::format("{:.{}f}", (a + b * x[i]) * unit, decimals));
    }
  }
  // In brief: what was asked, what to be careful about, the parameters.
  const Page brief = in_brief(page);
  ASSERT_EQ(brief.sections.size(), 1U);
  EXPECT_EQ(brief.sections[0].heading, "Parameters");
  EXPECT_TRUE(has_caution(brief, "mistyped"));
  EXPECT_EQ(answer_of(brief), answer_of(page));
  EXPECT_EQ(in_brief(look_page(table)).sections.size(), 1U);
}

TEST(PredictionPage, ShowsPointsWithTheirBands) {
  const Fit line_fit = fit(shape_model("line"), rows());
  const std::vector<Vector> points = {{2.5, 9}};
  const auto values = band(line_fit.estimate(), points, 0.95);
  const Page page = prediction_page(line_fit.estimate(), points, values, 0.95);
  for (std::size_t i = 0; i < 2; ++i) {
    EXPECT_EQ(number(page, i, "x"), points[0][i]);
    EXPECT_EQ(number(page, i, "y"), values[i].value);
    EXPECT_EQ(number(page, i, "standard_uncertainty"), values[i].standard_uncertainty);
    EXPECT_EQ(number(page, i, "confidence_low"), values[i].confidence.low);
    EXPECT_EQ(number(page, i, "confidence_high"), values[i].confidence.high);
    EXPECT_EQ(number(page, i, "prediction_high"), values[i].prediction.high);
  }
  EXPECT_EQ(answer_of(page), fmt::format("y is {} at x = 2.5; {} at x = 9.",
                                         with_uncertainty(values[0].value, values[0].standard_uncertainty),
                                         with_uncertainty(values[1].value, values[1].standard_uncertainty)));
  EXPECT_EQ(cell(page, "", "9", "95 % confidence band"),
            interval_text(values[1].confidence.low, values[1].confidence.high,
                          (values[1].confidence.high - values[1].value) / 2));
  // 9 lies the whole range of 4 beyond 5.
  EXPECT_EQ(table_in(page, "").rows[1].back(), "outside the data by 100 % of their range");
  EXPECT_TRUE(has_caution(page, "Extrapolated"));
  EXPECT_TRUE(prediction_page(line_fit.estimate(), std::vector<Vector>{{2.5}}, std::span(values).first(1), 0.95)
                  .cautions.empty());
}

TEST(SolutionPage, SaysWhereAResponseIsReachedOrNot) {
  const Fit parabola =
      fit(shape_model("polynomial(2)"), Observations::of({0, 1, 2, 3, 4, 5}, {0.02, 3.9, 6.1, 5.9, 4.1, -0.05}));
  const auto roots = solve(parabola.estimate(), 5.0);
  const Page page = solution_page(parabola.estimate(), 5, roots, {});
  ASSERT_EQ(page.data.rows.size(), 2U);
  for (std::size_t i = 0; i < 2; ++i) {
    EXPECT_EQ(number(page, i, "value"), roots[i].value);
    EXPECT_EQ(number(page, i, "low"), roots[i].interval.low);
    EXPECT_NEAR(band_at(parabola.estimate(), {roots[i].value}, 0.95)[0].value, 5, 1e-9);
  }
  EXPECT_EQ(answer_of(page), "y = 5 is reached at 2 places.");
  EXPECT_EQ(answer_of(solution_page(parabola.estimate(), 90, {}, {})),
            "y = 90 is not reached between x = 0 and 5 (the range of the data).");
  EXPECT_EQ(answer_of(solution_page(parabola.estimate(), 90, {}, {.low = -1, .high = 7})),
            "y = 90 is not reached between x = -1 and 7.");
  EXPECT_EQ(answer_of(solution_page(parabola.estimate(), 90, {}, {.low = -1})),
            "y = 90 is not reached between x = -1 and 5.");
  EXPECT_EQ(answer_of(solution_page(parabola.estimate(), 90, {}, {.high = 7})),
            "y = 90 is not reached between x = 0 and 7.");
  // Without an uncertainty and an interval of some width, the place as it is.
  for (const Interval& none : {Interval{-infinity, infinity}, Interval{2.5123456, 2.5123456}}) {
    const std::vector<Root> bare = {{.value = 2.5123456, .standard_uncertainty = not_a_number, .interval = none}};
    EXPECT_TRUE(has(sentences(solution_page(parabola.estimate(), 5, bare, {})), "x = 2.51235"));
  }
}

// In brief the parameters stay, and what was asked of them.
TEST(FitPage, KeepsWhatWasAskedInBrief) {
  const Fit made = fit(shape_model("line"), rows());
  const auto kept = [&](const std::vector<std::string>& derived, const std::vector<std::string>& hypotheses) {
    const Page brief = in_brief(fit_page(made, {.deductions = deduce(made.estimate(), 0.95, derived, hypotheses)}));
    std::string headings;
    for (const PageSection& section : brief.sections) headings += section.heading + ";";
    return headings;
  };
  EXPECT_EQ(kept({}, {}), "Parameters;");
  EXPECT_EQ(kept({"twice = 2*b"}, {}), "Parameters;Derived quantities;");
  EXPECT_EQ(kept({}, {"b = 2"}), "Parameters;Hypotheses;");
  EXPECT_EQ(kept({"twice = 2*b"}, {"b = 2"}), "Parameters;Derived quantities;Hypotheses;");
}

TEST(DerivationPage, ShowsQuantitiesAndHypotheses) {
  const Fit line_fit = fit(shape_model("line"), rows());
  const Deductions deductions = deduce(line_fit.estimate(), 0.95, std::vector<std::string>{"twice = 2*b"},
                                       std::vector<std::string>{"b = 2", "a = 5"});
  const Page page = derivation_page(line_fit.estimate(), deductions, 0.95);
  const auto b = line_fit.parameter("b");
  EXPECT_NEAR(number(page, 0, "value"), 2 * b.value, 1e-12);
  EXPECT_NEAR(number(page, 0, "standard_uncertainty"), 2 * b.standard_uncertainty, 1e-12);
  EXPECT_EQ(cell(page, "Derived", "twice", "value"), with_uncertainty(2 * b.value, 2 * b.standard_uncertainty));
  const std::string text = text_of(page);
  const HypothesisTest& h = deductions.hypotheses[0];
  EXPECT_TRUE(test::says(page, fmt::format("b = 2: the sides differ by {}, t = {}, p = {}; not rejected",
                                           with_uncertainty(h.difference, h.standard_uncertainty),
                                           rounded(h.difference / h.standard_uncertainty, 3), probability_text(h.p))))
      << text;
  EXPECT_TRUE(has(text, "; not rejected at the 5 % level"));
  EXPECT_TRUE(has(text, "; rejected at the 5 % level"));
}

// Of a quotient whose divisor is hardly known the interval by draws is given, and the share of draws only where some
// have no value.
TEST(DerivationPage, TellsOfDrawsWithoutAValue) {
  const Fit made = fit(shape_model("line"), Observations::of({1, 2, 3, 4, 5, 6}, {2.2, 1.6, 2.9, 2.1, 3.2, 2.8}));
  const auto said = [&](const char* quantity) {
    const Deductions made_of = deduce(made.estimate(), 0.95, std::vector<std::string>{quantity}, {});
    return html_of(derivation_page(made.estimate(), made_of, 0.95));
  };
  const std::string always = said("q = exp(3*a)");
  EXPECT_TRUE(has(always, "The symmetric interval of q is inaccurate"));
  EXPECT_TRUE(has(always, "Monte Carlo interval is "));
  EXPECT_FALSE(has(always, "has no value"));
  const std::string sometimes = said("q = ln(a - 1)");
  EXPECT_TRUE(has(sometimes, "Monte Carlo interval has no lower limit and ends at "));
  EXPECT_TRUE(has(sometimes, "% of the draws q has no value."));
  const std::string above = said("q = -ln(a - 1)");
  EXPECT_TRUE(has(above, "Monte Carlo interval begins at "));
  EXPECT_TRUE(has(above, " and has no upper limit."));
}

// About 3 the constant is the curve there, the next coefficient its slope c1 + 6 c2.
TEST(AboutSection, ShowsCoefficientsAboutAnOrigin) {
  const Fit parabola = fit(shape_model("polynomial(2)"), rows());
  const PageSection section = about_section(parabola.estimate(), 3);
  EXPECT_EQ(section.heading, "The same curve in powers of (x - 3)");
  const auto& shown = std::get<PageTable>(section.blocks[0]).rows;
  const BandPoint at = band_at(parabola.estimate(), {3}, 0.95)[0];
  EXPECT_EQ(shown[0][1], with_uncertainty(at.value, at.standard_uncertainty));
  EXPECT_EQ(shown[0][2], rounded(at.standard_uncertainty, 2));
  EXPECT_EQ(shown[1][0], "1");
  const double slope = parabola.parameter("b1").value + 6 * parabola.parameter("b2").value;
  EXPECT_NEAR(std::stod(shown[1][1]), slope, 0.005);
}

TEST(PreviewPage, ShowsStartsAndTheDistance) {
  const Observations points = Observations::of({0, 1, 2}, {1, 2, 4});
  const Page page = preview_page(
      preview(Model::written("y = a*exp(b*x)"), points, {.starts = {{"a", 1}, {"b", std::log(2.0)}}}), points);
  EXPECT_EQ(number(page, 1, "start"), std::log(2.0));
  EXPECT_TRUE(has(text_of(page), "given"));
  const Page far = preview_page(
      preview(Model::written("y = a*exp(b*x)"), points, {.starts = {{"a", 2}, {"b", std::log(2.0)}}}), points);
  // 2, 4, 8 against 1, 2, 4: squares 1 + 4 + 16.
  EXPECT_TRUE(has(text_of(far), "The sum of squared residuals is 21; the root mean square residual is 2.646."));
}

TEST(LookPage, SummarisesColumnsAndPointsAtWhatIsOdd) {
  const Table table = Table::from_columns(
      {{"t", "min", {1, 2, 3, 4, 5, 6, 7, std::nan("")}}, {"T", "", {10, 11, 12, 13, 14, 15, 90, 16}}});
  const Page page = look_page(table);
  EXPECT_EQ(page.subject, "8 rows of 2 columns");
  EXPECT_EQ(answer_of(page), "Columns: t (min), T.");
  EXPECT_EQ(cell(page, "Columns", "t", "values"), "7, 1 missing");
  EXPECT_EQ(cell(page, "Columns", "t", "range"), "1 to 7");
  EXPECT_EQ(cell(page, "Columns", "t", "in steps of"), "1");
  EXPECT_EQ(cell(page, "Columns", "t", "order"), "ascending");
  EXPECT_EQ(cell(page, "Columns", "T", "order"), "none");
  EXPECT_EQ(cell(page, "Columns", "T", "levels"), "all different");
  EXPECT_EQ(cell(page, "Columns", "T", "middle"), "13.5");
  EXPECT_EQ(cell(page, "Columns", "T", "half of them within"), "11.75 to 15.25");
  EXPECT_EQ(number(page, 0, "missing"), 1);
  EXPECT_EQ(number(page, 1, "median"), 13.5);
  EXPECT_EQ(number(page, 1, "unusual"), 1);
  EXPECT_TRUE(has_caution(page, "'t' is missing in row 8."));
  EXPECT_TRUE(has_caution(page, "'T' has a value far from its other values in row 7: check it in the notebook."));
  // The rows of which something is said, each with its neighbours.
  const PageTable excerpt = table_in(page, "Rows");
  ASSERT_EQ(excerpt.rows.size(), 4U);
  EXPECT_EQ(excerpt.rows[0][0], "...");
  EXPECT_EQ(excerpt.rows[1][0], "6");
  EXPECT_EQ(excerpt.rows[2], (std::vector<std::string>{"7", "7", "90"}));
  EXPECT_EQ(excerpt.rows[3][0], "8");
  EXPECT_EQ(excerpt.rows[3][2], "16");
  const Table longer = Table::from_columns({{"t", "", {1, 2, 3, 4, 5, 6, 7, 8, 9, 10}}});
  EXPECT_EQ(table_in(look_page(longer), "Rows").rows.size(), 4U);
  EXPECT_EQ(table_in(look_page(longer), "Rows").rows[2][0], "3");
  const Table levels = Table::from_columns(
      {{"c", "", {0, 0, 2, 2, 9, 9}}, {"k", "", {1, 1, 1, 1, 1, 1}}, {"d", "", {3, 3, 2, 1, 1, 0}}});
  EXPECT_EQ(cell(look_page(levels), "Columns", "c", "levels"), "3 levels, 2 times each");
  EXPECT_EQ(cell(look_page(levels), "Columns", "k", "range"), "1");
  EXPECT_EQ(cell(look_page(levels), "Columns", "k", "order"), "none");
  EXPECT_EQ(cell(look_page(levels), "Columns", "d", "levels"), "4 levels, 1 to 2 times each");
  EXPECT_EQ(cell(look_page(levels), "Columns", "d", "order"), "descending");
  // Of a column of words, and of one without a value, there is nothing to summarise.
  std::istringstream words("n,state,empty\n1,sound,\n2,cracked,\n3,chipped,\n");
  EXPECT_EQ(table_in(look_page(read_csv(words, "bells.csv")), "Columns").rows.size(), 1U);
  const Table none = Table::from_columns({{"n", "", {1, 2}}, {"empty", "", {not_a_number, not_a_number}}});
  EXPECT_EQ(table_in(look_page(none), "Columns").rows.size(), 1U);
  // Of many columns the first ones, and of long names and cells their ends.
  std::vector<NamedNumbers> columns = {{std::string(500, 'n'), "", {1, 2}}};
  for (int i = 1; i < 31; ++i) columns.push_back({fmt::format("c{}", i), "", {1, 2}});
  const PageTable wide = table_in(look_page(Table::from_columns(columns)), "Rows");
  EXPECT_EQ(wide.headings.size(), 32U);  // and the row, and the rest
  EXPECT_EQ(wide.headings.back().text, "and 1 more");
  EXPECT_EQ(wide.rows[0].back(), "...");
  EXPECT_LT(wide.headings[1].text.size(), 70U);
  columns.pop_back();
  EXPECT_EQ(table_in(look_page(Table::from_columns(columns)), "Rows").headings.back().text, "c29");
}

// The answer names eight columns and counts the others.
TEST(LookPage, NamesEightColumns) {
  for (const auto& [count, words] : {std::pair{1, "Columns: c1."},
                                     {8, "Columns: c1, c2, c3, c4, c5, c6, c7, c8."},
                                     {9, "Columns: c1, c2, c3, c4, c5, c6, c7, c8 and 1 more."}}) {
    std::vector<NamedNumbers> columns;
    for (int k = 1; k <= count; ++k) columns.push_back({fmt::format("c{}", k), "", {1, 2}});
    EXPECT_EQ(look_page(Table::from_columns(columns)).answer, words);
  }
  // A name of sixty characters in full, of a longer one its ends.
  for (const std::size_t length : {60U, 61U}) {
    const std::string name(length, 'c');
    const Page page = look_page(Table::from_columns({{name, "", std::vector<double>{1, 2}}}));
    EXPECT_EQ(table_in(page, "Columns").rows[0][0] == name, length == 60);
    EXPECT_EQ(table_in(page, "Rows").headings[1].text == name, length == 60);
  }
}

// Whole numbers that differ, and have no unit, may be counts, from two on; others are not asked about.
TEST(LookPage, AsksWhetherWholeNumbersAreCounts) {
  const auto asks = [](const std::vector<double>& y, const char* unit) {
    const Table table = Table::from_columns({{"t", "min", {1, 2, 3, 4, 5, 6}}, {"N", unit, y}});
    Page page;
    for (PageSection& section : pair_sections(Observations(table, {.response = "N", .predictors = {"t"}})))
      page.sections.push_back(std::move(section));
    return text_of(page).find("N holds whole numbers only: if these are counts") != std::string::npos;
  };
  EXPECT_TRUE(asks({0, 1, 2, 1, 0, 2}, ""));
  EXPECT_FALSE(asks({0, 1, 1, 1, 0, 1}, ""));
  EXPECT_FALSE(asks({2, 2, 2, 2, 2, 2}, ""));
  EXPECT_FALSE(asks({0, 1, 2, 1, 0, 2}, "mm"));
  EXPECT_FALSE(asks({0, 1, 2.5, 1, 0, 2}, ""));
  EXPECT_FALSE(asks({0, 1, -2, 1, 0, 2}, ""));
  EXPECT_FALSE(asks({10, 20, 30, 20, 10, 50}, ""));
  EXPECT_TRUE(asks({10, 20, 31, 20, 10, 50}, ""));
  EXPECT_TRUE(asks({1e9, 20, 31, 20, 10, 50}, ""));
  EXPECT_FALSE(asks({1e9 + 1, 20, 31, 20, 10, 50}, ""));
}

// The excerpt shows what the cautions speak of with a row on either side, a dozen in all.
TEST(LookPage, ShowsADozenRowsAboutWhatIsOdd) {
  for (const auto& [missing, shown] : {std::pair{1, 1}, {5, 5}, {20, 11}, {30, 11}}) {
    std::vector<double> y(100, 1.5);
    for (int i = 0; i < missing; ++i) y[static_cast<std::size_t>(40 + i)] = not_a_number;
    std::vector<double> x(100);
    for (std::size_t i = 0; i < 100; ++i) x[i] = static_cast<double>(i);
    const Page page = look_page(Table::from_columns({{"x", "", x}, {"y", "", y}}));
    int found = 0;
    for (const auto& row : table_in(page, "Rows").rows) {
      const int number = std::atoi(row[0].c_str());
      found += number > 40 && number <= 40 + missing;
    }
    EXPECT_EQ(found, shown);
  }
  // A word among the numbers, with the row before it and the one behind it.
  std::string file = "x,y\n";
  for (int i = 1; i <= 100; ++i) file += fmt::format("{},{}\n", i, i == 60 ? "wet" : "1.5");
  std::istringstream stream(file);
  const Page page = look_page(read_csv(stream, "rows.csv"));
  std::vector<std::string> about;
  for (const auto& row : table_in(page, "Rows").rows) {
    if (std::abs(std::atoi(row[0].c_str()) - 60) < 5) about.push_back(row[0]);
  }
  EXPECT_EQ(about, (std::vector<std::string>{"59", "60", "61"}));
  // The first row has none before it, the last none behind it.
  for (const std::size_t odd : {1U, 100U}) {
    std::vector<double> y(100, 1.5);
    y[odd - 1] = not_a_number;
    std::vector<std::string> numbers;
    const Page of_one = look_page(Table::from_columns({{"y", "", y}}));
    for (const auto& row : table_in(of_one, "Rows").rows) numbers.push_back(row[0]);
    EXPECT_EQ(numbers,
              odd == 1 ? (std::vector<std::string>{"1", "2", "..."}) : (std::vector<std::string>{"...", "99", "100"}));
  }
  const Page of_alone = look_page(Table::from_columns({{"y", "", std::vector<double>{1.5}}}));
  ASSERT_EQ(table_in(of_alone, "Rows").rows.size(), 1U);
  EXPECT_EQ(table_in(of_alone, "Rows").rows[0], (std::vector<std::string>{"1", "1.5"}));
}

// A calibration's rows, and those that its range leaves out.
TEST(FitPage, CautionsOfAScatterOfFewRows) {
  const std::vector<double> x = {1, 2, 3, 4, 5};
  const std::vector<double> y = {2.1, 3.9, 6.2, 7.8, 10.3};
  for (const std::size_t rows : {3, 4, 5}) {
    const std::span<const double> some_x(x.data(), rows);
    const std::span<const double> some_y(y.data(), rows);
    const Fit by_scatter = fit(shape_model("line"), Observations::of(some_x, some_y));
    EXPECT_EQ(has_caution(fit_page(by_scatter), fmt::format("With {} degree", rows - 2)), rows < 5) << rows;
    const std::vector<double> u(rows, 0.1);
    const Fit stated = fit(shape_model("line"), Observations::of(some_x, some_y, u));
    EXPECT_FALSE(has_caution(fit_page(stated), "the scatter itself is poorly known")) << rows;
  }
}

TEST(LookPage, ListsTheAxesThatStraightenAPair) {
  std::vector<double> x, y;
  for (int i = 1; i <= 12; ++i) {
    x.push_back(i);
    y.push_back(3 * std::exp(0.3 * i) * (1 + 0.01 * (i % 3 - 1)));
  }
  const auto sections = pair_sections(Observations::of(x, y));
  ASSERT_EQ(sections.size(), 2U);
  // Five of them, however many there are.
  ASSERT_GT(straightenings(Observations::of(x, y)).size(), 5U);
  EXPECT_EQ(std::get<PageTable>(sections[1].blocks[2]).rows.size(), 5U);
  const auto& best = std::get<PageTable>(sections[1].blocks[2]).rows[0];
  EXPECT_EQ(best[0], "ln(y) = a + b*x");
  EXPECT_EQ(best[1], "0.0");
  // A p below 5 % is a curvature that remains: readings that bend more and more.
  int close = 0;
  for (const double bend : {0.0084, 0.0118, 0.012, 0.0124}) {
    std::vector<double> bent;
    for (int i = 1; i <= 12; ++i) bent.push_back(20 + i - bend * i * i + 0.1 * (i * 5 % 7 - 3));
    const Observations rows = Observations::of(x, bent);
    const std::vector<Straightening> ways = straightenings(rows);
    const auto table = std::get<PageTable>(pair_sections(rows).at(1).blocks.at(2));
    for (std::size_t i = 0; i < table.rows.size(); ++i) {
      EXPECT_EQ(table.rows[i][3].find("still curved") != std::string::npos, ways[i].curvature_p < 0.05)
          << ways[i].curvature_p;
      close += ways[i].curvature_p >= 0.05 && ways[i].curvature_p < 0.055;
    }
  }
  EXPECT_GT(close, 0);
  // Which of line, parabola and straightening holds, or that none does; headers that are no plain names, too.
  const auto said = [](double (*truth)(double)) {
    std::vector<double> at, values;
    RandomNumbers random(3);
    for (int i = 1; i <= 24; ++i) {
      at.push_back(i);
      values.push_back(truth(i) + 0.05 * random.normal());
    }
    const Table table = Table::from_columns({{"Drying time", "", at}, {"c-Pb", "", values}});
    const Observations rows(table, {.response = "c-Pb", .predictors = {"Drying time"}});
    return straightness_sentence(rows, straightenings(rows));
  };
  EXPECT_EQ(said([](double at) { return 2 + 3 * at; }),
            "No departure from a straight line was detected of 'c-Pb' = a + b*'Drying time'.");
  EXPECT_TRUE(has(said([](double at) { return 90 + (at - 12) * (at - 12); }), "No departure from a parabola"));
  EXPECT_TRUE(has(said([](double at) { return 90 + 9 * std::sin(at); }), "A parabola does not"));
  EXPECT_EQ(straightness_sentence(Observations::of(x, y), {}), "");
}

// What a transform takes the scatter of the response as is cautioned of, unless it is what no transform would take.
TEST(FitPage, CautionsOfTheScatterThatATransformTakes) {
  const Observations rows = Observations::of({1, 2, 3, 4, 6}, {2.9, 5.2, 7.1, 8.7, 13.4});
  const auto page = [&](const char* model) {
    return markdown_of(fit_page(fit(Model::written(model, {"x"}), rows), {.level = 0.95}));
  };
  EXPECT_TRUE(has(page("x/y = a + b*x"), "for y itself this means a scatter proportional to y^2/x."));
  EXPECT_TRUE(has(page("ln(y/x) = a + b*x"), "for y itself this means a scatter proportional to y."));
  for (const char* plain : {"2*y = a + b*x", "y - 1 = a + b*x", "y = a + b*x"})
    EXPECT_FALSE(has(page(plain), "for y itself")) << plain;
}

// An outlier may mimic curvature or unequal scatter: it is told first.
TEST(FitPage, TellsOfAnOutlierBeforeWhatItMayMimic) {
  std::vector<double> x, y;
  RandomNumbers random(8);
  for (int i = 0; i < 24; ++i) {
    x.push_back(i);
    y.push_back(3 + 2 * i + 0.02 * i * i + (i == 15 ? 9 : 0) + 0.1 * random.normal());
  }
  const Fit made = fit(shape_model("line"), Observations::of(x, y));
  std::vector<std::string> told;
  for (const Check& check : residual_checks(made)) {
    if (check.is_significant()) told.push_back(check.sentence);
  }
  ASSERT_GE(told.size(), 2U);
  const Page page = fit_page(made);
  const auto spoken = std::find_if(page.cautions.begin(), page.cautions.end(), [&](const Advice& caution) {
    return std::any_of(told.begin(), told.end(), [&](const std::string& s) { return caution.text().starts_with(s); });
  });
  ASSERT_NE(spoken, page.cautions.end());
  EXPECT_TRUE(has(spoken->text(), "Row 16"));
}

// A check that speaks is cautioned of, with what to do; one that does not is in the table alone.
TEST(FitPage, CautionsOfChecksThatSpeak) {
  const VectorXd x = VectorXd::LinSpaced(24, 0, 10);
  for (const double bend : {0.0, 0.05}) {
    VectorXd y(24);
    RandomNumbers random(8);
    for (Eigen::Index i = 0; i < 24; ++i) y[i] = 3 + 2 * x[i] + bend * x[i] * x[i] + 0.1 * random.normal();
    const Fit made = fit(shape_model("line"), Observations::of(x, y));
    const Page page = fit_page(made);
    int speaking = 0;
    for (const Check& check : residual_checks(made)) {
      EXPECT_EQ(has_caution(page, fmt::format("{} (p = {}) Advice: ", check.sentence, probability_text(check.p))),
                check.is_significant())
          << name(check.kind);
      speaking += check.is_significant();
    }
    EXPECT_EQ(speaking > 0, bend > 0);
  }
}

// Dots take the place of two rows or more, never of one.
TEST(LookPage, ShowsTheRowThatDotsWouldReplace) {
  const std::vector<std::pair<std::size_t, std::string>> excerpts = {
      {2, "1 2 3 ..."},         {3, "1 2 3 4 ..."},      {4, "... 3 4 5 ..."}, {5, "... 4 5 6 ..."},
      {17, "... 16 17 18 ..."}, {18, "... 17 18 19 20"}, {19, "... 18 19 20"}, {20, "... 19 20"}};
  for (const auto& [odd, numbers] : excerpts) {
    std::vector<double> y(20, 1.5);
    y[odd - 1] = not_a_number;
    const Page page = look_page(Table::from_columns({{"y", "", y}}));
    std::string shown;
    for (const auto& row : table_in(page, "Rows").rows) shown += (shown.empty() ? "" : " ") + row[0];
    EXPECT_EQ(shown, numbers) << odd;
  }
}

// Two words, or 0 and 1, in five rows or more may be an event; in fewer they are words and numbers.
TEST(LookPage, SeesEvents) {
  for (const auto& [rows, event] : {std::pair{"sound\ncracked\nsound\nsound\n", false},
                                    {"sound\ncracked\nsound\nsound\nsound\n", true},
                                    {"sound,1\ncracked,2\nsound,3\n,4\nsound,5\nsound,6\n", true},
                                    {"sound,1\ncracked,2\nsound,3\n7,4\nsound,5\nsound,6\n", false},
                                    {"sound\ncracked\nsound\nsound\nchipped\n", false}}) {
    const bool is_beside = std::string(rows).find(',') != std::string::npos;
    std::istringstream text(std::string(is_beside ? "state,n\n" : "state\n") + rows);
    EXPECT_EQ(has_caution(look_page(read_csv(text, "bells.csv")), "'state' holds two words, 'sound'"), event) << rows;
  }
  std::istringstream bells("state\nsound\ncracked\nsound\nsound\nsound\n");
  EXPECT_TRUE(
      has_caution(look_page(read_csv(bells, "bells.csv")),
                  "'state' holds two words, 'sound' (4 rows) and 'cracked' (1 row): as a response it is an event"));
  for (const auto& [outcomes, event] :
       std::vector<std::pair<std::vector<double>, bool>>{{{0, 1, 1, 0}, false},
                                                         {{0, 1, 1, 0, 1}, true},
                                                         {{0, 1, 1, not_a_number, 0, 1}, true},
                                                         {{0, 1, 0.5, 0, 1}, false},
                                                         {{0, 2, 1, 0, 1}, false},
                                                         {{0, 0, 0, 0, 0}, false},
                                                         {{1, 1, 1, 1, 1}, false}}) {
    EXPECT_EQ(
        has_caution(look_page(Table::from_columns({{"cracked", "", outcomes}})), "'cracked' is 0 or 1 in every row"),
        event)
        << fmt::format("{}", fmt::join(outcomes, " "));
  }
}

// Consistent unless chi-squared is among the 2.5 % at either end.
TEST(FitPage, JudgesStatedUncertaintiesOnBothSides) {
  const std::vector<double> x = {1, 2, 3, 4, 6};
  const std::vector<double> y = {2.9, 5.2, 7.1, 8.7, 13.4};
  const double squares = fit(shape_model("line"), Observations::of(x, y)).chi_squared();
  struct Case {
    double p;
    const char* verdict;
  };
  for (const auto& [p, verdict] : {Case{0.024, "the residuals are larger than the stated uncertainties explain."},
                                   {0.026, "consistent with the stated uncertainties."},
                                   {0.5, "consistent with the stated uncertainties."},
                                   {0.974, "consistent with the stated uncertainties."},
                                   {0.976, "the residuals are smaller than the stated uncertainties explain."}}) {
    const double u = std::sqrt(squares / chi_squared_quantile(1 - p, 3));
    const Fit made = fit(shape_model("line"), Observations::of(x, y, std::vector<double>(5, u)));
    const std::string text = markdown_of(fit_page(made, {.level = 0.95}));
    EXPECT_TRUE(has(text, fmt::format("at least this large with probability {}: {}", probability_text(p), verdict)));
  }
}

// Too large a chi-squared is answered with advice below 1 %.
TEST(FitPage, AdvisesTheBirgeRatioBelowOnePercent) {
  const std::vector<double> x = {1, 2, 3, 4, 6};
  const std::vector<double> y = {2.9, 5.2, 7.1, 8.7, 13.4};
  const double squares = fit(shape_model("line"), Observations::of(x, y)).chi_squared();
  for (const double p : {0.0098, 0.0102, 0.5, 0.995}) {
    const double u = std::sqrt(squares / chi_squared_quantile(1 - p, 3));
    const Page page = fit_page(fit(shape_model("line"), Observations::of(x, y, std::vector<double>(5, u))));
    EXPECT_EQ(has_caution(page, "If the stated uncertainties are right only in proportion to one another"), p < 0.01)
        << p;
  }
}

// Without scatter there is nothing to tell digits by: six are shown.
TEST(FitPage, ShowsRowsOfAnExactFit) {
  const Page page =
      fit_page(fit(Model::written("y = m"), Observations::of({1, 2, 3, 4}, Vector(4, 1234567.25))), {.rows = true});
  for (const auto& row : table_in(page, "Rows").rows) {
    EXPECT_EQ(row[2], "1234567.25");
    EXPECT_EQ(row[3], rounded(1234567.25, 6));
    EXPECT_EQ(row[4], rounded(0, 6));
  }
}

// Each row left out in turn, fitted without it and predicted; not where nothing would be left to estimate by, and not
// for hundreds of rows.
TEST(FitPage, TellsOutcomesOfRowsLeftOut) {
  const Model logit = Model::written("ln(y/(1 - y)) = a + b*x");
  const auto told = [&](const Observations& rows) {
    const Fit made = fit(logit, rows);
    return line(fit_page(made, {.level = 0.95}), "Goodness of fit", "trials on the right side of 1/2");
  };
  const std::vector<double> x = {1, 2, 3, 4, 5, 6, 7, 8, 12};
  const std::vector<double> outcomes = {0, 0, 1, 0, 1, 0, 1, 1, 1};
  const Observations rows = Observations::counted(x, outcomes, std::vector<double>(9, 1), ResponseKind::events);
  const Fit whole = fit(logit, rows);
  int right = 0, right_without = 0;
  for (std::size_t i = 0; i < 9; ++i) {
    right += (whole.fitted_response()[i] > 0.5) == (outcomes[i] == 1);
    const Fit without = fit(logit, rows.without(std::vector<std::size_t>{i + 1}, "in turn"));
    const double eta = without.estimate().parameters()[0] + without.estimate().parameters()[1] * x[i];
    right_without += (eta > 0) == (outcomes[i] == 1);
  }
  EXPECT_EQ(told(rows), (std::pair{fmt::format("{:.1f} %", 100 * right / 9.0),
                                   fmt::format("{:.1f} % with each row left out in turn", 100 * right_without / 9.0)}));
  EXPECT_EQ(told(Observations::counted({1, 2}, {1, 3}, {4, 4}, ResponseKind::events)),
            (std::pair<std::string, std::string>{"75.0 %", ""}));
  VectorXd many(301);
  VectorXd often(301);
  for (Eigen::Index i = 0; i < 301; ++i) {
    many[i] = static_cast<double>(i) / 100;
    often[i] = i % 3 == 0 || i > 200 ? 1 : 0;
  }
  EXPECT_EQ(told(Observations::counted(many, often, VectorXd::Ones(301), ResponseKind::events)).second, "");
  EXPECT_NE(
      told(Observations::counted(many.head(300), often.head(300), VectorXd::Ones(300), ResponseKind::events)).second,
      "");
}

// No crack in 5 pours, 4 in 5: Firth's penalty adds half an outcome to each cell, and the expected information is that
// of the shares there.
TEST(PenalisedPage, ShowsEstimatesOfSeparatedOutcomes) {
  const Observations rows = Observations::counted({0, 1}, {0, 4}, {5, 5}, ResponseKind::events);
  const Model logit = Model::written("ln(y/(1 - y)) = a + b*x");
  const Page page = penalised_page(penalised_estimates(logit, rows, 0.9), rows, 0.9);
  const double a = std::log(0.5 / 5.5);
  const double b = std::log(4.5 / 1.5) - a;
  const double share = 0.5 / 6;
  const double above = 4.5 / 6;
  const double of_a = 1 / (5 * share * (1 - share));
  const double u = std::sqrt(of_a + 1 / (5 * above * (1 - above)));
  EXPECT_EQ(cell(page, "Parameters", "b", "value"), with_uncertainty(b, u));
  EXPECT_EQ(cell(page, "Parameters", "b", "standard uncertainty"), rounded(u, 2));
  EXPECT_EQ(cell(page, "Parameters", "a", "standard uncertainty"), rounded(std::sqrt(of_a), 2));
  EXPECT_NEAR(number(page, 0, "value"), a, 1e-7);
  EXPECT_NEAR(number(page, 1, "standard_uncertainty"), u, 1e-6);
  const std::string text = text_of(page);
  EXPECT_TRUE(has(text, "90 % penalised profile interval"));
  EXPECT_TRUE(has(text, "Without the penalty there is no greatest likelihood: "));
  // Of outcomes that overlap both likelihoods stand there.
  const Observations overlapping = Observations::counted({0, 1}, {1, 4}, {5, 5}, ResponseKind::events);
  const auto found = penalised_estimates(logit, overlapping, 0.9);
  const double greatest = std::log(0.2) + 4 * std::log(0.8) + 4 * std::log(0.8) + std::log(0.2);
  EXPECT_TRUE(has(sentences(penalised_page(found, overlapping, 0.9)),
                  fmt::format("The log likelihood of the data is {}; the greatest, without the penalty, is {}.\n",
                              rounded(found.log_likelihood, 6), rounded(greatest + 2 * std::log(5.0), 6))));
}

// One file, which asks for nothing outside itself: answers before sections, all texts escaped, nothing shown of what is
// empty.
TEST(StudyReport, IsOnePageOfItsTasks) {
  Page page{.title = "a < b", .subject = "fitted & read"};
  page.lead.say("The slope is <2>.");
  StudyReport report{.title = "Density & tin",
                     .note = "\"First\" casting",
                     .sections = {{.name = "line",
                                   .title = "A <line>",
                                   .note = "by M & S",
                                   .page = page,
                                   .figures = {"<svg><title>one</title></svg>"},
                                   .command = "fit 'a<b'"},
                                  {.name = "bare", .title = "Bare", .page = {.title = "c"}}},
                     .sources = {{.file = "tin & lead.csv", .sha256 = "0123abcd"}},
                     .repeat = "report & again"};
  const std::string html = study_html(report);
  std::size_t at = 0;
  for (const char* wanted : {"<title>Density &amp; tin</title>", "&quot;First&quot; casting", "The slope is &lt;2&gt;.",
                             "id=\"line\"", "A &lt;line&gt;", "by M &amp; S", "<svg><title>one</title></svg>",
                             "fit 'a&lt;b'", "id=\"bare\"", "tin &amp; lead.csv", "0123abcd", "report &amp; again"}) {
    const std::size_t found = html.find(wanted, at);
    ASSERT_NE(found, std::string::npos) << wanted;
    at = found;
  }
  for (const char* none : {"<script", "http://", "https://", "src=", "@import"}) EXPECT_FALSE(has(html, none));
  report.sources.clear();
  report.repeat.clear();
  const std::string less = study_html(report);
  EXPECT_FALSE(has(less, "0123abcd"));
  EXPECT_LT(less.size(), html.size());
}

TEST(CensoredPage, ShowsQuantilesAndOtherTreatments) {
  const Table table = Table::from_columns({{"life", "h", {120, 190, 260, 310, 340, 420, 500, 510}}});
  const CensoredRows rows = censored_rows(table, {.response = "life"});
  const CensoredFit made = fit_censored(Model::written("life = scale"), rows, {.distribution = Distribution::weibull});
  const CensoredResults results = censored_results(made, std::vector{0.01, 0.5}, std::vector{Vector(), Vector()}, 0.95);
  const Page page = censored_page(results);
  EXPECT_EQ(cell(page, "Parameters", "scale", "value"),
            with_uncertainty(results.parameters[0].value, results.parameters[0].standard_uncertainty));
  for (const ParameterInterval& p : results.parameters) {
    EXPECT_EQ(cell(page, "Parameters", p.name, "standard uncertainty"), rounded(p.standard_uncertainty, 2));
    EXPECT_EQ(cell(page, "Parameters", p.name, "95 % profile interval"),
              interval_text(p.low, p.high, p.standard_uncertainty));
  }
  // Of a Weibull distribution half lie below scale ln(2)^(1/shape).
  const double median = results.parameters[0].value * std::pow(std::log(2.0), 1 / results.parameters[1].value);
  const auto& quantiles = table_in(page, "Quantiles").rows;
  const auto half = std::find_if(quantiles.begin(), quantiles.end(), [](const auto& row) { return row[0] == "50 %"; });
  ASSERT_NE(half, quantiles.end());
  EXPECT_EQ((*half)[1], "50 %");
  EXPECT_NEAR(std::stod((*half)[2]), median, 0.5);
  EXPECT_EQ(page.subject, "fitted to 8 rows of the table, all measured");
  // The distributions, each behind the best by its AICc.
  ASSERT_GT(results.distributions.size(), 1u);
  const auto& ranks = table_in(page, "Other distributions").rows;
  ASSERT_EQ(ranks.size(), results.distributions.size());
  for (std::size_t i = 0; i < ranks.size(); ++i) {
    const DistributionRank& d = results.distributions[i];
    EXPECT_EQ(ranks[i][1], fmt::format("{:.2f}", d.log_likelihood));
    EXPECT_EQ(ranks[i][2], fmt::format("{:.2f}", d.aicc));
    EXPECT_EQ(ranks[i][3], fmt::format("{:.2f}", d.aicc - results.distributions[0].aicc));
  }
  // What lies within the measured shares is not based on the form of the distribution alone; one distribution is no
  // choice, two are.
  CensoredResults within = results;
  std::erase_if(within.quantiles, [&](const CensoredQuantile& q) { return q.share < 0.2 || q.share > 0.8; });
  ASSERT_FALSE(within.quantiles.empty());
  const std::string based = "quantiles beyond are based on the form of the distribution alone";
  EXPECT_TRUE(has(sentences(page), based));
  EXPECT_FALSE(has(sentences(censored_page(within)), based));
  within.distributions.resize(2);
  EXPECT_EQ(table_in(censored_page(within), "Other distributions").rows.size(), 2u);
  within.distributions.resize(1);
  EXPECT_FALSE(has(text_of(censored_page(within)), "Other distributions"));
  const std::vector<double> quality = {made.log_likelihood, made.aic, made.aicc, made.bic};
  for (std::size_t i = 0; i < quality.size(); ++i)
    EXPECT_EQ(table_in(page, "Quality").rows[i][1], fmt::format("{:.2f}", quality[i]));

  std::vector<CensoredCandidate> candidates;
  for (const Distribution distribution : {Distribution::normal, Distribution::weibull})
    candidates.push_back({"level", fit_censored(Model::written("life = scale"), rows, {.distribution = distribution})});
  const CensoredComparison comparison{.ranked = ranked_by_aicc(std::move(candidates)), .failed = {{"bad", "no"}}};
  const Page ranked = censored_comparison_page(comparison);
  EXPECT_EQ(number(ranked, 0, "aicc"), comparison.ranked[0].fit.aicc);
  EXPECT_EQ(number(ranked, 1, "difference"), comparison.ranked[1].fit.aicc - comparison.ranked[0].fit.aicc);
  EXPECT_TRUE(has(text_of(ranked), "has the smallest AICc."));
  EXPECT_TRUE(has(text_of(ranked), "bad: no."));
  // Within 2 of the best: about equally well supported.
  for (const double difference : {1.9, 2.0, 2.5}) {
    CensoredComparison near = comparison;
    near.ranked[1].difference = difference;
    EXPECT_EQ(test::says(censored_comparison_page(near), "Within 2 of it, and about equally well supported: level ("),
              difference < 2);
  }
}

TEST(CensoredPage, CountsLimitsBesideWhatWasMeasured) {
  std::istringstream lives("life (h)\n120\n190\n260\n310\n>400\n>400\n<100\n");
  const CensoredRows rows = censored_rows(read_csv(lives, "lives.csv"), {.response = "life"});
  const CensoredComparison alone{
      .ranked = ranked_by_aicc({{"level", fit_censored(Model::written("life = scale"), rows, {})}}), .failed = {}};
  const Page page = censored_comparison_page(alone);
  EXPECT_TRUE(has(page.subject, "4 measured, 3 with a limit"));
}

// Which parameter the other treatments would change most, and which way.
TEST(CensoredPage, SaysWhichWayOtherTreatmentsErr) {
  const auto says = [](const std::string& limits, const std::string& words) {
    std::istringstream text("life\n260\n310\n340\n420\n500\n" + limits);
    const CensoredRows rows = censored_rows(read_csv(text, "lives.csv"), {.response = "life"});
    const CensoredResults results = censored_results(fit_censored(Model::written("life = a"), rows, {}), {}, {}, 0.95);
    const auto& r = results.parameters;
    const auto most = [&](const Vector& values) {
      const double of_level = (values[0] - r[0].value) / r[0].standard_uncertainty;
      const double of_scatter = (values[1] - r[1].value) / r[1].standard_uncertainty;
      const bool level = std::abs(of_level) > std::abs(of_scatter);
      const double off = level ? of_level : of_scatter;
      return fmt::format("would make {} {} by {} standard uncertainties", level ? r[0].name : r[1].name,
                         off > 0 ? "larger" : "smaller", rounded(std::abs(off), 2));
    };
    const std::string said = sentences(censored_page(results));
    EXPECT_TRUE(has(said, "Leaving them out " + most(results.otherwise.left_out)));
    EXPECT_TRUE(has(said, "taking the limits as measured values " + most(results.otherwise.as_measured)));
    EXPECT_TRUE(has(said, "Leaving them out would make " + words));
    const auto& o = results.otherwise;
    EXPECT_EQ(table_in(censored_page(results), "What the limits tell").rows,
              (std::vector<std::vector<std::string>>{
                  {"count as limits", with_uncertainty(r[0].value, r[0].standard_uncertainty),
                   with_uncertainty(r[1].value, r[1].standard_uncertainty)},
                  {"left out", rounded(o.left_out[0], 4), rounded(o.left_out[1], 4)},
                  {"taken as measured", rounded(o.as_measured[0], 4), rounded(o.as_measured[1], 4)}}));
  };
  says(">500\n>500\n>500\n", "a smaller");
  says("<260\n<260\n<260\n", "a larger");
}

// Through the origin the median there is 0 for certain: it has no interval, and other shares have one.
TEST(CensoredPage, GivesNoIntervalOfACertainQuantile) {
  const Table table = Table::from_columns({{"x", "", {1, 2, 3, 4, 5}}, {"y", "mm", {2.1, 3.8, 6.2, 7.9, 10.1}}});
  const CensoredRows rows = censored_rows(table, {.response = "y", .predictors = {"x"}});
  const CensoredFit made = fit_censored(Model::written("y = b*x"), rows, {.distribution = Distribution::normal});
  const CensoredResults results = censored_results(made, std::vector{0.5, 0.9}, std::vector{Vector{0}}, 0.95);
  ASSERT_EQ(results.quantiles.size(), 2u);
  EXPECT_EQ(results.quantiles[0].value, 0);
  EXPECT_EQ(results.quantiles[0].standard_uncertainty, 0);
  EXPECT_TRUE(std::isnan(results.quantiles[0].interval.low));
  EXPECT_TRUE(std::isnan(results.quantiles[0].interval.high));
  EXPECT_LT(results.quantiles[1].interval.low, results.quantiles[1].value);
  EXPECT_GT(results.quantiles[1].interval.high, results.quantiles[1].value);
}

// Four rows have an AICc for a level and its scatter, and none for a line.
TEST(CensoredPage, PutsCandidatesWithoutAiccLast) {
  const Table four = Table::from_columns({{"x", "", {1, 2, 3, 4}}, {"y", "", {2.1, 1.9, 2.2, 2.0}}});
  const CensoredRows rows = censored_rows(four, {.response = "y", .predictors = {"x"}});
  for (const std::vector<std::string>& order :
       {std::vector<std::string>{"line", "level", "root"}, {"level", "root", "line"}, {"root", "line", "level"}}) {
    std::vector<CensoredCandidate> candidates;
    for (const std::string& name : order) {
      const char* text = name == "line" ? "y = a + b*x" : name == "root" ? "y = a + b*sqrt(x)" : "y = a";
      candidates.push_back({name, fit_censored(Model::written(text), rows, {})});
    }
    const std::vector<CensoredCandidate> ranked = ranked_by_aicc(std::move(candidates));
    EXPECT_EQ(ranked[0].name, "level");
    EXPECT_EQ(ranked[0].difference, 0);
    EXPECT_EQ(ranked[0].weight, 1);
    // These in the order in which they were given.
    const bool line_first =
        std::find(order.begin(), order.end(), "line") < std::find(order.begin(), order.end(), "root");
    EXPECT_EQ(ranked[1].name, line_first ? "line" : "root");
    for (std::size_t i = 1; i < 3; ++i) {
      EXPECT_TRUE(std::isnan(ranked[i].difference));
      EXPECT_TRUE(std::isnan(ranked[i].weight));
    }
  }
}

}  // namespace
}  // namespace truecurve
