// What a fit says of its terms, its uncertainties and its rounding: closed forms.

#include "../support.hpp"

namespace truecurve {
namespace {

const std::vector<double> five_x = {1, 2, 3, 4, 6};
const std::vector<double> five_y = {2.9, 5.2, 7.1, 8.7, 13.4};

// By hand: the slope explains Sxy²/Sxx of the total about the mean, which is all the constant's; the third the rest.
TEST(Fit, EffectsAreTheSumsOfSquaresOfItsTerms) {
  for (const char* text : {"y = a + b*x + c*x^2", "y = c*x^2 + b*x + a"}) {
    SCOPED_TRACE(text);
    const Fit parabola = fit(Model::written(text), Observations::of(five_x, five_y));
    const bool turned = text[4] == 'c';
    EXPECT_EQ(parabola.term_order(), turned ? (std::vector<int>{2, 1, 0}) : (std::vector<int>{0, 1, 2}));
    double sum_x = 0, sum_y = 0, sum_yy = 0;
    for (std::size_t i = 0; i < 5; ++i) {
      sum_x += five_x[i];
      sum_y += five_y[i];
      sum_yy += five_y[i] * five_y[i];
    }
    double sxx = 0, sxy = 0;
    for (std::size_t i = 0; i < 5; ++i) {
      sxx += (five_x[i] - sum_x / 5) * (five_x[i] - sum_x / 5);
      sxy += (five_x[i] - sum_x / 5) * five_y[i];
    }
    const auto square = [&](std::size_t term) { return std::pow(parabola.effects()[turned ? 2 - term : term], 2); };
    EXPECT_EQ(square(0), 0);
    EXPECT_NEAR(square(1), sxy * sxy / sxx, 1e-10);
    EXPECT_NEAR(square(1) + square(2), sum_yy - sum_y * sum_y / 5 - parabola.chi_squared(), 1e-10);
  }
}

// A stated percentage is one of the curve, whatever scale the fit works on; a number is what it was.
TEST(Fit, StatesTheUncertaintiesOfTheMeasuredResponse) {
  const Table table = Table::from_columns({{"x", "", five_x}, {"y", "", five_y}});
  const auto rows = [&](const Uncertainty& u) {
    return Observations(table, {.response = "y", .predictors = {"x"}, .response_uncertainty = u});
  };
  for (const char* text : {"y = a + b*x", "ln(y) = c + b*x"}) {
    SCOPED_TRACE(text);
    const Model model = Model::written(text);
    const Fit percent = fit(model, rows(Uncertainty::percent(4)));
    const Fit number = fit(model, rows(Uncertainty::number(0.25)));
    ASSERT_EQ(percent.response_uncertainties().size(), 5u);
    for (std::size_t i = 0; i < 5; ++i) {
      EXPECT_NEAR(percent.response_uncertainties()[i], 0.04 * percent.fitted_response()[i], 1e-12);
      EXPECT_NEAR(number.response_uncertainties()[i], 0.25, 1e-15);
      EXPECT_NEAR(number.response_residuals()[i], five_y[i] - number.fitted_response()[i], 1e-13);
    }
    EXPECT_TRUE(fit(model, rows(Uncertainty::none())).response_uncertainties().empty());
    EXPECT_FALSE(percent.has_fixed_weights() && !percent.model().is_transformed());
    EXPECT_EQ(number.has_fixed_weights(), !number.model().is_transformed());
  }
}

// The rounding of what made a residual, terms that cancel among it, tells nothing; a millionth of a millionth more
// does.
TEST(Fit, TellsRoundingFromScatter) {
  struct Case {
    double constant, slope, offset;  // offset: of the third row
    bool rounding;
  };
  for (const auto& [constant, slope, offset, rounding] :
       {Case{1, 2, 0, true}, Case{0.1, 0.3, 0, true}, Case{0.1, 0.3, 1e-9, false}, Case{1e9, 0.3, 1e-7, true},
        Case{1e9, 0.3, 1e-3, false}, Case{0, 1e-200, 0, true}, Case{0, 1e-200, 1e-208, false}}) {
    SCOPED_TRACE(::testing::PrintToString(std::vector<double>{constant, slope, offset}));
    std::vector<double> y;
    for (const double x : five_x) y.push_back(constant + slope * x);
    y[2] += offset;
    const Fit scatter = fit(shape_model("line"), Observations::of(five_x, y));
    EXPECT_EQ(scatter.residuals_are_rounding(), rounding);
    EXPECT_EQ(scatter.is_exact(), rounding);
    // Stated uncertainties say what the scatter can't.
    const Fit stated = fit(shape_model("line"), Observations::of(five_x, y, std::vector<double>(5, slope)));
    EXPECT_EQ(stated.residuals_are_rounding(), rounding);
    EXPECT_FALSE(stated.is_exact());
    EXPECT_EQ(stated.objective_name(), "chi-squared");
    // What can't be squared is weighed.
    EXPECT_EQ(scatter.objective_name(), slope < 1e-100 ? "weighted sum of squares" : "sum of squares");
  }
}

// What hangs on a limit says so; what does not, does not.
TEST(Fit, RemarksOnLimits) {
  const Model line = Model::written("y = a + b*x");
  const Observations rows = Observations::of(five_x, five_y);
  EXPECT_TRUE(limit_remarks(fit(line, rows, {.within = {{"b", 0, 100}}}).estimate()).empty());
  const Fit bound = fit(line, rows, {.within = {{"b", 3, 100}}});
  EXPECT_EQ(
      limit_remarks(bound.estimate()),
      (std::vector<std::string>{"b is held at its limit 3: uncertainties and intervals hold only if it truly lies "
                                "there."}));
}

}  // namespace
}  // namespace truecurve
