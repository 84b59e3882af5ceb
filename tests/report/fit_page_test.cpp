// The sentences and tables of a fit's page that depend on how the scatter is known, what was counted, and how it was
// solved.
#include <truecurve/report/fit_page.hpp>

#include "../support.hpp"
#include "page_reading.hpp"

namespace truecurve {
namespace {

using test::cell;
using test::has_caution;
using test::line;
using test::says;
using test::sentences;
using test::table_in;

const std::vector<double> five_x = {1, 2, 3, 4, 6};
const std::vector<double> five_y = {2.9, 5.2, 7.1, 8.7, 13.4};

Observations five(double u = 0) {
  return u == 0 ? Observations::of(five_x, five_y) : Observations::of(five_x, five_y, std::vector<double>(5, u));
}

TEST(FitSentences, SayWhatTheUncertaintiesRestOn) {
  const Model straight = shape_model("line");
  const Model logarithmic = Model::written("ln(y) = a + b*ln(x)");
  const auto growing = [](Spread spread) {
    FitOptions how;
    how.spread = spread;
    return how;
  };
  const double t = student_t_quantile(0.975, 3);
  const std::string by_t =
      fmt::format("; the intervals use Student's t with 3 degrees of freedom (coverage factor k = {:.3f}).", t);
  const auto of_percent = [](double percent) {
    return Observations(Table::from_columns({{"x", "", five_x}, {"y", "", five_y}}),
                        {.response = "y", .predictors = {"x"}, .response_uncertainty = Uncertainty::percent(percent)});
  };
  struct Case {
    Fit fit;
    std::string said;
  };
  const std::vector<Case> cases = {
      {fit(straight, five()), "estimated from the residuals, assuming equal scatter for all rows" + by_t},
      {fit(logarithmic, five()), "assuming equal scatter for all rows on the scale of ln(y)" + by_t},
      {fit(straight, five(0.2), {.uncertainty = UncertaintyBasis::scatter}),
       "the given uncertainties of y (given with the data) serve as relative weights" + by_t},
      {fit(straight, five(), growing(Spread::constant())), "assuming a scatter of y the same everywhere" + by_t},
      {fit(straight, five(), growing(Spread::proportional())), "assuming a scatter of y proportional to it" + by_t},
      {fit(straight, five(), growing(Spread::counts())),
       "assuming a scatter of y like that of counts, proportional to its square root" + by_t},
      {fit(straight, five(), growing(Spread::of_power(1.5))),
       "assuming a scatter of y proportional to its power 1.5" + by_t},
      {fit(straight, five(0.2)), fmt::format("propagated from the stated uncertainties of y (given with the data); the "
                                             "intervals use the normal distribution "
                                             "(coverage factor k = {:.3f}).\n",
                                             normal_quantile(0.975))},
      {fit(straight, of_percent(16)), " With relative uncertainties of 16 % the intervals are approximate."},
      {fit(straight, Observations::of({1, 2}, {3.0, 5.1})), "no degree of freedom is left, so they cannot be given."},
      {fit(straight, Observations::of({1, 2, 3}, {3.0, 5.0, 7.0})), "The curve passes through every row to rounding"},
  };
  for (const Case& c : cases) {
    const std::string text = sentences(fit_page(c.fit));
    EXPECT_TRUE(has(text, c.said)) << text << "\nwanted: " << c.said;
  }
  EXPECT_FALSE(has(sentences(fit_page(cases[7].fit)), "relative uncertainties"));
  EXPECT_TRUE(says(fit_page(fit(straight, of_percent(15))), "With relative uncertainties of 15 %"));
  // A scatter of few degrees of freedom is poorly known; of none there is no scatter.
  const auto known_poorly = [&](const std::vector<double>& x, const std::vector<double>& y) {
    return has_caution(fit_page(fit(straight, Observations::of(x, y))), "the scatter itself is poorly known");
  };
  EXPECT_FALSE(known_poorly({1, 2}, {3.0, 5.1}));
  EXPECT_TRUE(known_poorly({1, 2, 3}, {3.0, 5.1, 6.9}));
  EXPECT_TRUE(known_poorly({1, 2, 3, 4}, {3.0, 5.1, 6.9, 9.2}));
  EXPECT_FALSE(known_poorly({1, 2, 3, 4, 5}, {3.0, 5.1, 6.9, 9.2, 10.9}));
  EXPECT_FALSE(has(sentences(fit_page(fit(straight, of_percent(14)))), "relative uncertainties"));
}

// Where p is small, the scale may be taken from the scatter: by how much stands there.
TEST(FitSentences, AdviseTheBirgeRatio) {
  const double squares = fit(shape_model("line"), five()).chi_squared();
  for (const double p : {0.009, 0.011}) {
    const Fit made = fit(shape_model("line"), five(std::sqrt(squares / chi_squared_quantile(1 - p, 3))));
    EXPECT_EQ(
        has_caution(fit_page(made), fmt::format("every standard uncertainty is then multiplied by the Birge ratio {}.",
                                                rounded(std::sqrt(chi_squared_quantile(1 - p, 3) / 3), 3))),
        p < 0.01)
        << p;
  }
}

// On the fitted and on the measured scale, weighted or not, about the mean or zero.
TEST(FitTables, SayOnWhichScaleTheQualityIs) {
  const Fit logarithmic = fit(Model::written("ln(y) = a + b*ln(x)"), five());
  const Quality q = quality_of(logarithmic);
  const Page page = fit_page(logarithmic);
  using Cells = std::pair<std::string, std::string>;
  const auto& rows = table_in(page, "Goodness").rows;
  EXPECT_EQ(line(page, "Goodness", "residual standard deviation S"),
            (Cells{rounded(q.residual_sd, 4), "on the scale of ln(y)"}));
  EXPECT_EQ(line(page, "Goodness", "  on the measured scale"),
            (Cells{rounded(q.measured_scale.residual_sd, 4), "of y, unweighted"}));
  EXPECT_EQ(line(page, "Goodness", "R²"), (Cells{rounded(q.r_squared, 6), "on the scale of ln(y), about the mean"}));
  EXPECT_EQ(rows[4][0], "  on the measured scale");
  EXPECT_EQ(rows[4][1], rounded(q.measured_scale.r_squared, 6));
  EXPECT_EQ(rows[4][2], "of y, unweighted, about the mean");
  EXPECT_EQ(line(page, "Goodness", "log-likelihood"), (Cells{rounded(q.log_likelihood, 6), "of the measured y"}));
  double squares = 0, about_mean = 0;
  for (std::size_t i = 0; i < 5; ++i) {
    squares += std::pow(five_y[i] - logarithmic.fitted_response()[i], 2);
    about_mean += std::pow(five_y[i] - 37.3 / 5, 2);
  }
  EXPECT_NEAR(q.measured_scale.residual_sd, std::sqrt(squares / 3), 1e-12);
  EXPECT_NEAR(q.measured_scale.r_squared, 1 - squares / about_mean, 1e-12);

  const Fit through_zero = fit(Model::written("y = b*x"), five(0.2), {.uncertainty = UncertaintyBasis::scatter});
  const Page weighted = fit_page(through_zero);
  EXPECT_EQ(line(weighted, "Goodness", "residual standard deviation S").second, "unweighted");
  EXPECT_EQ(line(weighted, "Goodness", "R²").second, "about zero, weighted: the model has no constant term");
  EXPECT_EQ(line(weighted, "Goodness", "  on the measured scale").second, "of y, unweighted, about zero");
  EXPECT_EQ(line(fit_page(fit(Model::written("y = b*x"), five())), "Goodness", "R²").second,
            "about zero: the model has no constant term");
  const Page straight = fit_page(fit(shape_model("line"), five()));
  EXPECT_EQ(line(straight, "Goodness", "correlation coefficient r").first,
            rounded(quality_of(fit(shape_model("line"), five())).correlation_coefficient, 6));
  EXPECT_EQ(line(straight, "Goodness", "residual standard deviation S").second, "");
  EXPECT_EQ(line(straight, "Goodness", "AIC, AICc").second,
            rounded(quality_of(fit(shape_model("line"), five())).aicc, 6));
  const Fit four = fit(shape_model("line"), Observations::of({1, 2, 3, 4}, {2.9, 5.2, 7.1, 8.7}));
  EXPECT_EQ(line(fit_page(four), "Goodness", "AIC, AICc").second, "AICc needs more rows");
}

// Power by power, and what two or three parameters have to do with each other.
TEST(FitTables, ShowTermsAndCorrelations) {
  const Fit bent = fit(shape_model("polynomial(2)"), five());
  const Page page = fit_page(bent);
  const VarianceTable table = variance_table(bent);
  ASSERT_EQ(table.sequential.size(), 2U);
  for (const VarianceLine& term : table.sequential) {
    EXPECT_EQ(cell(page, "Variance", "  by " + term.source, "sum of squares"),
              fmt::format("{:.6g}", term.sum_of_squares));
    EXPECT_EQ(cell(page, "Variance", "  by " + term.source, "F"), fmt::format("{:.4g}", term.f));
    EXPECT_EQ(cell(page, "Variance", "  by " + term.source, "p"), probability_text(term.p));
  }
  EXPECT_EQ(cell(page, "Variance", "residual", "degrees of freedom"), "2");
  EXPECT_EQ(cell(page, "Variance", "total", "mean square"), "");
  const Matrix r = correlation(bent.estimate());
  const auto tables = [](const PageSection& section) {
    std::vector<PageTable> found;
    for (const Block& block : section.blocks) {
      if (const auto* one = std::get_if<PageTable>(&block)) found.push_back(*one);
    }
    return found;
  }(page.sections.front());
  ASSERT_EQ(tables.size(), 2U);
  const auto& names = bent.estimate().parameter_names();
  for (std::size_t i = 0; i < 3; ++i) {
    EXPECT_EQ(tables[1].headings[i + 1].text, names[i]);
    EXPECT_EQ(tables[1].rows[i][0], names[i]);
    for (std::size_t j = 0; j < 3; ++j)
      EXPECT_EQ(tables[1].rows[i][j + 1], j > i ? "" : fmt::format("{:.3f}", r(i, j)));
  }
  // Of a line: -mean(x)/sqrt(mean(x²)) = -3.2/sqrt(13.2).
  EXPECT_TRUE(has(sentences(fit_page(fit(shape_model("line"), five()))),
                  fmt::format("The correlation between a and b is {:.3f}.", -3.2 / std::sqrt(13.2))));
}

TEST(FitSentences, TellHowTheSearchEnded) {
  const Observations rows = Observations::of({0, 1, 2, 3, 4, 5, 6}, {20.2, 13.1, 9.2, 6.0, 4.2, 2.6, 1.9});
  const Fit made = fit(Model::written("y = a*exp(-k*x)"), rows);
  const auto said = [&made](double intrinsic, double effects, const std::vector<bool>& trusted = {}) {
    Trust trust;
    trust.curvature = {.intrinsic = intrinsic, .parameter_effects = effects};
    for (const bool is_trusted : trusted) {
      ProfileInterval profile;
      profile.symmetric_is_trusted = is_trusted;
      trust.profiles.push_back(profile);
    }
    return sentences(fit_page(made, {.trust = trust}));
  };
  EXPECT_TRUE(has(said(0.004, 0.2),
                  "intrinsic below 0.01, parameter effects 0.20. Below 0.3 symmetric intervals are adequate."));
  EXPECT_TRUE(has(said(0.006, 0.31),
                  "intrinsic 0.01, parameter effects 0.31. Above 0.3 symmetric intervals may be inaccurate."));
  EXPECT_TRUE(has(said(0.4, 123), "intrinsic 0.40, parameter effects 1.2e+02. Above 0.3"));
  EXPECT_TRUE(
      has(said(0.1, 0.5, {true, true}), "Above 0.3, yet the profiles show that the symmetric intervals are adequate."));
  EXPECT_TRUE(has(said(0.1, 0.5, {true, false}), "Above 0.3 symmetric intervals may be inaccurate."));
  EXPECT_FALSE(has(sentences(fit_page(made)), "Nonlinearity"));
  const std::string text = sentences(fit_page(made));
  EXPECT_TRUE(has(text, "Converged ("));
  EXPECT_EQ(text.find("starting points were tried") != std::string::npos, made.solver().descents > 2) << text;
  EXPECT_FALSE(has(sentences(fit_page(fit(shape_model("line"), rows))), "Converged"));
  // Two minima: the other one is told with what it misses.
  std::vector<double> y, x;
  for (int i = 0; i < 24; ++i) {
    x.push_back(0.25 * i);
    y.push_back(std::sin(2 * x.back()) + (i % 3 == 0 ? 0.03 : -0.02));
  }
  const Fit wave = fit(Model::written("y = sin(w*x)"), Observations::of(x, y));
  ASSERT_FALSE(wave.solver().other_minima.empty());
  const OtherMinimum& other = wave.solver().other_minima[0];
  const std::string of_wave = sentences(fit_page(wave));
  EXPECT_TRUE(has(of_wave, fmt::format("Another minimum, {} {:.5g} against {:.5g}: w = {:.5g}.", wave.objective_name(),
                                       other.chi_squared, wave.chi_squared(), other.parameters[0])));
  EXPECT_TRUE(has(of_wave, fmt::format(" {} starting points were tried; {} led to this minimum.",
                                       wave.solver().descents, wave.solver().met_best)));
}

// What was counted, among how many, against one mean for all, and by groups.
TEST(CountedFitPage, SaysWhatWasCountedAndWhatItTells) {
  const std::vector<double> x = {1, 2, 3, 4, 5, 6};
  const std::vector<double> counts = {212, 187, 166, 131, 122, 96};
  const auto total = 914.0;
  const Fit decay = fit(Model::written("ln(y) = a + b*x"),
                        Observations::counted(x, counts, std::vector<double>(6, 2), ResponseKind::counts));
  const CountedQuality q = counted_quality(decay);
  const Page page = fit_page(decay);
  double null_deviance = 0;
  for (const double n : counts) null_deviance += 2 * n * std::log(n / (total / 6));
  const double fall = null_deviance - q.deviance;
  const std::string text = sentences(page);
  EXPECT_TRUE(has(text, fmt::format("Against one mean for all rows the deviance falls by {} (chi-squared, 1 degree of "
                                    "freedom, p = {}): a dependence on x is detected.",
                                    rounded(fall, 4), probability_text(chi_squared_upper(fall, 1)))));
  EXPECT_TRUE(has(
      text,
      "y is a count, its exposure given with the data, and the curve is the mean count for one unit of exposure. "));
  EXPECT_TRUE(has(text,
                  "The parameters have the greatest likelihood (Poisson distribution). Standard uncertainties come "
                  "from the expected information."));
  EXPECT_TRUE(has(text, "no scatter beyond that of the distribution was detected"));
  using Cells = std::pair<std::string, std::string>;
  EXPECT_EQ(line(page, "Goodness", "counts in all"), (Cells{"914", "exposure 12"}));
  EXPECT_EQ(line(page, "Goodness", "rows n"), (Cells{"6", "2 parameters, 4 degrees of freedom"}));
  EXPECT_EQ(line(page, "Goodness", "deviance"),
            (Cells{rounded(q.deviance, 4), "p = " + probability_text(chi_squared_upper(q.deviance, 4))}));
  EXPECT_EQ(line(page, "Goodness", "  with one mean for all"), (Cells{rounded(null_deviance, 4), ""}));
  EXPECT_EQ(line(page, "Goodness", "dispersion").first, rounded(q.pearson_chi_squared / 4, 4));
  // Poisson's likelihood of the counts, each of twice the rate, and the criteria from it.
  double likelihood = 0;
  for (std::size_t i = 0; i < 6; ++i) {
    const double mean = 2 * std::exp(decay.parameter("a").value + decay.parameter("b").value * x[i]);
    likelihood += counts[i] * std::log(mean) - mean - std::lgamma(counts[i] + 1);
  }
  EXPECT_EQ(line(page, "Goodness", "log-likelihood"), (Cells{rounded(likelihood, 6), "with all constants"}));
  EXPECT_EQ(line(page, "Goodness", "AIC, AICc"),
            (Cells{rounded(4 - 2 * likelihood, 6), rounded(4 - 2 * likelihood + 12.0 / 3, 6)}));
  EXPECT_EQ(line(page, "Goodness", "BIC").first, rounded(2 * std::log(6) - 2 * likelihood, 6));
  EXPECT_EQ(line(page, "Goodness", "Pearson's chi-squared").first, rounded(q.pearson_chi_squared, 4));

  // Events among trials, which do not depend on x, and scatter more than they may.
  const Fit level =
      fit(Model::written("ln(y/(1 - y)) = a + b*x"),
          Observations::counted(x, {30, 12, 28, 12, 30, 14}, std::vector<double>(6, 40), ResponseKind::events));
  const std::string events = sentences(fit_page(level));
  EXPECT_TRUE(has(events, "Against one probability for all rows"));
  EXPECT_TRUE(has(events, "): no dependence on x detected."));
  EXPECT_TRUE(has(events, ": the data scatter more than the distribution explains, or the curve is unsuitable."));
  EXPECT_TRUE(has(events,
                  "'y' counts the events among the trials of its row (given with the data), and the curve is "
                  "their probability. "));
  EXPECT_EQ(line(fit_page(level), "Goodness", "events, trials"), (Cells{"126", "240"}));
  const Fit too_even =
      fit(Model::written("y = a + b*x"),
          Observations::counted(x, {100, 110, 120, 130, 140, 150}, std::vector<double>(6, 1), ResponseKind::counts));
  EXPECT_TRUE(has(sentences(fit_page(too_even)), ": the data scatter less than independent ones would."));
  // Both sides together: from 5 % on it is no more than the distribution's.
  for (const auto& [above, below] : {std::pair{0.018, 0.0245}, {0.0252, 0.0272}}) {
    double p = 0;
    std::vector<double> numbers(6);
    double off = 0;
    const auto made = [&] {
      for (std::size_t i = 0; i < 6; ++i) numbers[i] = std::round(1e6 + (i % 2 == 0 ? off : -off));
      return fit(Model::written("y = a + b*x"),
                 Observations::counted(x, numbers, std::vector<double>(6, 1), ResponseKind::counts));
    };
    for (; off < 3000 && !(p > above && p < below); off += 1) p = counted_quality(made()).pearson_p;
    off -= 1;
    ASSERT_TRUE(p > above && p < below) << p;
    EXPECT_EQ(says(fit_page(made()), "no scatter beyond that of the distribution was detected"), 2 * p >= 0.05) << p;
  }
  const Fit few = fit(Model::written("ln(y) = a + b*x"),
                      Observations::counted(x, {3, 1, 2, 0, 1, 0}, std::vector<double>(6, 1), ResponseKind::counts));
  EXPECT_TRUE(has(sentences(fit_page(few)), " Fewer than five counts are expected in too many rows for the deviance"));
  // With the scale from the dispersion: F, and the root of it stands there.
  const Fit scaled =
      fit(Model::written("ln(y/(1 - y)) = a + b*x"), level.observations(), {.uncertainty = UncertaintyBasis::scatter});
  const CountedQuality of_scaled = counted_quality(scaled);
  const std::string by_scale = sentences(fit_page(scaled));
  EXPECT_TRUE(has(by_scale, fmt::format("multiplied by {}, the root of the dispersion.",
                                        rounded(std::sqrt(of_scaled.dispersion), 3))));
  EXPECT_TRUE(
      has(by_scale, fmt::format(" (F = {}, p = ",
                                rounded((of_scaled.null_deviance - of_scaled.deviance) / of_scaled.dispersion, 4))));
  EXPECT_EQ(line(fit_page(scaled), "Goodness", "AIC, AICc").second, "not with an estimated dispersion");
}

// Ten rows make two groups, the smaller means first.
TEST(CountedFitPage, SetsObservedAgainstExpected) {
  const std::vector<double> x = {1, 2, 3, 4, 5, 6, 7, 8, 9, 10};
  const std::vector<double> counted = {38, 37, 33, 30, 26, 20, 17, 12, 8, 4};
  for (const ResponseKind kind : {ResponseKind::counts, ResponseKind::events}) {
    const bool events = kind == ResponseKind::events;
    const Fit made = fit(Model::written(events ? "ln(y/(1 - y)) = a + b*x" : "ln(y) = a + b*x"),
                         Observations::counted(x, counted, std::vector<double>(10, 40), kind));
    const PageTable groups = table_in(fit_page(made), "Observed against expected");
    ASSERT_EQ(groups.rows.size(), 2U);
    EXPECT_EQ(groups.headings[0].text, events ? "fitted probability" : "fitted mean");
    EXPECT_EQ(groups.headings[1].text, events ? "trials" : "exposure");
    EXPECT_EQ(groups.headings[2].text, events ? "events observed" : "counts observed");
    for (std::size_t g = 0; g < 2; ++g) {
      const std::size_t from = g == 0 ? 5 : 0;
      double expected = 0;
      for (std::size_t i = from; i < from + 5; ++i) expected += 40 * made.fitted_response()[i];
      EXPECT_EQ(groups.rows[g][0],
                rounded(made.fitted_response()[from + 4], 3) + " to " + rounded(made.fitted_response()[from], 3));
      EXPECT_EQ(groups.rows[g][1], "200");
      EXPECT_EQ(groups.rows[g][2], g == 0 ? "61" : "164");
      EXPECT_EQ(groups.rows[g][3], fmt::format("{:.2f}", expected));
    }
  }
}

}  // namespace
}  // namespace truecurve
