// What the tests share: the core, the headers of most tests, published cases, and the command without a process.
#pragma once

#include <truecurve/base/eigen.hpp>
#include <truecurve/truecurve.hpp>

#include <algorithm>
#include <cmath>
#include <filesystem>
#include <functional>
#include <limits>
#include <map>
#include <numbers>
#include <numeric>
#include <set>
#include <sstream>
#include <string>
#include <tuple>
#include <vector>

#include <fmt/format.h>
#include <gtest/gtest.h>
#include <nlohmann/json.hpp>

namespace truecurve {

using Eigen::MatrixXd;
using Eigen::VectorXd;

}  // namespace truecurve

namespace truecurve::test {

/// Numbers as a column.
inline VectorXd vector(const std::vector<double>& values) {
  return Eigen::Map<const VectorXd>(values.data(), static_cast<Eigen::Index>(values.size()));
}

/// The number that a text begins with, whatever the locale.
double number_of(const std::string& text);
long double long_number_of(const std::string& text);

/// The root of the source tree.
std::filesystem::path source_folder();
/// A file of the demo, by its name.
std::string demo_file(const std::string& name);

/// Every published case in a folder of tests/reference, by name.
std::vector<nlohmann::json> reference_cases(const std::string& folder);

/// One of them. Throws std::runtime_error where there is none of that name.
nlohmann::json reference_case(const std::string& folder, const std::string& name);

/// A case's data as a table, read through the CSV reader as a user's file would be.
Table case_table(const nlohmann::json& reference);

/// The fit of a case as published: its model, its weights, its kind of uncertainty.
Fit case_fit(const nlohmann::json& reference);

/// Matching significant digits, -log10 of the relative error, at most 15.
double digits(double got, const std::string& wanted);

/// Readings of 3 + 2 x at equal steps from 0 to 10, with a scatter of 1.
Observations line_rows(Eigen::Index rows, std::uint64_t seed);
/// Readings of 10 x/(3 + x) at equal steps from 0.5 to 6.
Observations saturation_rows(double scatter = 0.25, std::uint64_t seed = 31, Eigen::Index rows = 8);

/// One more reading, of the next row; readings of blanks.
void add_to(Readings& readings, Reading reading);
void add_blanks(Readings& readings, const std::vector<double>& signals);

/// A route to the limits, by its name.
const LimitRoute& route_of(const Calibration& calibration, std::string_view name);

/// A curve at given parameters: what a fit of data without scatter must return.
VectorXd curve_values(const Model& model, const std::vector<double>& parameters, const VectorXd& x);

/// Whether a value rounds to a published text at the decimal place it is printed with.
::testing::AssertionResult prints_as(double got, const std::string& printed);

/// Whether a text has a part; a failure shows both.
::testing::AssertionResult has(std::string_view text, std::string_view part);

/// The texts that stand between semicolons.
std::vector<std::string> parted(const std::string& texts);

/// The Error that an action throws; a failure of the test where it throws none.
template <typename Action>
Error caught(Action action) {
  try {
    action();
  } catch (const Error& error) {
    return error;
  }
  ADD_FAILURE() << "nothing was thrown";
  return Error({});
}

/// Linear algebra by hand, in long double: independent of the library's, and of templates that compile slowly.
using LongMatrix = std::vector<std::vector<long double>>;
LongMatrix inverse(LongMatrix matrix);
MatrixXd inverse(const MatrixXd& matrix);
/// The triangle of a QR decomposition by Gram and Schmidt, done twice; its diagonal is positive.
MatrixXd triangle(const MatrixXd& matrix);

/// What the command did.
struct CommandResult {
  int code = -1;
  std::string out, error;
};
CommandResult run_command(std::vector<std::string> arguments, const std::string& input = "");
/// The same of a line as it is typed, with words 'in quotes' or "double" ones, and demo/... for a file of the demo.
CommandResult run_typed(const std::string& line, const std::string& input = "");

/// What it wrote, as JSON. Throws std::runtime_error with what it said where it did not end well.
nlohmann::json json_of(const CommandResult& result);

/// A folder that is removed at the end.
class TemporaryFolder {
 public:
  TemporaryFolder();
  ~TemporaryFolder();
  TemporaryFolder(const TemporaryFolder&) = delete;
  TemporaryFolder& operator=(const TemporaryFolder&) = delete;
  [[nodiscard]] std::filesystem::path operator/(const std::string& name) const { return path_ / name; }
  [[nodiscard]] const std::filesystem::path& path() const { return path_; }

 private:
  std::filesystem::path path_;
};

/// With TRUECURVE_UPDATE_DOCS set, replaces what stands between a mark and "<!-- end -->" in docs/methods.md.
void update_docs_table(const std::string& mark, const std::string& table);

/// How many data sets are simulated: `fewer` in every check, `more` with TRUECURVE_LONG_RUN set, and a few under the
/// sanitizers, which watch the code and not the rates.
int simulated_sets(int fewer, int more);

/// Under the sanitizers, which make everything some twenty times slower.
bool is_sanitized();

std::string file_text(const std::filesystem::path& file);

}  // namespace truecurve::test

namespace truecurve {
using test::add_blanks;
using test::add_to;
using test::has;
using test::route_of;
}  // namespace truecurve
