// What must not change does not, and what must changes as it must: units, order of rows, headers, dialects, mirrors,
// origins and duplicates, through the command, record and text.
#include "support.hpp"

#include <fstream>

namespace truecurve {
namespace {

using nlohmann::json;
using test::CommandResult;
using test::run_command;

// How a number of a record changes when x and y are multiplied: by x^first * y^second; of a logarithm by a sum.
using Exponents = std::pair<int, int>;

struct Lab {
  std::vector<double> x, y, u;
  double at = 3.5;       // where the curve is asked
  double response = 21;  // what it is solved for
};

Lab laboratory(double step = 0) {
  Lab lab;
  for (const double x : {1.0, 1.0, 2.0, 2.0, 3.0, 4.0, 4.5, 5.0, 6.0, 6.0, 7.0, 8.0}) {
    const auto i = static_cast<double>(lab.x.size());
    lab.x.push_back(x);
    lab.y.push_back(60 * std::exp(-0.3 * x) + 0.6 * std::sin(2.4 * i * i + 0.3));
    if (step > 0) lab.y.back() = step * std::round(lab.y.back() / step);
    lab.u.push_back(0.4 + 0.05 * i);
  }
  return lab;
}

std::string csv(const Lab& lab, const std::string& header = "x,y,u", const char* separator = ",") {
  std::string text = header + "\n";
  for (std::size_t i = 0; i < lab.x.size(); ++i)
    text += fmt::format("{}{}{}{}{}\n", lab.x[i], separator, lab.y[i], separator, lab.u[i]);
  return text;
}

Lab scaled(Lab lab, double sx, double sy) {
  for (double& x : lab.x) x *= sx;
  for (double& y : lab.y) y *= sy;
  for (double& u : lab.u) u *= std::abs(sy);
  lab.at *= sx;
  lab.response *= sy;
  return lab;
}

bool ends_with(const std::string& text, const std::string& tail) {
  return text.size() >= tail.size() && text.compare(text.size() - tail.size(), tail.size(), tail) == 0;
}

// Every number of a record by its path, without what tells how it was computed.
void collect(const json& value, const std::string& path, std::map<std::string, double>& numbers) {
  static const std::set<std::string> left_out = {"solver", "working", "curvature", "level", "version", "outside_data"};
  if (value.is_object()) {
    for (const auto& [key, child] : value.items()) {
      if (!left_out.contains(key)) collect(child, path + "/" + key, numbers);
    }
  } else if (value.is_array()) {
    for (std::size_t i = 0; i < value.size(); ++i) {
      // Checks by their name: which are made depends on the order of the rows.
      const bool is_check = ends_with(path, "/checks");
      collect(value[i], path + "/" + (is_check ? value[i]["name"].get<std::string>() : std::to_string(i)), numbers);
    }
  } else if (value.is_number()) {
    numbers[path] = value.get<double>();
  }
}

using Numbers = std::map<std::string, double>;

Numbers record_of(const std::vector<std::string>& arguments, const std::string& input) {
  std::vector<std::string> all = arguments;
  all.insert(all.end(), {"--format", "json"});
  const CommandResult result = run_command(all, input);
  EXPECT_EQ(result.code, 0) << result.error;
  Numbers numbers;
  if (result.code == 0) collect(json::parse(result.out), "", numbers);
  return numbers;
}

bool is_logarithmic(const std::string& path) {
  for (const char* key : {"log_likelihood", "aic", "aicc", "bic"}) {
    if (ends_with(path, std::string("/") + key)) return true;
  }
  return false;
}

struct Comparison {
  double tolerance = 1e-9;
  std::map<std::string, Exponents> wanted{};  // by path
  std::set<std::string> additive{};           // paths that change by a sum, as the logarithm of a response does
};

// Every number of the second is that of the first times a power of the two factors, the same for a value and everything
// that belongs to it, and the wanted one where that is known.
void expect_scaled(const Numbers& before, const Numbers& after, double sx, double sy, const Comparison& how) {
  ASSERT_EQ(before.size(), after.size());
  std::map<std::string, Exponents> found;
  for (const auto& [path, number] : before) {
    ASSERT_TRUE(after.contains(path)) << path;
    const double now = after.at(path);
    if (is_logarithmic(path) || how.additive.contains(path)) continue;
    const bool from_draws = path.find("/checks/") != std::string::npos && (ends_with(path, "p"));
    if (from_draws) {
      EXPECT_NEAR(number, now, 0.003) << path;
      continue;
    }
    if (number == 0 || std::abs(number) < 1e-11) {
      EXPECT_LT(std::abs(now), 1e-9 * std::max({1.0, std::abs(sx * sy), std::abs(sy / sx)})) << path;
      continue;
    }
    bool fits = false;
    for (int i = 0; i <= 4 && !fits; ++i) {
      for (const int a : {i, -i}) {
        for (const int b : {0, 1, -1, 2, -2}) {
          const double expected = number * std::pow(std::abs(sx), a) * std::pow(std::abs(sy), b);
          if (fits || !(std::abs(now - expected) <= how.tolerance * std::abs(expected))) continue;
          fits = true;
          found[path] = {a, b};
        }
      }
    }
    EXPECT_TRUE(fits) << path << ": " << number << " became " << now;
  }
  for (const auto& [path, exponents] : found) {
    for (const char* part : {"standard_uncertainty", "interval/low", "interval/high", "monte_carlo_interval/low",
                             "confidence/low", "prediction/high", "mean", "mean_standard_uncertainty"}) {
      if (!ends_with(path, "/value")) continue;
      const auto other = found.find(path.substr(0, path.size() - 5) + part);
      if (other != found.end()) EXPECT_EQ(other->second, exponents) << other->first;
    }
    const auto wanted = how.wanted.find(path);
    if (wanted != how.wanted.end()) EXPECT_EQ(wanted->second, exponents) << path;
  }
  for (const auto& [path, exponents] : how.wanted) EXPECT_TRUE(found.contains(path)) << path;
}

struct Case {
  std::string model;
  std::vector<Exponents> parameters;
  std::vector<std::string> options{};
  double tolerance = 1e-9;
  double step = 0;  // of rounded readings
};

std::vector<Case> cases() {
  const std::vector<Exponents> line = {{0, 1}, {-1, 1}};
  return {{"line", line, {"--u", "y=none"}},
          {"line", line, {"--u", "y=none"}, 1e-9, 0.001},
          {"polynomial(2)", {{0, 1}, {-1, 1}, {-2, 1}}, {"--u", "y=none"}, 1e-9, 2},
          {"line", line, {"--u", "y=u"}},
          {"line", line, {"--u", "y=u", "--uncertainty", "scatter"}},
          {"line", line, {"--u", "y=4%"}, 1e-8},
          {"line", line, {"--u", "y=none", "--spread", "proportional"}, 1e-8},
          {"polynomial(2)", {{0, 1}, {-1, 1}, {-2, 1}}, {"--u", "y=none"}},
          {"exponential", {{0, 1}, {-1, 0}}, {"--u", "y=none"}, 1e-5},
          {"exponential-offset-time-constant", {{0, 1}, {0, 1}, {1, 0}}, {"--u", "y=u"}, 1e-4},
          {"y = m/(k + x)", {{1, 1}, {1, 0}}, {"--u", "y=none", "--start", "m=100"}, 1e-4}};
}

std::vector<std::string> fit_command(const Case& c) {
  std::vector<std::string> command = {"fit", "-", c.model};
  if (c.model.find('=') == std::string::npos) command.insert(command.end(), {"--x", "x", "--y", "y"});
  for (const std::string& option : c.options) command.push_back(option);
  return command;
}

// A start is a number of the parameter's own unit.
Case in_units(Case c, double sx, double sy) {
  for (std::string& option : c.options) {
    if (option == "m=100") option = fmt::format("m={}", 100 * sx * sy);
  }
  return c;
}

class Units : public ::testing::TestWithParam<std::pair<double, double>> {};

TEST_P(Units, OfFitsChangeNothingButTheUnits) {
  const auto [sx, sy] = GetParam();
  for (const Case& c : cases()) {
    const Lab lab = laboratory(c.step);
    SCOPED_TRACE(c.model + (c.options.empty() ? "" : " " + c.options[1]));
    Comparison how{.tolerance = c.tolerance};
    for (std::size_t j = 0; j < c.parameters.size(); ++j)
      how.wanted[fmt::format("/parameters/{}/value", j)] = c.parameters[j];
    how.wanted["/residual_sd"] = {0, 1};
    how.wanted["/r_squared"] = {0, 0};
    how.wanted["/data/predictors/0/high"] = {1, 0};
    const Numbers before = record_of(fit_command(c), csv(lab));
    const Numbers after = record_of(fit_command(in_units(c, sx, sy)), csv(scaled(lab, sx, sy)));
    expect_scaled(before, after, sx, sy, how);
    // The density of y is per unit of y.
    const double n = static_cast<double>(lab.x.size());
    EXPECT_NEAR(after.at("/log_likelihood") - before.at("/log_likelihood"), -n * std::log(sy), 1e-3 * n);
  }
}

TEST_P(Units, OfWhatFollowsFromAFitToo) {
  const auto [sx, sy] = GetParam();
  test::TemporaryFolder folder;
  const auto follow = [&](const Lab& lab, const std::string& model, double fx, double fy) {
    const std::string record = (folder / "fit.json").string();
    EXPECT_EQ(
        run_command({"fit", "-", model, "--x", "x", "--y", "y", "--u", "y=none", "--output", record}, csv(lab)).code,
        0);
    std::map<std::string, Numbers> all;
    (void)fx;
    (void)fy;
    all["predict"] = record_of({"predict", record, "--at", fmt::format("x={}", lab.at)}, "");
    all["solve"] = record_of({"solve", record, "--for", fmt::format("y={}", lab.response)}, "");
    const bool is_line = model == "line";
    all["derive"] = record_of({"derive", record, is_line ? "q = a/b" : "q = ln(2)/b"}, "");
    return all;
  };
  const Lab lab = laboratory();
  for (const std::string model : {"line", "exponential"}) {
    SCOPED_TRACE(model);
    const auto before = follow(lab, model, 1, 1);
    const auto after = follow(scaled(lab, sx, sy), model, sx, sy);
    const double tolerance = model == "line" ? 1e-8 : 1e-4;
    expect_scaled(before.at("predict"), after.at("predict"), sx, sy,
                  {tolerance, {{"/points/0/value", {0, 1}}, {"/points/0/at/x", {1, 0}}}});
    expect_scaled(before.at("solve"), after.at("solve"), sx, sy, {tolerance, {{"/roots/0/value", {1, 0}}}});
    expect_scaled(before.at("derive"), after.at("derive"), sx, sy, {tolerance, {{"/derived/0/value", {1, 0}}}});
  }
}

TEST_P(Units, OfComparisonsToo) {
  const auto [sx, sy] = GetParam();
  const Lab lab = laboratory();
  const std::vector<std::string> command = {"compare",     "-",
                                            "line",        "polynomial(2)",
                                            "exponential", "exponential; linearized",
                                            "--x",         "x",
                                            "--y",         "y",
                                            "--u",         "y=none",
                                            "--folds",     "3"};
  const Numbers before = record_of(command, csv(lab));
  const Numbers after = record_of(command, csv(scaled(lab, sx, sy)));
  Comparison how{.tolerance = 1e-4,
                 .wanted = {{"/candidates/0/weight", {0, 0}}, {"/candidates/0/residual_sd", {0, 1}}}};
  // ln(y) = c + b*x: c moves with the unit of y.
  for (const auto& [path, number] : before) {
    if (path.find("/parameters/0/") != std::string::npos) how.additive.insert(path);
    if (path.find("/routes/") != std::string::npos) continue;
  }
  expect_scaled(before, after, sx, sy, how);
}

TEST_P(Units, OfCalibrationsToo) {
  const auto [sx, sy] = GetParam();
  test::TemporaryFolder folder;
  const auto follow = [&](double fx, double fy) {
    std::string table = "kind,sample,x,y\n";
    for (int level = 0; level < 6; ++level) {
      for (int i = 0; i < 3; ++i) {
        const double x = 0.5 * std::pow(2, level);
        table += fmt::format("standard,,{},{}\n", x * fx,
                             (2 + 3 * x + (0.2 + 0.02 * x) * std::sin(3.7 * level + 2.1 * i * i)) * fy);
      }
    }
    for (int i = 0; i < 5; ++i) table += fmt::format("blank,,,{}\n", (2 + 0.2 * std::cos(2.9 * i)) * fy);
    for (int i = 0; i < 3; ++i) table += fmt::format("sample,A,,{}\n", (20 + 0.3 * i) * fy);
    table += fmt::format("sample,B,,{}\n", 2.1 * fy);
    table += fmt::format("control,C,{},{}\n", 7 * fx, 22.5 * fy);
    std::map<std::string, Numbers> all;
    for (const std::string spread : {"constant", "both"}) {
      const std::string record = (folder / "line.json").string();
      const std::vector<std::string> command = {"calibrate", "-",        "--x",      "x",    "--y",           "y",
                                                "--blank",   "subtract", "--spread", spread, "--simulations", "40",
                                                "--output",  record};
      all[spread] = record_of(command, table);
      const std::string file = (folder / "unknowns.csv").string();
      std::ofstream(file) << table;
      all[spread + " read"] = record_of({"quantify", record, file}, "");
    }
    return all;
  };
  const auto before = follow(1, 1);
  const auto after = follow(sx, sy);
  for (const auto& [name, numbers] : before) {
    SCOPED_TRACE(name);
    Comparison how{.tolerance = 1e-4};
    if (ends_with(name, "read")) {
      how.wanted = {{"/unknowns/0/amount", {1, 0}}};
    } else {
      how.wanted = {{"/limits/0/detection", {1, 0}}, {"/blank/mean", {0, 1}}};
    }
    // The likelihood of a variance function is a density of the signal.
    for (const auto& [path, number] : numbers) {
      if (path.find("variance_functions") != std::string::npos && is_logarithmic(path)) how.additive.insert(path);
    }
    expect_scaled(numbers, after.at(name), sx, sy, how);
  }
}

std::vector<std::pair<double, double>> powers() {
  if (test::is_sanitized()) return {{1e9, 1e-7}};
  return {{1e9, 1e-7}, {1e-7, 1e9}, {1e9, 2}, {2, 1e9}, {0x1p-120, 0x1p150}};
}

INSTANTIATE_TEST_SUITE_P(Powers, Units, ::testing::ValuesIn(powers()));

// Numbers that are not of an order must not know it.
void expect_same(
    const Numbers& before, const Numbers& after, double tolerance,
    const std::function<bool(const std::string&)>& left_out = [](const std::string&) { return false; }) {
  for (const auto& [path, number] : before) {
    if (ends_with(path, "/row") || path.find("/largest_residual_row") != std::string::npos || left_out(path)) continue;
    ASSERT_TRUE(after.contains(path)) << path;
    const bool from_draws = path.find("/checks/") != std::string::npos && ends_with(path, "p");
    EXPECT_NEAR(after.at(path), number, from_draws ? 0.045 : tolerance * std::max(1e-3, std::abs(number))) << path;
  }
}

const std::vector<std::vector<std::string>>& whole_commands() {
  static const std::vector<std::vector<std::string>> all = {
      {"fit", "-", "line", "--x", "x", "--y", "y", "--u", "y=u"},
      {"fit", "-", "polynomial(2)", "--x", "x", "--y", "y", "--u", "y=none"},
      {"fit", "-", "exponential", "--x", "x", "--y", "y", "--u", "y=u", "--derive", "q = a*b"},
      {"fit", "-", "ln(y) = a + b*x", "--u", "y=u"},
      {"compare", "-", "line", "exponential", "polynomial(2)", "--x", "x", "--y", "y", "--u", "y=none"},
      {"calibrate", "-", "--x", "x", "--y", "y", "--spread", "both", "--u", "y=none", "--simulations", "40"}};
  return all;
}

Lab with_replicates() {
  Lab lab;
  for (int level = 1; level <= 5; ++level) {
    for (int i = 0; i < 4; ++i) {
      lab.x.push_back(level);
      lab.y.push_back(80 - 12.0 * level + 0.3 * std::sqrt(level) * std::sin(5.0 * level + 2.3 * i * i));
      lab.u.push_back(0.4);
    }
  }
  return lab;
}

TEST(Metamorphic, OrderOfTheRowsDoesNotMatter) {
  const Lab lab = with_replicates();
  std::vector<std::size_t> order(lab.x.size());
  std::iota(order.begin(), order.end(), std::size_t{0});
  std::stable_sort(order.begin(), order.end(), [](std::size_t a, std::size_t b) { return a * 7 % 20 < b * 7 % 20; });
  Lab mixed = lab;
  for (std::size_t i = 0; i < order.size(); ++i) {
    mixed.x[i] = lab.x[order[i]];
    mixed.y[i] = lab.y[order[i]];
    mixed.u[i] = lab.u[order[i]];
  }
  for (const auto& command : whole_commands()) {
    SCOPED_TRACE(command[2] + " " + command[0]);
    // Draws of a calibration's limits go to the readings in their order.
    expect_same(record_of(command, csv(lab)), record_of(command, csv(mixed)), 1e-6, [](const std::string& path) {
      return path.find("detection_uncertainty") != std::string::npos || path.find("readings/") != std::string::npos ||
             path.find("/drift/") != std::string::npos || ends_with(path, "/family_p");
    });
  }
}

// Names and dialects change what is written and no number; the page is the same but for the names.
TEST(Metamorphic, HeadersAndDialectsChangeNoNumber) {
  const Lab lab = with_replicates();
  const auto comma = [](std::string text) {
    std::replace(text.begin(), text.end(), ',', ';');
    std::replace(text.begin(), text.end(), '.', ',');
    return text;
  };
  const auto crlf = [](const std::string& text) {
    std::string changed = "\xEF\xBB\xBF# a comment\r\n";
    for (const char c : text) changed += c == '\n' ? std::string("\r\n") : std::string(1, c);
    return changed;
  };
  const auto quoted = [](const std::string& text) {
    std::string changed = "\"";
    for (const char c : text) changed += c == '\n' ? std::string("\"\n\"") : c == ',' ? "\",\"" : std::string(1, c);
    return changed.substr(0, changed.size() - 1);
  };
  const auto blanks = [](std::string text) {
    std::replace(text.begin(), text.end(), ',', '\t');
    return text;
  };
  for (const auto& command : whole_commands()) {
    SCOPED_TRACE(command[2] + " " + command[0]);
    const std::string plain = csv(lab);
    const Numbers before = record_of(command, plain);
    const std::string page = run_command(command, plain).out;
    for (const std::string& text : {comma(plain), crlf(plain), quoted(plain), blanks(plain)}) {
      if (test::is_sanitized() && text != crlf(plain)) continue;
      expect_same(before, record_of(command, text), 0);
      EXPECT_EQ(run_command(command, text).out, page);
    }
    if (command[2].find('=') != std::string::npos) continue;
    // Headers that are no plain names, with units; those of uncertainties are found by the whole header, too.
    std::vector<std::string> renamed = command;
    for (std::size_t i = 2; i < renamed.size(); ++i) {
      if (renamed[i] == "x" && renamed[i - 1] == "--x") renamed[i] = "Time elapsed";
      if (renamed[i] == "y" && renamed[i - 1] == "--y") renamed[i] = "Core strength (MPa)";
      if (renamed[i] == "y=u") renamed[i] = "y=u(Core strength) (MPa)";
    }
    const bool is_candidate = command[0] == "compare" || command[0] == "fit" || command[0] == "calibrate";
    ASSERT_TRUE(is_candidate);
    expect_same(before, record_of(renamed, csv(lab, "Time elapsed (s),Core strength (MPa),u(Core strength) (MPa)")), 0);
  }
}

// Mirrored axes turn signs, a moved origin moves what is quoted there, doubled rows with variances twice as large are
// the rows themselves.
TEST(Metamorphic, MirrorsOriginsAndDuplicates) {
  const Lab lab = with_replicates();
  const std::vector<std::string> line = {"fit", "-", "line", "--x", "x", "--y", "y", "--u", "y=u"};
  const Numbers before = record_of(line, csv(lab));
  const auto value = [](const Numbers& numbers, int j) { return numbers.at(fmt::format("/parameters/{}/value", j)); };
  const auto u = [](const Numbers& numbers, int j) {
    return numbers.at(fmt::format("/parameters/{}/standard_uncertainty", j));
  };
  const Numbers mirrored_x = record_of(line, csv(scaled(lab, -1, 1)));
  const Numbers mirrored_y = record_of(line, csv(scaled(lab, 1, -1)));
  for (int j = 0; j < 2; ++j) {
    EXPECT_DOUBLE_EQ(value(mirrored_x, j), (j == 1 ? -1 : 1) * value(before, j));
    EXPECT_DOUBLE_EQ(value(mirrored_y, j), -value(before, j));
    EXPECT_DOUBLE_EQ(u(mirrored_x, j), u(before, j));
    EXPECT_DOUBLE_EQ(u(mirrored_y, j), u(before, j));
  }
  for (const Numbers& mirrored : {mirrored_x, mirrored_y}) {
    for (const auto& [path, number] : before) {
      if (path.find("/checks/") == std::string::npos && path.find("/correlation") == std::string::npos &&
          path.find("/covariance") == std::string::npos && path.find("/parameters") == std::string::npos &&
          path.find("/predictors") == std::string::npos) {
        EXPECT_NEAR(std::abs(mirrored.at(path)), std::abs(number), 1e-9 * std::abs(number)) << path;
      } else if (path.find("/checks/") != std::string::npos && ends_with(path, "/p")) {
        EXPECT_NEAR(mirrored.at(path), number, 0.04) << path;  // drawn anew
      }
    }
  }
  Lab moved = lab;
  for (double& x : moved.x) x += 1e6;
  const Numbers far = record_of(line, csv(moved));
  EXPECT_NEAR(value(far, 1), value(before, 1), 1e-9);
  EXPECT_NEAR(u(far, 1), u(before, 1), 1e-9);
  EXPECT_NEAR(value(far, 0) + 1e6 * value(far, 1), value(before, 0), 1e-6);
  for (const char* same : {"/chi_squared", "/r_squared", "/aicc", "/residual_sd"})
    EXPECT_NEAR(far.at(same), before.at(same), 1e-9 * std::abs(before.at(same))) << same;
  Lab doubled = lab;
  for (auto* column : {&doubled.x, &doubled.y, &doubled.u}) {
    const std::vector<double> once = *column;
    column->insert(column->end(), once.begin(), once.end());
  }
  for (double& each : doubled.u) each *= std::sqrt(2);
  const Numbers twice = record_of(line, csv(doubled));
  for (int j = 0; j < 2; ++j) {
    EXPECT_NEAR(value(twice, j), value(before, j), 1e-12 * std::abs(value(before, j)));
    EXPECT_NEAR(u(twice, j), u(before, j), 1e-12 * u(before, j));
  }
  EXPECT_NEAR(twice.at("/chi_squared"), before.at("/chi_squared"), 1e-9);
}

// Standards, blanks and unknowns in one table or each in its own.
TEST(Metamorphic, OneTableOrSeveral) {
  test::TemporaryFolder folder;
  std::string standards = "x,y\n";
  std::string whole = "kind,x,y\n";
  std::string blanks = "y\n";
  const Lab lab = with_replicates();
  for (std::size_t i = 0; i < lab.x.size(); ++i) {
    standards += fmt::format("{},{}\n", lab.x[i], lab.y[i]);
    whole += fmt::format("standard,{},{}\n", lab.x[i], lab.y[i]);
  }
  for (const double y : {80.2, 79.9, 80.4, 80.1}) {
    blanks += fmt::format("{}\n", y);
    whole += fmt::format("blank,,{}\n", y);
  }
  const std::string blank_file = (folder / "blanks.csv").string();
  std::ofstream(blank_file) << blanks;
  std::vector<std::string> command = {"calibrate", "-", "--x", "x", "--y", "y", "--blank", "subtract"};
  const Numbers one = record_of(command, whole);
  command.insert(command.end(), {"--blanks", blank_file});
  expect_same(one, record_of(command, standards), 1e-12, [](const std::string& path) {
    return path.find("/data/") != std::string::npos || path.find("rows") != std::string::npos;
  });
}

}  // namespace
}  // namespace truecurve
