// Every record says what its result is: each kind against closed forms and the library's own values.
#include <truecurve/io/calibration_record.hpp>
#include <truecurve/io/censored_record.hpp>
#include <truecurve/io/comparison_record.hpp>
#include <truecurve/io/csv.hpp>
#include <truecurve/io/penalised_record.hpp>
#include <truecurve/io/record.hpp>

#include "../support.hpp"

namespace truecurve {
namespace {

using Json = nlohmann::json;

// A number of a record, null as NaN.
double number(const Json& json) { return json.is_null() ? not_a_number : json.get<double>(); }

void expect_interval(const Json& json, double low, double high) {
  const double size = std::max({std::abs(low), std::abs(high), 1e-300});
  EXPECT_NEAR(number(json["low"]), low, 1e-12 * size);
  EXPECT_NEAR(number(json["high"]), high, 1e-12 * size);
}

Table named_rows(const std::string& text, const std::string& name = "rows.csv") {
  std::istringstream stream(text);
  return read_csv(stream, name);
}

const VectorXd places = test::vector({1, 2, 3, 4, 5, 6});
const VectorXd readings = test::vector({3.1, 4.9, 7.2, 8.8, 11.3, 12.7});

// The sums of a line with equal weights.
struct LineSums {
  double mean = 3.5, sxx = 17.5, b, a, rss, s;
  LineSums() {
    b = (places.array() - mean).matrix().dot(readings) / sxx;
    a = readings.mean() - b * mean;
    rss = (readings.array() - a - b * places.array()).square().sum();
    s = std::sqrt(rss / 4);
  }
};

Fit line() {
  std::string text = "t (min),T (degC),bad\n";
  for (int i = 0; i < 6; ++i) text += fmt::format("{},{},1\n", places[i], readings[i]);
  const Table table = named_rows(text + "7,99,1\n");
  return fit(shape_model("line", "t", "T"),
             Observations(table, {.response = "T", .predictors = {"t"}, .left_out = {{7, "mistyped"}}}));
}

TEST(Records, OfAFitHoldItsClosedForm) {
  const LineSums sums;
  Json json = Json::parse(fit_record(line(), 0.9, deduce(line().estimate(), 0.9, {"q = a/b"}, {"b = 2"})));
  EXPECT_EQ(json["record"], "truecurve.fit/1");
  EXPECT_EQ(json["model"]["text"], "T = a + b*t");
  EXPECT_EQ(json["data"]["source"], "rows.csv");
  EXPECT_EQ(json["data"]["rows_read"], 7);
  EXPECT_EQ(json["data"]["rows_used"], 6);
  EXPECT_EQ(json["data"]["left_out"][0]["row"], 7);
  EXPECT_EQ(json["data"]["left_out"][0]["reason"], "mistyped");
  EXPECT_EQ(json["data"]["response"]["unit"], "degC");
  EXPECT_EQ(json["data"]["predictors"][0]["low"], 1);
  EXPECT_EQ(json["data"]["predictors"][0]["high"], 6);
  EXPECT_EQ(json["uncertainty"], "scatter");
  const double ub = sums.s / std::sqrt(sums.sxx);
  const double ua = sums.s * std::sqrt(1.0 / 6 + sums.mean * sums.mean / sums.sxx);
  const double t = student_t_quantile(0.95, 4);
  Json& a = json["parameters"][0];
  Json& b = json["parameters"][1];
  EXPECT_NEAR(number(a["value"]), sums.a, 1e-12);
  EXPECT_NEAR(number(a["standard_uncertainty"]), ua, 1e-12);
  EXPECT_NEAR(number(b["value"]), sums.b, 1e-12);
  EXPECT_NEAR(number(b["standard_uncertainty"]), ub, 1e-12);
  EXPECT_EQ(b["interval"]["level"], 0.9);
  EXPECT_NEAR(number(b["interval"]["low"]), sums.b - t * ub, 1e-12);
  EXPECT_NEAR(number(b["interval"]["high"]), sums.b + t * ub, 1e-12);
  EXPECT_NEAR(number(b["t"]), sums.b / ub, 1e-9);
  EXPECT_NEAR(number(b["p"]) / (student_t_two_sided(sums.b / ub, 4)), 1, 1e-9);
  EXPECT_EQ(a["unit"], "degC");
  EXPECT_EQ(b["unit"], "degC/min");
  EXPECT_FALSE(b["fixed"].get<bool>());
  EXPECT_NEAR(number(json["covariance"][0][1]), -sums.mean * ub * ub, 1e-12);
  EXPECT_NEAR(number(json["correlation"][1][0]), -sums.mean * ub / ua, 1e-12);
  const double total = (readings.array() - readings.mean()).square().sum();
  EXPECT_NEAR(number(json["residual_sum_of_squares"]), sums.rss, 1e-12);
  EXPECT_NEAR(number(json["residual_sd"]), sums.s, 1e-12);
  EXPECT_NEAR(number(json["r_squared"]), 1 - sums.rss / total, 1e-12);
  EXPECT_NEAR(number(json["adjusted_r_squared"]), 1 - sums.rss / total * 5 / 4, 1e-12);
  EXPECT_NEAR(number(json["correlation_coefficient"]), std::sqrt(1 - sums.rss / total), 1e-12);
  const double log_likelihood = -3 * (std::log(2 * M_PI * sums.rss / 6) + 1);
  EXPECT_NEAR(number(json["log_likelihood"]), log_likelihood, 1e-9);
  EXPECT_NEAR(number(json["aic"]), 6 - 2 * log_likelihood, 1e-9);
  EXPECT_NEAR(number(json["aicc"]), 6 - 2 * log_likelihood + 2 * 3 * 4 / 2.0, 1e-9);
  EXPECT_NEAR(number(json["bic"]), 3 * std::log(6) - 2 * log_likelihood, 1e-9);
  EXPECT_NEAR(number(json["variance"]["explained"]["sum_of_squares"]), total - sums.rss, 1e-9);
  EXPECT_NEAR(number(json["variance"]["explained"]["f"]), (total - sums.rss) / (sums.rss / 4), 1e-6);
  EXPECT_EQ(json["variance"]["residual"]["degrees_of_freedom"], 4);
  EXPECT_NEAR(number(json["variance"]["total"]["sum_of_squares"]), total, 1e-9);
  EXPECT_TRUE(json["variance"]["replicates"].is_null()) << "no two rows at one place";
  // a/b to first order.
  Json& q = json["derived"][0];
  EXPECT_EQ(q["name"], "q");
  EXPECT_EQ(q["expression"], "a/b");
  EXPECT_NEAR(number(q["value"]), sums.a / sums.b, 1e-12);
  const double uq = std::sqrt(ua * ua / (sums.b * sums.b) + std::pow(sums.a * ub / (sums.b * sums.b), 2) +
                              2 * sums.a / std::pow(sums.b, 3) * sums.mean * ub * ub);
  EXPECT_NEAR(number(q["standard_uncertainty"]), uq, 1e-10);
  EXPECT_NEAR(number(json["hypotheses"][0]["difference"]), sums.b - 2, 1e-12);
  EXPECT_NEAR(number(json["hypotheses"][0]["p"]), student_t_two_sided(std::abs(sums.b - 2) / ub, 4), 1e-9);
  EXPECT_EQ(json["response_kind"], "measured");
  EXPECT_TRUE(json["solver"]["converged"].get<bool>());
}

TEST(Records, OfPredictionsSolutionsAndDerivationsHoldTheirPlaces) {
  const LineSums sums;
  const Estimate estimate = line().estimate();
  const double t = student_t_quantile(0.975, 4);
  const Vector at = {2.5, 8};
  Json predicted = Json::parse(prediction_record(estimate, std::span(&at, 1), band_at(estimate, at, 0.95), 0.95));
  EXPECT_EQ(predicted["record"], "truecurve.prediction/1");
  EXPECT_EQ(predicted["response"]["name"], "T");
  for (std::size_t i = 0; i < 2; ++i) {
    Json& point = predicted["points"][i];
    const double u = sums.s * std::sqrt(1.0 / 6 + std::pow(at[i] - sums.mean, 2) / sums.sxx);
    const double value = sums.a + sums.b * at[i];
    EXPECT_EQ(point["at"]["t"], at[i]);
    EXPECT_NEAR(number(point["value"]), value, 1e-12);
    EXPECT_NEAR(number(point["standard_uncertainty"]), u, 1e-12);
    expect_interval(point["confidence"], value - t * u, value + t * u);
    const double w = std::sqrt(2 * f_quantile(0.95, 2, 4));
    expect_interval(point["simultaneous"], value - w * u, value + w * u);
    const double new_reading = t * std::hypot(u, sums.s);
    expect_interval(point["prediction"], value - new_reading, value + new_reading);
    EXPECT_NEAR(number(point["outside_data"]), i == 0 ? 0 : 0.4, 1e-12) << "in ranges of the data";
  }
  // Of a line the mean over a range is the value in its middle... here each point's own value.
  const std::vector<MeanPoint> means_there = means(estimate, std::span(&at, 1), 0.95);
  EXPECT_EQ(number(predicted["points"][0]["mean"]), means_there[0].value);

  const SolveOptions options{.level = 0.9, .response_uncertainty = 0.1};
  const std::vector<Root> roots = solve(estimate, 8, options);
  Json solved = Json::parse(solution_record(estimate, 8, roots, options));
  EXPECT_EQ(solved["record"], "truecurve.solution/1");
  EXPECT_EQ(solved["for"]["name"], "T");
  EXPECT_EQ(solved["for"]["value"], 8);
  EXPECT_EQ(solved["for"]["standard_uncertainty"], 0.1);
  ASSERT_EQ(solved["roots"].size(), 1u);
  const double root = (8 - sums.a) / sums.b;
  EXPECT_NEAR(number(solved["roots"][0]["value"]), root, 1e-12);
  const double u_curve = sums.s * std::sqrt(1.0 / 6 + std::pow(root - sums.mean, 2) / sums.sxx);
  EXPECT_NEAR(number(solved["roots"][0]["standard_uncertainty"]), std::hypot(u_curve, 0.1) / sums.b, 1e-10);
  EXPECT_EQ(solved["roots"][0]["interval"]["level"], 0.9);
  EXPECT_TRUE(solved["roots"][0]["reached"].get<bool>());
  EXPECT_EQ(solved["roots"][0]["outside_data"], 0);

  Json derived = Json::parse(derivation_record(estimate, deduce(estimate, 0.95, {"d = a - b"}), 0.95));
  EXPECT_EQ(derived["record"], "truecurve.derivation/1");
  EXPECT_NEAR(number(derived["derived"][0]["value"]), sums.a - sums.b, 1e-12);
  expect_interval(derived["derived"][0]["interval"],
                  number(derived["derived"][0]["value"]) - t * number(derived["derived"][0]["standard_uncertainty"]),
                  number(derived["derived"][0]["value"]) + t * number(derived["derived"][0]["standard_uncertainty"]));

  const Model model = Model::written("y = a + b*x");
  const Observations rows = Observations::of(places, readings);
  Json guess = Json::parse(preview_record(preview(model, rows, {.starts = {{"a", 1}, {"b", 2}}}), rows));
  EXPECT_EQ(guess["record"], "truecurve.preview/1");
  EXPECT_EQ(guess["rows_used"], 6);
  EXPECT_EQ(guess["parameters"][1]["start"], 2);
  EXPECT_EQ(guess["parameters"][1]["origin"], "given");
  const double chi = (readings.array() - 1 - 2 * places.array()).square().sum();
  EXPECT_NEAR(number(guess["chi_squared"]), chi, 1e-12);
  EXPECT_NEAR(number(guess["root_mean_square"]), std::sqrt(chi / 6), 1e-12);
}

TEST(Records, OfComparisonsCarryWeightsThatAverage) {
  const Observations rows = Observations::of(places, readings);
  const Comparison comparison =
      compare(std::vector<Fit>{fit(shape_model("line"), rows), fit(Model::written("y = b*x"), rows)},
              {.names = {"line", "origin"}, .folds = 3, .seed = 7});
  const std::string text = comparison_record(comparison, 0.95);
  Json json = Json::parse(text);
  EXPECT_TRUE(is_comparison_record(text, "memory"));
  EXPECT_FALSE(is_comparison_record(fit_record(line(), 0.95), "memory"));
  EXPECT_EQ(json["ordered_by"], "AICc");
  EXPECT_EQ(json["cross_validation"]["folds"], 3);
  EXPECT_EQ(json["cross_validation"]["seed"], 7);
  ASSERT_EQ(json["candidates"].size(), 2u);
  double sum = 0;
  for (std::size_t i = 0; i < 2; ++i) {
    Json& c = json["candidates"][i];
    const Candidate& from = comparison.candidates[i];
    EXPECT_EQ(c["name"], from.name);
    EXPECT_EQ(number(c["aicc"]), from.aicc);
    EXPECT_NEAR(number(c["delta_aicc"]), from.aicc - comparison.candidates[0].aicc, 1e-12);
    EXPECT_NEAR(number(c["weight"]) / number(json["candidates"][0]["weight"]), std::exp(-number(c["delta_aicc"]) / 2),
                1e-12);
    EXPECT_EQ(number(c["bic"]), from.bic);
    EXPECT_EQ(number(c["residual_sd"]), from.residual_sd);
    EXPECT_EQ(number(c["leave_one_out_sd"]), from.leave_one_out.size.root_mean_square);
    EXPECT_EQ(number(c["cross_validation_sd"]), from.cross_validation.root_mean_square);
    EXPECT_EQ(number(c["fit"]["aicc"]), from.aicc);
    sum += number(c["weight"]);
  }
  EXPECT_NEAR(sum, 1, 1e-12);
  // Nested: F of the rise of the sum of squares.
  const LineSums sums;
  const double through =
      (readings.array() - places.dot(readings) / places.squaredNorm() * places.array()).square().sum();
  ASSERT_EQ(json["nested_tests"].size(), 1u);
  EXPECT_EQ(json["nested_tests"][0]["smaller"], "origin");
  EXPECT_EQ(json["nested_tests"][0]["larger"], "line");
  EXPECT_NEAR(number(json["nested_tests"][0]["statistic"]), (through - sums.rss) / (sums.rss / 4), 1e-8);
  EXPECT_EQ(json["nested_tests"][0]["added_parameters"], 1);
  EXPECT_EQ(json["suggestion"]["name"], comparison.suggestion.name);

  const std::vector<WeightedEstimate> curves = read_comparison_record(text, "memory");
  ASSERT_EQ(curves.size(), 2u);
  for (const WeightedEstimate& c : curves) EXPECT_EQ(c.is_suggested, c.name == comparison.suggestion.name);
  const Vector at = {4};
  Json averaged = Json::parse(
      averaged_prediction_record(curves, std::span(&at, 1), averaged_band(curves, std::span(&at, 1), 0.95), 0.95));
  double value = 0, between = 0;
  for (const WeightedEstimate& c : curves) value += c.weight * band_at(c.estimate, at, 0.95)[0].value;
  for (const WeightedEstimate& c : curves)
    between += c.weight * std::pow(band_at(c.estimate, at, 0.95)[0].value - value, 2);
  EXPECT_NEAR(number(averaged["points"][0]["value"]), value, 1e-12);
  EXPECT_NEAR(number(averaged["points"][0]["between"]), std::sqrt(between), 1e-12);
  EXPECT_EQ(averaged["averaged"][0]["suggested"], curves[0].is_suggested);
  EXPECT_EQ(averaged["points"][0]["values"].size(), 2u);
  for (const auto& [key, wrong] : {std::pair{"/candidates/0/weight", -1.0}, {"/candidates/0/weight", 2.0}}) {
    Json changed = json;
    changed[Json::json_pointer(key)] = wrong;
    EXPECT_EQ(test::caught([&] { (void)read_comparison_record(changed.dump(), "memory"); }).code(),
              ErrorCode::bad_record);
  }
}

TEST(Records, OfCalibrationsAndWhatIsReadFromThem) {
  const Table table = named_rows("c (mg/g),I (kcps)\n0,1.8\n0,2.0\n1,8.1\n1,8.3\n2,14.4\n2,14.7\n4,27.2\n4,26.8\n");
  const ReadingColumns columns{.amount = "c", .signals = {"I"}};
  const Calibration made = calibrate(readings_of(table, columns), {.level = 0.9, .limits = {.simulations = 20}});
  const std::string text = calibration_record(made, columns, "2026-01-05");
  Json json = Json::parse(text);
  EXPECT_EQ(json["day"], "2026-01-05");
  EXPECT_EQ(json["amount"]["unit"], "mg/g");
  EXPECT_EQ(json["data"]["standards"], 8);
  EXPECT_EQ(json["treatment"]["level"], 0.9);
  ASSERT_EQ(json["levels"].size(), 4u);
  EXPECT_NEAR(number(json["levels"][1]["mean"]), 8.2, 1e-12);
  EXPECT_NEAR(number(json["levels"][1]["sd"]), 0.2 / std::sqrt(2), 1e-12);
  EXPECT_EQ(json["equal_scatter"]["suggestion"], made.suggestion.text());
  const StoredCalibration stored = read_calibration_record(text, "memory");
  EXPECT_EQ(stored.day, "2026-01-05");
  const Readings unknown = readings_of(named_rows("s,I\nA,10.1\nA,10.4\n", "unknown.csv"),
                                       {.signals = {"I"}, .sample = "s", .otherwise = ReadingKind::sample});
  const Quantities read = quantify(stored.curve, unknown);
  Json found = Json::parse(quantities_record(read, stored, unknown));
  EXPECT_EQ(found["record"], "truecurve.quantities/1");
  EXPECT_EQ(found["data"]["source"], "unknown.csv");
  EXPECT_EQ(found["calibration_day"], "2026-01-05");
  ASSERT_EQ(found["unknowns"].size(), 1u);
  Json& first = found["unknowns"][0];
  EXPECT_EQ(first["sample"], "A");
  EXPECT_EQ(first["rows"], Json({1, 2}));
  EXPECT_EQ(first["readings"], Json({10.1, 10.4}));
  // x = (y - a)/b, u² = (s²/m + s²(1/n + (x - xm)²/Sxx))/b².
  const double a = made.fit.parameter("a").value;
  const double b = made.fit.parameter("b").value;
  const double x = (10.25 - a) / b;
  EXPECT_NEAR(number(first["amount"]), x, 1e-12);
  const double s = std::sqrt(made.chi_squared / 6);
  const double spread = 1.0 / 8 + std::pow(x - 1.75, 2) / 17.5;
  EXPECT_NEAR(number(first["budget"]["readings"]), s / std::sqrt(2) / b, 1e-10);
  EXPECT_NEAR(number(first["budget"]["curve"]), s * std::sqrt(spread) / b, 1e-10);
  EXPECT_NEAR(number(first["standard_uncertainty"]), s * std::sqrt(0.5 + spread) / b, 1e-10);
  EXPECT_EQ(first["interval"]["level"], 0.9);
  EXPECT_NEAR(number(first["sd"]), 0.3 / std::sqrt(2), 1e-12);
  EXPECT_EQ(first["flag"], name(read.unknowns[0].flag));

  EXPECT_TRUE(json["suspicious"].empty());
  // A reading that its replicates leave alone, in one of two columns, and the line without it.
  const Table wide =
      named_rows("c,I1,I2\n1,8.0,8.1\n2,14.5,14.6\n3,21.1,21.0\n4,27.4,30.1\n5,33.9,33.8\n6,40.3,40.4\n");
  const ReadingColumns replicates{.amount = "c", .signals = {"I1", "I2"}};
  const Calibration far = calibrate(readings_of(wide, replicates), {.limits = {.simulations = 0}});
  ASSERT_EQ(far.suspicious.size(), 1u);
  const Json listed = Json::parse(calibration_record(far, replicates, ""))["suspicious"];
  ASSERT_EQ(listed.size(), 1u);
  EXPECT_EQ(listed[0]["test"], "Cochran");
  EXPECT_EQ(listed[0]["level"], 4);
  EXPECT_EQ(listed[0]["row"], 4);
  EXPECT_EQ(listed[0]["column"], "I2");
  EXPECT_EQ(listed[0]["signal"], 30.1);
  EXPECT_EQ(listed[0]["grade"], "outlier");
  // C = s² of the level over the sum of all: 2.7² over 2.7² and five times 0.1².
  EXPECT_NEAR(number(listed[0]["statistic"]), 7.29 / (7.29 + 5 * 0.01), 1e-9);
  EXPECT_EQ(number(listed[0]["p"]), far.suspicious[0].p);
  EXPECT_EQ(number(listed[0]["family_p"]), far.suspicious[0].family_p);
  const Fit rest =
      fit(shape_model("line"), Observations::of({1, 1, 2, 2, 3, 3, 4, 5, 5, 6, 6},
                                                {8.0, 8.1, 14.5, 14.6, 21.1, 21.0, 27.4, 33.9, 33.8, 40.3, 40.4}));
  EXPECT_NEAR(number(listed[0]["slope_without"]), rest.parameter("b").value, 1e-10);
  EXPECT_NEAR(number(listed[0]["intercept_without"]), rest.parameter("a").value, 1e-10);

  const Readings added = readings_of(named_rows("c (mg/g),I\n0,4.0\n1,6.1\n2,7.9\n3,10.0\n"), columns);
  const auto additions = standard_additions(added);
  Json json_added = Json::parse(additions_record(additions, columns, ""));
  EXPECT_EQ(json_added["record"], "truecurve.additions/1");
  ASSERT_EQ(json_added["samples"].size(), 1u);
  // The line 4.03 + 1.98 x meets zero at -2.035.
  EXPECT_NEAR(number(json_added["samples"][0]["value"]), 4.03 / 1.98, 1e-12);
  expect_interval(json_added["samples"][0]["interval"], additions[0].interval.low, additions[0].interval.high);
  EXPECT_TRUE(json_added["samples"][0]["sample"].is_null());
}

TEST(Records, OfCensoredAndPenalisedEstimates) {
  const CensoredRows rows = censored_rows(named_rows("life (h)\n120\n190\n260\n>300\n>300\n"), {.response = "life"});
  const CensoredFit made =
      fit_censored(Model::written("life = scale"), rows, {.distribution = Distribution::lognormal});
  const CensoredResults results = censored_results(made, std::vector<double>{0.1}, {}, 0.95);
  Json json = Json::parse(censored_record(results));
  EXPECT_EQ(json["record"], "truecurve.censored/1");
  EXPECT_EQ(json["distribution"], "lognormal");
  EXPECT_EQ(json["measured"], 3);
  EXPECT_EQ(json["below"], 0);
  EXPECT_EQ(json["above"], 2);
  // The likelihood at the estimate, by hand, and the quantile of a lognormal distribution.
  const double scale = number(json["parameters"][0]["value"]);
  const double s = number(json["scatter"]["value"]);
  double log_likelihood = 2 * std::log(1 - normal_probability(std::log(300 / scale) / s));
  for (const double life : {120.0, 190.0, 260.0}) {
    const double z = std::log(life / scale) / s;
    log_likelihood += -z * z / 2 - std::log(std::sqrt(2 * M_PI) * s * life);
  }
  EXPECT_NEAR(number(json["log_likelihood"]), log_likelihood, 1e-9);
  EXPECT_NEAR(number(json["aic"]), 4 - 2 * log_likelihood, 1e-9);
  EXPECT_EQ(json["quantiles"][0]["share"], 0.1);
  EXPECT_NEAR(number(json["quantiles"][0]["value"]) / (scale * std::exp(s * normal_quantile(0.1))), 1, 1e-9);
  ASSERT_EQ(json["profile_intervals"].size(), 1u);
  EXPECT_EQ(json["profile_intervals"][0]["name"], "scale");
  EXPECT_EQ(json["covariance_with_ln_s"].size(), 2u);

  // A parameter that was held beside one that was not.
  const CensoredFit held = fit_censored(
      Model::written("life = a + b*x"),
      censored_rows(named_rows("x,life (h)\n1,120\n2,200\n3,260\n4,>300\n"), {.response = "life", .predictors = {"x"}}),
      {.fixed = {{"a", 50}}});
  json = Json::parse(censored_record(censored_results(held, {}, {}, 0.95)));
  ASSERT_EQ(json["parameters"].size(), 2u);
  EXPECT_EQ(json["parameters"][0]["name"], "a");
  EXPECT_EQ(json["parameters"][0]["fixed"], true);
  EXPECT_EQ(json["parameters"][0]["value"], 50);
  EXPECT_EQ(json["parameters"][1]["name"], "b");
  EXPECT_EQ(json["parameters"][1]["fixed"], false);
  EXPECT_EQ(number(json["parameters"][1]["value"]), held.estimate.parameters()[0]);
  EXPECT_EQ(number(json["parameters"][1]["standard_uncertainty"]), held.estimate.standard_uncertainties()[0]);

  const Observations events(
      named_rows("x,found,there\n1,0,5\n2,1,5\n3,4,5\n4,5,5\n"),
      {.response = "found", .predictors = {"x"}, .counting = {.kind = ResponseKind::events, .size_column = "there"}});
  const PenalisedEstimates found = penalised_estimates(Model::written("ln(found/(1-found)) = a + b*x"), events, 0.95);
  Json penalised = Json::parse(penalised_record(found, events, 0.95));
  EXPECT_EQ(penalised["record"], "truecurve.penalised/1");
  const double a = number(penalised["parameters"][0]["value"]);
  const double b = number(penalised["parameters"][1]["value"]);
  double rows_alone = 0;
  MatrixXd information = MatrixXd::Zero(2, 2);
  const double binomials[] = {0, std::log(5.0), std::log(5.0), 0};
  const double counts[] = {0, 1, 4, 5};
  for (int i = 0; i < 4; ++i) {
    const double p = 1 / (1 + std::exp(-a - b * (i + 1)));
    rows_alone += binomials[i] + counts[i] * std::log(p) + (5 - counts[i]) * std::log(1 - p);
    const Eigen::Vector2d at(1, i + 1);
    information += 5 * p * (1 - p) * at * at.transpose();
  }
  EXPECT_NEAR(number(penalised["log_likelihood"]), rows_alone, 1e-9);
  EXPECT_NEAR(number(penalised["penalty"]), std::log(information.determinant()) / 2, 1e-9);
  EXPECT_EQ(penalised["profile_intervals"].size(), 2u);
  EXPECT_TRUE(penalised["solver"]["converged"].get<bool>());
}

TEST(Records, OfCountedFitsAreFittedAgain) {
  const Observations rows(named_rows("t,N\n1,95\n2,80\n3,52\n4,49\n5,30\n"),
                          {.response = "N", .predictors = {"t"}, .counting = {.kind = ResponseKind::counts}});
  const Fit made = fit(Model::written("N = A*exp(-k*t)"), rows);
  const std::string text = fit_record(made, 0.95);
  const auto again = read_counted_fit(text, "memory");
  ASSERT_TRUE(again.has_value());
  EXPECT_TRUE(again->is_counted());
  for (std::size_t j = 0; j < 2; ++j)
    EXPECT_NEAR(again->estimate().parameters()[j] / made.estimate().parameters()[j], 1, 1e-9);
  EXPECT_EQ(again->observations().size(), 5u);
  EXPECT_FALSE(read_counted_fit(fit_record(line(), 0.95), "memory").has_value());
  Json json = Json::parse(text);
  EXPECT_EQ(json["response_kind"], "counts");
  double deviance = 0;
  for (std::size_t i = 0; i < 5; ++i) {
    const double n = rows.responses()[i];
    const double mean =
        made.estimate().parameters()[0] * std::exp(-made.estimate().parameters()[1] * (static_cast<double>(i) + 1));
    deviance += 2 * (n * std::log(n / mean) - (n - mean));
  }
  EXPECT_NEAR(number(json["deviance"]), deviance, 1e-9);
}

}  // namespace
}  // namespace truecurve
