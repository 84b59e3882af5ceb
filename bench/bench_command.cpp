// The cost of what surrounds a fit: the command's page and record, calibrations, amounts read from them. As ratios
// measured in one run.
//
//     build/bench/bench/bench_command
#include <truecurve/base/error.hpp>
#include <truecurve/base/random.hpp>
#include <truecurve/calibrate/calibration.hpp>
#include <truecurve/calibrate/quantify.hpp>
#include <truecurve/fit/fit.hpp>
#include <truecurve/io/csv.hpp>
#include <truecurve/model/shapes.hpp>

#include "../app/run.hpp"
#include "ratio.hpp"

#include <cmath>
#include <cstdio>
#include <filesystem>
#include <fstream>
#include <sstream>
#include <string>
#include <utility>
#include <vector>

namespace {

namespace tc = truecurve;

// Rows of a cubic with an uncertainty each.
std::filesystem::path table_of(std::size_t rows, const std::filesystem::path& folder) {
  const std::filesystem::path file = folder / ("rows" + std::to_string(rows) + ".csv");
  std::ofstream stream(file);
  tc::RandomNumbers random(5);
  stream << "x,y,u(y)\n";
  for (std::size_t i = 0; i < rows; ++i) {
    const double x = 10 * random.uniform();
    const double u = 0.1 + 0.02 * x;
    stream << tc::shortest(x) << ',' << tc::rounded(5 - 3 * x + 0.9 * x * x - 0.07 * x * x * x + u * random.normal(), 8)
           << ',' << tc::rounded(u, 4) << '\n';
  }
  return file;
}

double read_and_fit(const std::filesystem::path& file) {
  const tc::Observations rows(tc::read_csv(file), {.response = "y", .predictors = {"x"}});
  return tc::fit(tc::shape_model("polynomial(3)"), rows).chi_squared();
}

void command(const std::filesystem::path& file) {
  std::istringstream in;
  std::ostringstream out;
  std::ostringstream err;
  const std::string record = file.string() + ".json";
  const int code =
      tc::app::run({"fit", file.string(), "polynomial(3)", "--x", "x", "--y", "y", "--output", record}, {in, out, err});
  if (code != 0) std::printf("%s", err.str().c_str());
}

tc::Readings readings(double bend) {
  tc::RandomNumbers random(7);
  tc::Readings made{.amount = {"c", "mg/g"}, .signal = {"I", ""}};
  for (int level = 0; level < 6; ++level) {
    for (int k = 0; k < 3; ++k) {
      const double c = level;
      made.all.push_back(
          {.amount = c, .signal = 0.5 + 2 * c - bend * c * c + 0.03 * random.normal(), .row = made.all.size() + 1});
    }
  }
  return made;
}

tc::Readings unknowns(std::size_t count) {
  tc::RandomNumbers random(8);
  tc::Readings made{.amount = {"c", "mg/g"}, .signal = {"I", ""}};
  for (std::size_t i = 0; i < count; ++i)
    made.all.push_back({.kind = tc::ReadingKind::sample, .signal = 1.5 + 6 * random.uniform(), .row = i + 1});
  return made;
}

void fits() {
  const auto folder = std::filesystem::temp_directory_path() / "truecurve_bench";
  std::filesystem::create_directories(folder);
  const auto million = table_of(static_cast<std::size_t>(many_rows(1'000'000)), folder);
  const auto tenth = table_of(static_cast<std::size_t>(many_rows(100'000)), folder);
  std::printf("command fit with page and record / reading and fitting, 1e6 weighted rows: %.2f (limit 2.5)\n",
              ratio(
                  3, [&] { command(million); }, [&] { read_and_fit(million); }));
  std::printf("command fit with page and record, 1e6 rows / 1e5 rows: %.1f (limit 11)\n",
              ratio(
                  3, [&] { command(million); }, [&] { command(tenth); }));
  std::filesystem::remove_all(folder);
}

// One cell that is as long as a file, and a row of as many cells as that file has bytes.
void long_lines() {
  const auto read = [](const std::string& file) {
    std::istringstream stream(file);
    try {
      (void)tc::read_csv(stream, "long.csv");
    } catch (const tc::Error&) {  // too many cells for its header
    }
  };
  const auto size = static_cast<std::size_t>(many_rows(16'000'000));
  const auto cell = [](std::size_t bytes) { return "x,y\n1," + std::string(bytes, 'a') + "\n2,3\n"; };
  const auto cells = [](std::size_t bytes) { return "x,y\n" + std::string(bytes, ',') + "\n2,3\n"; };
  for (const auto& [what, make] :
       {std::pair<const char*, std::string (*)(std::size_t)>{"cell", cell}, {"row", cells}}) {
    const std::string twice = make(2 * size);
    const std::string once = make(size);
    std::printf("reading one %s of 32 MB / of 16 MB: %.1f (limit 2.6)\n", what,
                ratio(
                    5, [&] { read(twice); }, [&] { read(once); }));
  }
}

void amounts() {
  const tc::Readings straight = readings(0);
  const tc::Readings bent = readings(0.1);
  const tc::CalibrationOptions line;
  const tc::CalibrationOptions curve{.model = tc::shape_model("polynomial(2)", "c", "I")};
  std::printf("calibration with a curve / with a line: %.1f (limit 5)\n",
              ratio(
                  5, [&] { (void)tc::calibrate(bent, curve); }, [&] { (void)tc::calibrate(straight, line); }));
  const tc::Calibration by_line = tc::calibrate(straight, line);
  const tc::Calibration by_curve = tc::calibrate(bent, curve);
  const auto count = static_cast<std::size_t>(many_rows(2000));
  const tc::Readings many = unknowns(count);
  for (const auto& [c, what, limit] : {std::tuple{&by_line, "a line", 60.0}, {&by_curve, "a curve", 150.0}}) {
    std::vector<double> times;
    for (int i = 0; i < 5; ++i) {
      const auto start = std::chrono::steady_clock::now();
      (void)tc::quantify(c->curve, many);
      times.push_back(1e6 * std::chrono::duration<double>(std::chrono::steady_clock::now() - start).count() /
                      static_cast<double>(count));
    }
    std::nth_element(times.begin(), times.begin() + 2, times.end());
    std::printf("an unknown read from %s: %.0f microseconds (limit %.0f)\n", what, times[2], limit);
  }
}

}  // namespace

// bench_command [fits|amounts]
int main(int count, char** arguments) {
  const std::string which = count > 1 ? arguments[1] : "";
  if (which.empty() || which == "fits") fits();
  if (which.empty() || which == "amounts") amounts();
  if (which.empty() || which == "lines") long_lines();
  return 0;
}
