// Data that a laboratory has every day and textbooks never: without scatter, tied, rounded, constant, few, at the ends
// of the range of a double. Numbers that do not exist are absent, and no page shows what rounding left.

#include "support.hpp"

#include <regex>

namespace truecurve {
namespace {

using Eigen::Index;
using nlohmann::json;
using test::run_command;
using test::run_typed;

struct Rows {
  std::string name;
  std::vector<double> x, y;
};

std::string csv_of(const Rows& rows) {
  std::string text = "x,y\n";
  for (std::size_t i = 0; i < rows.x.size(); ++i) text += fmt::format("{},{}\n", rows.x[i], rows.y[i]);
  return text;
}

Fit line_of(const Rows& rows) {
  const Table table = Table::from_columns({{"x", "", rows.x}, {"y", "", rows.y}});
  return fit(shape_model("line"), Observations(table, {.response = "y", .predictors = {"x"}}));
}

// 320 tables: eight sizes, five designs, eight kinds of readings.
std::vector<Rows> sweep() {
  using Row = std::function<double(int)>;
  const std::vector<std::pair<std::string, std::function<double(int, int)>>> designs = {
      {"even", [](int i, int) { return i + 1; }},
      {"tied", [](int i, int) { return i / 2; }},
      {"same", [](int, int) { return 2; }},
      {"years", [](int i, int) { return 2000 + i; }},
      {"replicates", [](int i, int) { return i % 3; }}};
  RandomNumbers random(20'261'127);
  std::vector<Rows> tables;
  for (const int n : {1, 2, 3, 4, 5, 6, 8, 12}) {
    for (const auto& [design, place] : designs) {
      std::vector<double> x;
      for (int i = 0; i < n; ++i) x.push_back(place(i, n));
      const auto at = [&x](int i) { return x[static_cast<std::size_t>(i)]; };
      const std::vector<std::pair<std::string, Row>> readings = {
          {"constant", [](int) { return 5; }},
          {"zero", [](int) { return 0; }},
          {"exact", [&](int i) { return 2 * at(i); }},
          {"thirds", [&](int i) { return at(i) / 3; }},
          {"rounded", [&](int i) { return std::round(1 + 0.4 * at(i)); }},
          {"scattered", [&](int i) { return std::round(10 * (1 + 0.4 * at(i) + 0.3 * random.normal())) / 10; }},
          {"one off", [&](int i) { return 2 * at(i) + (i == n - 1 ? 0.3 : 0); }},
          {"zeros and ones", [&](int i) { return at(i) > at(n / 2) ? 1 : 0; }}};
      for (const auto& [kind, value] : readings) {
        Rows rows{fmt::format("{} {} {}", n, design, kind), x, {}};
        for (int i = 0; i < n; ++i) rows.y.push_back(value(i));
        tables.push_back(rows);
      }
    }
  }
  return tables;
}

// Every p in its place, and nothing that JSON can't hold.
void expect_sound(const json& value, const std::string& path) {
  if (value.is_object() || value.is_array()) {
    for (const auto& [key, child] : value.items()) expect_sound(child, path + "/" + key);
  } else if (value.is_number()) {
    const bool is_p = path.ends_with("/p") || path.ends_with("_p");
    if (is_p) EXPECT_TRUE(value >= 0 && value <= 1) << path << " " << value;
    if (path.ends_with("standard_uncertainty") || path.ends_with("_sd")) EXPECT_GE(value, 0) << path;
  }
}

TEST(Degenerate, TablesGetAnAnswerOrARefusal) {
  const std::vector<std::vector<std::string>> commands = {
      {"fit", "-", "line", "--x", "x", "--y", "y"},
      {"fit", "-", "polynomial(2)", "--x", "x", "--y", "y", "--u", "y=0.2"},
      {"fit", "-", "exponential", "--x", "x", "--y", "y"},
      {"fit", "-", "line", "--x", "x", "--y", "y", "--spread", "proportional"},
      {"fit", "-", "ln(y) = a + b*x"},
      {"compare", "-", "y=a", "line", "polynomial(2)", "--x", "x", "--y", "y"},
      {"look", "-"},
      {"calibrate", "-", "--x", "x", "--y", "y", "--simulations", "10"}};
  const std::regex no_number("(^|[^a-z])-?(nan|inf)([^a-z]|$)");
  const std::regex minus_rounding("-\\d[\\d.]*e-(1[6-9]|[2-9]\\d)");
  const std::vector<Rows> tables = sweep();
  ASSERT_GE(tables.size(), 200u);
  const std::size_t step = test::is_sanitized() ? 13 : 1;
  for (std::size_t i = 0; i < tables.size(); i += step) {
    const std::string input = csv_of(tables[i]);
    // The command in turn, so that each meets each kind of table.
    const auto& command = commands[(i / step + i / 64) % commands.size()];
    SCOPED_TRACE(tables[i].name + ": " + command[0] + " " + command[2 % command.size()]);
    const auto result = run_command(command, input);
    EXPECT_TRUE(result.code == 0 || result.code == 2 || result.code == 3 || result.code == 4) << result.code;
    EXPECT_EQ(result.code == 0, result.error.find("truecurve: ") == std::string::npos || result.code == 0);
    if (result.code != 0) EXPECT_GE(std::count(result.error.begin(), result.error.end(), '\n'), 1) << result.error;
    EXPECT_FALSE(std::regex_search(result.out + result.error, no_number)) << result.out << result.error;
    EXPECT_FALSE(std::regex_search(result.out, minus_rounding)) << result.out;
    if (result.code != 0 || command[0] == "look") continue;
    std::vector<std::string> as_record = command;
    as_record.insert(as_record.end(), {"--format", "json"});
    expect_sound(json::parse(run_command(as_record, input).out), "");
  }
}

// Standards and blanks without scatter, too few or rounded, whatever is made of them: an answer or a refusal in the
// words of the laboratory, and again where an unknown is read through the record.
TEST(Degenerate, CalibrationsGetAnAnswerOrARefusal) {
  const std::regex inside("(^|[^a-z])-?(nan|inf)([^a-z]|$)|internal fault|blank_offset|is_standard");
  const test::TemporaryFolder folder;
  const std::string record = folder / "made.json";
  const struct {
    const char *name, *standards;
    std::vector<std::string> blanks;
  } tables[] = {
      {"exact", "1,3,standard\n2,5,standard\n3,7,standard\n4,9,standard\n", {"0.5", "1", "1.5"}},
      {"exact, blanks alike", "1,3,standard\n1,3,standard\n2,5,standard\n3,7,standard\n", {"1", "1"}},
      {"blanks alike", "1,3.02,standard\n2,4.97,standard\n3,7.1,standard\n4,8.95,standard\n", {"1", "1", "1"}},
      {"at zero",
       "0,1,standard\n0,1.1,standard\n1,3.02,standard\n2,4.97,standard\n4,8.95,standard\n",
       {"1", "1.1", "0.9"}},
      {"three", "1,3,standard\n2,5.1,standard\n3,7,standard\n", {"1", "1.2"}},
      {"rounded",
       "0,0,standard\n0,0,standard\n1,2,standard\n1,2,standard\n2,4,standard\n2,5,standard\n",
       {"0", "0", "1"}}};
  int place = 0;
  for (const auto& [name, standards, blanks] : tables) {
    std::string input = std::string("c,y,kind\n") + standards;
    for (const std::string& blank : blanks) input += "," + blank + ",blank\n";
    for (const char* use : {"none", "subtract"}) {
      for (const char* spread : {"constant", "proportional", "both"}) {
        for (const char* model : {"line", "y = b*c", "y = a*c^n", "y = a*c/(K + c)"}) {
          if (test::is_sanitized() && ++place % 7 != 0) continue;
          SCOPED_TRACE(fmt::format("{}: {} {} {}", name, use, spread, model));
          std::filesystem::remove(record);
          const auto made =
              run_command({"calibrate", "-", "--x", "c", "--y", "y", "--kind", "kind", "--blank", use, "--spread",
                           spread, "--model", model, "--simulations", "20", "--output", record},
                          input);
          EXPECT_TRUE(made.code == 0 || (made.code >= 2 && made.code <= 4)) << made.error;
          EXPECT_FALSE(std::regex_search(made.out + made.error, inside)) << made.out << made.error;
          if (made.code != 0) continue;
          const auto read = run_command({"quantify", record, "-"}, "sample,y\ngate,6\nrim,5.5\nsill,1\n");
          EXPECT_TRUE(read.code == 0 || (read.code >= 2 && read.code <= 4)) << read.error;
          EXPECT_FALSE(std::regex_search(read.out + read.error, inside)) << read.out << read.error;
        }
      }
    }
  }
}

// y = 2x to rounding: what is known is said, and nothing is tested.
TEST(Degenerate, FitsWithoutScatterHaveNoStatistics) {
  const std::string table = "x,y\n1,0.3333333333333333\n2,0.6666666666666666\n3,1\n4,1.3333333333333333\n";
  const json record = json::parse(run_typed("fit - line --x x --y y --format json", table).out);
  EXPECT_EQ(record["parameters"][0]["value"], 0);
  EXPECT_TRUE(record["parameters"][1]["p"].is_null());
  EXPECT_EQ(record["chi_squared"], 0);
  EXPECT_TRUE(record["checks"].empty());
  const json both = json::parse(run_typed("compare - y=a line --x x --y y --format json", table).out);
  for (const json& candidate : both["candidates"]) {
    if (candidate["name"] != "line") continue;
    EXPECT_EQ(candidate["leave_one_out_sd"], 0);
    EXPECT_TRUE(candidate["aicc"].is_null());
    EXPECT_TRUE(candidate["largest_residual"]["row"].is_null());
  }
  // Under stated uncertainties there is something to test, but no chi-squared of rounding.
  const Table stated = Table::from_columns({{"x", "", {1, 2, 3, 4}}, {"y", "", {0.1, 0.2, 0.3, 0.4}}});
  const Fit exact = fit(
      shape_model("line"),
      Observations(stated, {.response = "y", .predictors = {"x"}, .response_uncertainty = Uncertainty::number(0.01)}));
  EXPECT_EQ(exact.chi_squared(), 0);
  EXPECT_EQ(exact.estimate().parameters()[0], 0);
  EXPECT_NEAR(exact.estimate().standard_uncertainties()[1], 0.01 / std::sqrt(5), 1e-15);
  EXPECT_FALSE(exact.is_exact());
  // A parameter is taken for 0 only where that moves the curve by no more than rounding.
  const auto constant_of = [](double a) {
    Rows rows{"", {1, 2, 3, 4}, {}};
    for (const double x : rows.x) rows.y.push_back(a + x);
    return line_of(rows).estimate().parameters()[0];
  };
  EXPECT_EQ(constant_of(1e-16), 0);
  Rows far{"", {1000, 1001, 1002, 1003}, {}};
  for (const double x : far.x) far.y.push_back(1e-9 + x);
  const VectorXd ab = as_eigen(line_of(far).estimate().parameters());
  for (std::size_t i = 0; i < far.x.size(); ++i) EXPECT_NEAR(ab[0] + ab[1] * far.x[i], far.y[i], 1e-12);
  Rows years{"", {}, {}};
  for (int i = 0; i < 9; ++i) {
    years.x.push_back(2000 + i);
    years.y.push_back(i * i * i);
  }
  const Table table_of_years = Table::from_columns({{"x", "", years.x}, {"y", "", years.y}});
  const Fit cubic =
      fit(shape_model("polynomial(3)"), Observations(table_of_years, {.response = "y", .predictors = {"x"}}));
  EXPECT_NEAR(cubic.estimate().parameters()[0] / -8e9, 1, 1e-9);
  const std::string page = run_typed("fit - line --x x --y y", table).out;
  EXPECT_FALSE(has(page, "poorly known"));
  EXPECT_FALSE(has(page, "Residual checks"));
}

TEST(Resolution, IsTheStepOfTheReadings) {
  struct Case {
    std::vector<double> values;
    double step;
  };
  for (const auto& [values, step] : std::vector<Case>{{{20.1, 20.3, 21}, 0.1},
                                                      {{0.25, 0.5, 1}, 0.01},
                                                      {{1200, 1300, 900}, 100},
                                                      {{-3, 4, 0}, 1},
                                                      {{0, 0.5, 1, 1.5, 2, 2.5, 3.5, 4.5}, 0.5},
                                                      {{0, 0.5, 1, 1.5, 2, 2.5, 3.5}, 0.1},  // of seven by chance
                                                      {{2, 4, 6, 8, 10, 12, 14, 18}, 2},
                                                      {{1e-9, 3e-9}, 1e-9},
                                                      {{1.0 / 3, 2}, 0},
                                                      {{1e6, 0.123456789012345}, 0},
                                                      {{0, 0}, 0},
                                                      {{}, 0}})
    EXPECT_DOUBLE_EQ(resolution_of(values), step);
  // In units that are no power of ten.
  std::vector<double> readings = {0.8214, 1.0012, 1.2345, 1.5432, 1.8765, 2.0021, 2.3344};
  for (double& reading : readings) reading *= std::ldexp(1, -120);
  EXPECT_NEAR(std::ldexp(resolution_of(readings), 120), 1e-4, 1e-14);
  EXPECT_DOUBLE_EQ(rounding_variance(0.6), 0.03);
}

// Pairs that agree: the test has the rounding for its scale, and none where that is not known.
TEST(Resolution, IsTheLeastScaleOfTests) {
  const Rows pairs{"", {1, 1, 2, 2, 3, 3, 4, 4}, {2, 2, 4.1, 4.1, 5.9, 5.9, 8.2, 8.2}};
  const Fit line = line_of(pairs);
  EXPECT_NEAR(line.rounding_mean_square(), 0.01 / 12, 1e-15);
  const LackOfFit split = *lack_of_fit(line);
  // Both readings of a level share their rounding: the scale is twice the variance of one.
  EXPECT_NEAR(split.lack_of_fit.f, 0.042 / (2 * 0.01 / 12), 1e-9);
  EXPECT_NEAR(split.lack_of_fit.p, f_upper(25.2, 2, 4), 1e-9);
  Rows unrounded = pairs;
  for (double& y : unrounded.y) y = std::sqrt(y);
  const Fit without = line_of(unrounded);
  EXPECT_EQ(without.rounding_mean_square(), 0);
  EXPECT_TRUE(std::isnan(lack_of_fit(without)->lack_of_fit.p));
  for (const Check& made : residual_checks(without)) EXPECT_NE(made.kind, CheckKind::lack_of_fit);
  const std::string page = run_typed("fit - line --x x --y y", csv_of(unrounded)).out;
  EXPECT_TRUE(has(page, "The replicates agree exactly: there is no scatter"));
  EXPECT_TRUE(has(run_typed("fit - line --x x --y y", csv_of(pairs)).out, "lack of fit is judged"));
  // One reading off a line that the others follow: its distance is judged by their rounding.
  const Fit one_off = line_of({"", {1, 2, 3, 4, 5, 6}, {2, 4, 6, 8, 10, 12.3}});
  const Check outlier = check(one_off, CheckKind::outlier);
  EXPECT_EQ(outlier.row, 6u);
  EXPECT_GT(outlier.p, 1e-4);
  EXPECT_LT(outlier.p, 0.05);
  // A quotient by the scatter of a larger curve that is below the rounding.
  const Rows straight{"", {1, 2, 3, 4, 5}, {1.0, 2.1, 3.0, 4.0, 5.0}};
  const Fit constant_too = line_of(straight);
  const NestedTest against_rounding =
      nested_test(fit(Model::written("y = a"), constant_too.observations()), constant_too);
  const double fallen = variance_table(constant_too).explained.sum_of_squares;
  EXPECT_NEAR(against_rounding.statistic,
              fallen / std::max(constant_too.chi_squared() / 3, constant_too.rounding_mean_square()), 1e-6);
  // A constant under weights that follow it: equal weights, in which the larger line scatters less than its rounding.
  const Table steps = Table::from_columns(
      {{"x", "", {1, 2, 3, 4, 5, 6, 7, 8, 9, 10}}, {"y", "", {10, 11, 12, 13, 14, 15, 16, 17, 18, 20}}});
  const FitOptions proportional{.spread = Spread::proportional()};
  const NestedTest by_weights =
      nested_test(fit(Model::written("y = a"), Observations(steps, {.response = "y"}), proportional),
                  fit(shape_model("line"), Observations(steps, {.response = "y", .predictors = {"x"}}), proportional));
  EXPECT_TRUE(std::isnan(by_weights.p));  // without the predictor the weights of one can't be given to the other
  const NestedTest with_predictor = nested_test(
      fit(Model::written("y = a"), Observations(steps, {.response = "y", .predictors = {"x"}}), proportional),
      fit(shape_model("line"), Observations(steps, {.response = "y", .predictors = {"x"}}), proportional));
  const Fit unweighted = line_of({"", {1, 2, 3, 4, 5, 6, 7, 8, 9, 10}, {10, 11, 12, 13, 14, 15, 16, 17, 18, 20}});
  EXPECT_NEAR(with_predictor.statistic, 12 * variance_table(unweighted).explained.sum_of_squares, 1e-6);
  const NestedTest without_predictor =
      nested_test(fit(Model::written("y = a"), Observations(steps, {.response = "y"})), unweighted);
  EXPECT_NEAR(without_predictor.statistic, with_predictor.statistic, 1e-6);
  const Fit under_uncertainties = fit(
      shape_model("line"),
      Observations(steps, {.response = "y", .predictors = {"x"}, .response_uncertainty = Uncertainty::number(0.2)}));
  EXPECT_NEAR(under_uncertainties.rounding_mean_square(), 1.0 / 12 / 0.04, 1e-12);
  // A transform and weights carry the rounding along: ln y changes by the step over y.
  const Table table = Table::from_columns({{"x", "", {1, 2, 3}}, {"y", "", {2, 4, 5}}});
  const Fit logarithmic =
      fit(Model::written("ln(y) = a + b*x"), Observations(table, {.response = "y", .predictors = {"x"}}));
  EXPECT_NEAR(logarithmic.rounding_mean_square(), (1.0 / 4 + 1.0 / 16 + 1.0 / 25) / 3 / 12, 1e-15);
}

// Readings rounded as coarsely as they scatter, or more so: clean fits are cautioned no more often than others.
TEST(Resolution, IsAllowedForInTheChecks) {
  for (const double sigma : {0.05, 0.3}) {
    RandomNumbers random(3);
    const int sets = test::simulated_sets(150, 2000);
    int cautioned = 0, told = 0;
    for (int set = 0; set < sets; ++set) {
      Rows rows;
      const double step = set % 2 == 0 ? 1 : 1000;
      const double a = 20 + random.uniform();
      const double b = 0.5 + random.uniform();
      for (int i = 0; i < 24; ++i) {
        rows.x.push_back(i / 2);
        rows.y.push_back(step * std::round(a + b * rows.x.back() + sigma * random.normal()));
      }
      const Fit line = line_of(rows);
      const auto checks = residual_checks(line);
      cautioned += std::any_of(checks.begin(), checks.end(), [](const Check& c) { return c.is_significant(); });
      told += std::any_of(line.warnings().begin(), line.warnings().end(),
                          [](const Warning& w) { return w.code == WarningCode::rounded_readings; });
    }
    EXPECT_LE(cautioned, 0.05 * sets + 3 * std::sqrt(0.05 * sets)) << sigma;
    const auto errors = [sets](double share) { return 3 * std::sqrt(share * (1 - share) * sets); };
    if (sigma < 0.1) EXPECT_GE(told, 0.93 * sets - errors(0.93));
    if (sigma > 0.2) EXPECT_LE(told, 0.15 * sets + errors(0.15));
  }
}

// A constant is a curve of any predictor: tested, held out and predicted like the others.
TEST(Degenerate, ConstantsAreCandidates) {
  const Rows rows{"", {1, 2, 3, 4, 5, 6, 7}, {5.1, 4.9, 5.2, 4.8, 5.05, 5.13, 4.93}};
  test::TemporaryFolder folder;
  const std::string file = (folder / "flat.json").string();
  for (const std::string spread : {"constant", "proportional"}) {
    const auto result = run_command({"compare", "-", "y=a", "line", "--x", "x", "--y", "y", "--spread", spread,
                                     "--hold-out", "x>5", "--output", file, "--format", "json"},
                                    csv_of(rows));
    ASSERT_EQ(result.code, 0) << result.error;
    const json record = json::parse(result.out);
    ASSERT_EQ(record["nested_tests"].size(), 1u) << spread;
    if (spread == "constant") {
      // The F test against a constant is the squared t test of the slope.
      const Fit line = line_of({"", {1, 2, 3, 4, 5}, {5.1, 4.9, 5.2, 4.8, 5.05}});
      const double t = line.estimate().parameters()[1] / line.estimate().standard_uncertainties()[1];
      EXPECT_NEAR(record["nested_tests"][0]["p"].get<double>(), student_t_two_sided(t, 3), 1e-9);
      for (const json& held : record["hold_out"]) {
        if (held["name"] != "y=a") continue;
        EXPECT_NEAR(held["rows"][0]["predicted"].get<double>(), 5.01, 1e-12);
      }
    }
    EXPECT_EQ(record["hold_out"].size(), 2u);
    const auto predicted = run_command({"predict", file, "--at", "x=3"});
    EXPECT_EQ(predicted.code, 0) << predicted.error;
  }
}

// An interval ends where the parameter's limit does, and what follows from a fit at a limit says so.
TEST(Degenerate, LimitsOfParametersBoundTheirIntervals) {
  const Rows rows{"", {1, 2, 3, 4, 5}, {1.0, 2.1, 2.9, 4.2, 4.9}};
  const json within = json::parse(run_typed("fit - line --x x --y y --within a=0.. --format json", csv_of(rows)).out);
  const json free = json::parse(run_typed("fit - line --x x --y y --format json", csv_of(rows)).out);
  EXPECT_LT(free["parameters"][0]["interval"]["low"], 0);
  EXPECT_EQ(within["parameters"][0]["interval"]["low"], 0);
  EXPECT_NEAR(within["parameters"][0]["interval"]["high"].get<double>(),
              free["parameters"][0]["interval"]["high"].get<double>(), 1e-12);
  test::TemporaryFolder folder;
  const std::string file = (folder / "held.json").string();
  ASSERT_EQ(
      run_command({"fit", "-", "line", "--x", "x", "--y", "y", "--within", "a=0.5..", "--output", file}, csv_of(rows))
          .code,
      0);
  for (const std::vector<std::string>& next : {std::vector<std::string>{"predict", file, "--at", "x=2"},
                                               {"solve", file, "--for", "y=3"},
                                               {"derive", file, "q = 2*b"}}) {
    const auto page = run_command(next);
    EXPECT_EQ(page.code, 0) << page.error;
    EXPECT_TRUE(has(page.out, "a is held at its limit 0.5"));
  }
}

// A candidate of one of two predictors is tested and predicted with both; one of other readings is left alone.
TEST(Degenerate, CandidatesShareTheirPredictors) {
  RandomNumbers random(9);
  std::string table = "t,D,f\n";
  std::vector<double> t, d, f, u;
  for (int i = 0; i < 12; ++i) {
    t.push_back(1 + i % 4);
    d.push_back(10 + 3 * (i / 4));
    f.push_back(5 + 2 * t.back() + 0.1 * d.back() + 0.05 * random.normal());
    u.push_back(0.05);
    table += fmt::format("{},{},{}\n", t.back(), d.back(), f.back());
  }
  test::TemporaryFolder folder;
  const std::string file = (folder / "two.json").string();
  const auto result = run_command(
      {"compare", "-", "f = a", "f = a + b*t", "f = a + b*t + c*D", "--format", "json", "--output", file}, table);
  ASSERT_EQ(result.code, 0) << result.error;
  EXPECT_EQ(json::parse(result.out)["nested_tests"].size(), 3u);
  EXPECT_EQ(run_command({"predict", file, "--at", "t=2", "--at", "D=12"}).code, 0);
  const Table columns = Table::from_columns({{"t", "", t}, {"D", "", d}, {"f", "", f}, {"u", "", u}});
  const auto candidate = [&columns](const char* text, std::vector<std::string> predictors,
                                    const Uncertainty& uncertainty) {
    return CandidateModel{
        text, Model::written(text),
        Observations(columns,
                     {.response = "f", .predictors = std::move(predictors), .response_uncertainty = uncertainty})};
  };
  const auto predictors_of_first = [&](const Uncertainty& own) {
    const std::vector<CandidateModel> both = {candidate("f = a + b*t", {"t"}, own),
                                              candidate("f = a + b*t + c*D", {"t", "D"}, Uncertainty::none())};
    return fit_candidates(both, UnsuitableRows::left_out_for_all).fits[0].observations().predictors().size();
  };
  EXPECT_EQ(predictors_of_first(Uncertainty::none()), 2u);
  EXPECT_EQ(predictors_of_first("u"), 1u);
}

// What the criteria can't say of a candidate is not claimed of it.
TEST(Degenerate, AgreementIsOfThoseThatHaveAnError) {
  const std::string rounded =
      "x,y\n0,20.1\n1,20.2\n2,20.3\n3,20.5\n4,20.6\n5,20.7\n6,20.9\n7,21\n8,21.1\n9,21.2\n10,21.4\n11,21.5\n";
  const auto result = run_typed("compare - line 'y = a + b*exp(-k*x)' 'y = a' --x x --y y --format json", rounded);
  ASSERT_EQ(result.code, 0) << result.error;
  const json record = json::parse(result.out);
  bool all_have = true;
  for (const json& c : record["candidates"]) {
    all_have = all_have && c["leave_one_out_sd"].is_number();
    if (c["name"] == "y = a") EXPECT_EQ(c["r_squared"], 0);
  }
  EXPECT_FALSE(all_have);
  EXPECT_TRUE(has(record["suggestion"]["reason"].get<std::string>(), "of those for which one could be computed"));
}

TEST(Summary, HoldsAtTheEndsOfTheRangeOfADouble) {
  const auto of = [](std::vector<double> values) {
    const Table table = Table::from_columns({{"v", "", std::move(values)}});
    return summary_of(table.column("v"));
  };
  const ColumnSummary small = of({1e-310, 2e-310, 3e-310});
  EXPECT_NEAR(small.sd / 1e-310, 1, 1e-6);
  const ColumnSummary large = of({1e308, -1e308, 1.5e308});
  EXPECT_NEAR(large.sd / 1e308, std::sqrt(1.75), 1e-12);
  EXPECT_EQ(large.lower_quartile, 0);
  EXPECT_TRUE(large.beyond_fences.empty());
  EXPECT_EQ(of({0.1, 0.1, 0.1}).sd, 0);
  EXPECT_EQ(of({0.1, 0.1, 0.1}).mean, 0.1);
}

}  // namespace
}  // namespace truecurve
