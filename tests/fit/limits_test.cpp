// Held parameters, limits, and curves at their starts.
#include <truecurve/io/record.hpp>

#include "../support.hpp"

namespace truecurve {
namespace {

using Eigen::Index;
using test::caught;

Observations decay(double scatter = 0.2) {
  RandomNumbers random(12);
  const VectorXd x = VectorXd::LinSpaced(25, 0, 10);
  VectorXd y(25);
  for (Index i = 0; i < 25; ++i) y[i] = 1 + 8 * std::exp(-x[i] / 3) + scatter * random.normal();
  return Observations::of(x, y);
}

// Holding a parameter is writing its value into the model; where what is left is linear it is solved so.
TEST(HeldParameter, IsWrittenIntoTheModel) {
  const Observations data = decay();
  const Fit held = fit(Model::written("y = c + a*exp(-x/tau)"), data, {.fixed = {{"tau", 3}}});
  const Fit written = fit(Model::written("y = c + a*exp(-x/3)"), data);
  EXPECT_TRUE(held.model().is_linear());
  EXPECT_EQ(held.model().all_parameters(), (std::vector<std::string>{"c", "a", "tau"}));
  EXPECT_EQ(held.chi_squared(), written.chi_squared());
  EXPECT_EQ(held.degrees_of_freedom(), 23);
  EXPECT_EQ(derive(held.estimate(), "q = a/tau", 0.95).value, held.parameter("a").value / 3);
  const auto record = nlohmann::json::parse(fit_record(held, 0.95));
  EXPECT_EQ(record["parameters"][2]["fixed"], true);
  EXPECT_EQ(record["covariance"].size(), 3u);
  EXPECT_EQ(record["covariance"][2][2], 0.0);
  const Estimate stored = read_fit_record(record.dump(), "record");
  EXPECT_EQ(as_eigen(stored.parameters()), as_eigen(held.estimate().parameters()));
  EXPECT_EQ(stored.model().fixed().size(), 1u);
  EXPECT_EQ(band_at(stored, VectorXd::Constant(1, 4), 0.95)[0].confidence.low,
            band_at(held.estimate(), VectorXd::Constant(1, 4), 0.95)[0].confidence.low);
  for (const std::vector<FixedParameter>& fixed : std::vector<std::vector<FixedParameter>>{
           {{"t", 1}}, {{"tau", not_a_number}}, {{"tau", 1}, {"tau", 2}}, {{"c", 1}, {"a", 1}, {"tau", 1}}}) {
    EXPECT_EQ(caught([&] { (void)fit(Model::written("y = c + a*exp(-x/tau)"), data, {.fixed = fixed}); }).code(),
              ErrorCode::bad_argument);
  }
}

// A limit that does not bind changes nothing; one that binds is where the parameter ends, and the others are those of
// the fit with it held there.
TEST(Limit, BindsOrDoesNot) {
  const Observations data = decay();
  for (const char* text : {"y = c + a*exp(-x/tau)", "y = c + a*x"}) {
    SCOPED_TRACE(text);
    const Model model = Model::written(text);
    const Fit free = fit(model, data);
    const Fit wide = fit(model, data, {.within = {{"a", -100, 100}}});
    EXPECT_TRUE(as_eigen(wide.estimate().parameters()).isApprox(as_eigen(free.estimate().parameters()), 1e-9));
    EXPECT_TRUE(as_eigen(wide.estimate().covariance()).isApprox(as_eigen(free.estimate().covariance()), 1e-7));
    EXPECT_TRUE(wide.warnings().empty());
    const double end = free.parameter("a").value - 1;
    const Fit bound = fit(model, data, {.within = {{"a", -infinity, end}}});
    const Fit held = fit(model, data, {.fixed = {{"a", end}}});
    EXPECT_TRUE(bound.solver().converged);
    EXPECT_EQ(bound.parameter("a").value, end);
    EXPECT_NEAR(bound.chi_squared() / held.chi_squared(), 1, 1e-10);
    EXPECT_NEAR(bound.parameter("c").value, held.parameter("c").value, 1e-7);
    EXPECT_NEAR(bound.parameter("c").standard_uncertainty / held.parameter("c").standard_uncertainty, 1, 1e-6);
    EXPECT_EQ(bound.degrees_of_freedom(), held.degrees_of_freedom());
    EXPECT_TRUE(std::isnan(bound.parameter("a").standard_uncertainty));
    // Everything that counts parameters counts those that the rows determine.
    EXPECT_NEAR(quality_of(bound).aicc, quality_of(held).aicc, 1e-9);
    const VarianceTable table = variance_table(bound);
    EXPECT_EQ(table.explained.degrees_of_freedom + table.residual.degrees_of_freedom, table.total.degrees_of_freedom);
    const VectorXd four = VectorXd::Constant(1, 4);
    EXPECT_NEAR(band_at(bound.estimate(), four, 0.95)[0].simultaneous.high,
                band_at(held.estimate(), four, 0.95)[0].simultaneous.high, 1e-6);
    EXPECT_TRUE(std::isnan(parameter_intervals(bound.estimate(), 0.95)[1].standard_uncertainty));
    ASSERT_FALSE(bound.warnings().empty());
    EXPECT_EQ(bound.warnings()[0].code, WarningCode::at_limit);
    const Estimate stored = read_fit_record(fit_record(bound, 0.95), "record");
    EXPECT_TRUE(stored.is_at_limit(1));
  }
  const Model model = Model::written("y = c + a*exp(-x/tau)");
  const auto code = [&](const FitOptions& options) { return caught([&] { (void)fit(model, data, options); }).code(); };
  EXPECT_EQ(code({.within = {{"tau", 5, 1}}}), ErrorCode::bad_argument);
  EXPECT_EQ(code({.within = {{"k", 0, 1}}}), ErrorCode::bad_argument);
  EXPECT_EQ(code({.starts = {{"tau", 9}}, .within = {{"tau", 0, 5}}}), ErrorCode::bad_argument);
}

// Within limits that leave the truth inside every start leads there; the search stays inside.
TEST(Limit, KeepsTheSearchInside) {
  const Fit inside = fit(Model::written("y = c + a*exp(-k*x) + 0/k"), decay(), {.within = {{"k", 0.05, 4}}});
  EXPECT_TRUE(inside.solver().converged);
  EXPECT_NEAR(inside.parameter("k").value, 1.0 / 3, 5 * inside.parameter("k").standard_uncertainty);
}

TEST(Preview, FitsNothingButWhatEntersLinearly) {
  const Observations data = decay();
  const Model model = Model::written("y = c + a*exp(-x/tau)");
  const Preview given = preview(model, data, {.starts = {{"c", 0}, {"a", 5}, {"tau", 2}}});
  EXPECT_EQ(as_eigen(given.estimate.parameters()), Eigen::Vector3d(0, 5, 2));
  double sum = 0;
  for (Index i = 0; i < 25; ++i) sum += std::pow(data.responses()[i] - 5 * std::exp(-data.predictor(0)[i] / 2), 2);
  EXPECT_NEAR(given.chi_squared / sum, 1, 1e-12);
  EXPECT_NEAR(given.residual_sd, std::sqrt(sum / 25), 1e-12);
  const Preview partly = preview(model, data, {.starts = {{"tau", 2}}});
  EXPECT_EQ(partly.origins, (std::vector{StartOrigin::solved, StartOrigin::solved, StartOrigin::given}));
  EXPECT_NEAR(partly.chi_squared / fit(model, data, {.fixed = {{"tau", 2}}}).chi_squared(), 1, 1e-10);
  const Preview proposed = preview(shape_model("newton-cooling"), data);
  EXPECT_EQ(proposed.origins[2], StartOrigin::proposed);
  EXPECT_GT(proposed.chi_squared, fit(model, data).chi_squared());
  EXPECT_TRUE(as_eigen(preview(model, data).estimate.parameters()).allFinite());
  EXPECT_EQ(caught([&] {
              (void)preview(Model::written("y = a*ln(x - s)"), data, {.starts = {{"s", 3}, {"a", 1}}});
            }).code(),
            ErrorCode::not_finite);
}

// Numbers whose squares leave the range of a double are fitted all the same; a parameter that does is refused by name.
TEST(Fit, TakesNumbersTooLargeToBeSquared) {
  const Eigen::Vector4d x(1, 2, 3, 4);
  const Eigen::Vector4d y(5, 3.1, 1.9, 1.3);
  for (const double size : {1e200, 1e-200}) {
    for (const char* text : {"y = a", "y = a + b*x", "y = a*exp(b*x)"}) {
      const Fit plain = fit(Model::written(text, {"x"}), Observations::of(x, y));
      const Fit far = fit(Model::written(text, {"x"}), Observations::of(x, size * y));
      EXPECT_NEAR(far.parameter("a").value / size / plain.parameter("a").value, 1, 1e-9) << text;
      EXPECT_NEAR(far.parameter("a").standard_uncertainty / size / plain.parameter("a").standard_uncertainty, 1, 1e-9);
      EXPECT_NEAR(quality_of(far).residual_sd / size / quality_of(plain).residual_sd, 1, 1e-9);
      EXPECT_NEAR(quality_of(far).r_squared, quality_of(plain).r_squared, 1e-9);
    }
    const Error error = caught([&] { (void)fit(shape_model("polynomial(2)"), Observations::of(size * x, y)); });
    EXPECT_EQ(error.code(), ErrorCode::not_finite);
    EXPECT_EQ(error.subject(), "b2");
  }
  // Straightened, where the scatter bends the reciprocal: the same share of it in every unit.
  for (const double size : {1e50, 1e-50}) {
    const Model model = Model::written("1/y = a + b*x", {"x"});
    const FitOptions options{.spread = Spread::of_power(3)};
    const Fit plain = fit(model, Observations::of(x, y), options);
    const Fit far = fit(model, Observations::of(x, size * y), options);
    for (const char* parameter : {"a", "b"}) {
      EXPECT_NEAR(far.parameter(parameter).value * size / plain.parameter(parameter).value, 1, 1e-9);
      EXPECT_NEAR(
          far.parameter(parameter).standard_uncertainty * size / plain.parameter(parameter).standard_uncertainty, 1,
          1e-9);
    }
  }
}

// Rows and parameters are counted as one says them.
TEST(Fit, CountsRowsAndParameters) {
  const Vector one = {1};
  const Vector two = {1, 2};
  const auto refused = [](const Model& model, const Vector& x) {
    return test::caught([&] { (void)fit(model, Observations::of(x, x)); }).message();
  };
  EXPECT_EQ(refused(shape_model("line"), one), "1 row can't determine 2 parameters");
  EXPECT_EQ(refused(shape_model("polynomial(2)"), two), "2 rows can't determine 3 parameters");
  const auto exactly = [](const char* text, const Vector& x) {
    return fit(Model::written(text, {"x"}), Observations::of(x, x)).warnings().back().text;
  };
  EXPECT_EQ(exactly("y = a", one).substr(0, 39), "1 row determines 1 parameter exactly: n");
  EXPECT_EQ(exactly("y = a + b*x", two).substr(0, 39), "2 rows determine 2 parameters exactly: ");
  // 63 parameters are taken, linear ones and others; 64 are not.
  for (const std::size_t count : {63U, 64U}) {
    Vector x(70), y(70);
    for (std::size_t i = 0; i < 70; ++i) x[i] = static_cast<double>(i), y[i] = std::sin(static_cast<double>(i * i));
    std::string linear = "y = a0";
    for (std::size_t k = 1; k < count; ++k) linear += fmt::format(" + a{}*cos({}*pi*(x + 0.5)/70)", k, k);
    if (count == 64) {
      EXPECT_EQ(test::caught([&] { (void)fit(Model::written(linear, {"x"}), Observations::of(x, y)); }).message(),
                "the model has 64 parameters; 63 are the limit");
      const std::string bent = linear + " + 0*exp(a1)";
      EXPECT_EQ(test::caught([&] { (void)fit(Model::written(bent, {"x"}), Observations::of(x, y)); }).message(),
                "the model has 64 parameters; 63 are the limit");
    } else {
      EXPECT_EQ(fit(Model::written(linear, {"x"}), Observations::of(x, y)).degrees_of_freedom(), 7);
    }
  }
}

// Large terms that nearly cancel round as large ones do, whichever sign they have.
TEST(Fit, IsExactWhereLargeTermsCancel) {
  for (const double side : {1.0, -1.0}) {
    Vector x(12), y(12);
    for (std::size_t i = 0; i < 12; ++i) {
      x[i] = side * (100000 - static_cast<double>(i) / 3);
      y[i] = 0.3 * x[i] * (x[i] - side * 100000) + 0.1 * x[i];
    }
    const Fit made = fit(Model::written("y = a*x + b*x^2", {"x"}), Observations::of(x, y));
    EXPECT_TRUE(made.is_exact()) << side;
    EXPECT_NEAR(made.parameter("b").value, 0.3, 1e-9);
  }
}

}  // namespace
}  // namespace truecurve
