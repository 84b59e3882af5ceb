// Shared by the tests.
#include "support.hpp"

#include <truecurve/io/csv.hpp>
#include <truecurve/io/record.hpp>

#include "../app/run.hpp"

#include <charconv>
#include <clocale>
#include <cstdlib>
#include <fstream>
#include <iomanip>
#include <locale>
#include <random>

#include <dlfcn.h>

namespace {

// Numbers are written with a point whatever the locale of the program is: comma_locale.sh runs the tests in another.
[[maybe_unused]] const bool is_in_locale = [] {
  const char* const name = std::getenv("TRUECURVE_TEST_LOCALE");
  if (name == nullptr) return false;
  std::locale::global(std::locale(name));  // throws where there is none
  if (std::string(std::localeconv()->decimal_point) != ",") std::abort();
  return true;
}();

}  // namespace

namespace truecurve::test {

double number_of(const std::string& text) {
  const char* const begin = text.c_str() + (text.starts_with('+') ? 1 : 0);
  double value = not_a_number;
  std::from_chars(begin, text.c_str() + text.size(), value);
  return value;
}

long double long_number_of(const std::string& text) {
  std::istringstream stream(text);
  stream.imbue(std::locale::classic());
  long double value = 0;
  stream >> value;
  return value;
}

std::filesystem::path source_folder() { return TRUECURVE_SOURCE_FOLDER; }

std::string demo_file(const std::string& name) { return (source_folder() / "demo" / name).string(); }

// The tests are compiled once and linked with either library.
bool is_sanitized() {
  static const bool is = dlsym(RTLD_DEFAULT, "__asan_init") != nullptr;
  return is;
}

int simulated_sets(int fewer, int more) {
  if (is_sanitized()) return more > fewer ? std::clamp(fewer / 20, 2, 20) : fewer;
  return std::getenv("TRUECURVE_LONG_RUN") != nullptr ? more : fewer;
}

void update_docs_table(const std::string& mark, const std::string& table) {
  if (std::getenv("TRUECURVE_UPDATE_DOCS") == nullptr) return;
  const auto file = source_folder() / "docs/methods.md";
  std::string text = file_text(file);
  const auto at = text.find(mark);
  ASSERT_NE(at, std::string::npos) << mark;
  const auto from = at + mark.size();
  text.replace(from, text.find("<!-- end -->", from) - from, table);
  std::ofstream(file) << text;
}

std::string file_text(const std::filesystem::path& file) {
  std::ifstream stream(file, std::ios::binary);
  return {std::istreambuf_iterator<char>(stream), {}};
}

std::vector<nlohmann::json> reference_cases(const std::string& folder) {
  std::vector<nlohmann::json> cases;
  for (const auto& entry : std::filesystem::directory_iterator(source_folder() / "tests/reference" / folder)) {
    cases.push_back(nlohmann::json::parse(file_text(entry.path())));
  }
  std::sort(cases.begin(), cases.end(), [](const auto& a, const auto& b) { return a["name"] < b["name"]; });
  return cases;
}

nlohmann::json reference_case(const std::string& folder, const std::string& name) {
  for (nlohmann::json& one : reference_cases(folder)) {
    if (one["name"] == name) return std::move(one);
  }
  throw std::runtime_error(name);
}

Observations line_rows(Eigen::Index rows, std::uint64_t seed) {
  RandomNumbers random(seed);
  const VectorXd x = VectorXd::LinSpaced(rows, 0, 10);
  VectorXd y(rows);
  for (Eigen::Index i = 0; i < rows; ++i) y[i] = 3 + 2 * x[i] + random.normal();
  return Observations::of(x, y);
}

Observations saturation_rows(double scatter, std::uint64_t seed, Eigen::Index rows) {
  RandomNumbers random(seed);
  const VectorXd x = VectorXd::LinSpaced(rows, 0.5, 6);
  VectorXd y(rows);
  for (Eigen::Index i = 0; i < rows; ++i) y[i] = 10 * x[i] / (3 + x[i]) + scatter * random.normal();
  return Observations::of(x, y);
}

Table case_table(const nlohmann::json& reference) {
  std::stringstream text;
  const auto write_row = [&text](const nlohmann::json& row) {
    for (std::size_t i = 0; i < row.size(); ++i) text << (i > 0 ? "," : "") << row[i].get<std::string>();
    text << '\n';
  };
  write_row(reference["columns"]);
  for (const auto& row : reference["rows"]) write_row(row);
  return read_csv(text, reference["name"]);
}

Fit case_fit(const nlohmann::json& reference) {
  const Table table = case_table(reference);
  const Model model = Model::written(reference["model"].get<std::string>());
  std::vector<std::string> predictors;
  for (const std::string& name : model.right_side_names()) {
    if (table.has_column(name)) predictors.push_back(name);
  }
  const bool given = reference["uncertainty_from"] == "given";
  const Observations observations(table, {.response = model.response(),
                                          .predictors = predictors,
                                          .response_uncertainty = given ? Uncertainty("u") : Uncertainty::none()});
  return fit(model, observations);
}

double digits(double got, const std::string& wanted) {
  const double value = number_of(wanted);
  if (got == value) return 15;
  if (value == 0) return std::abs(got) < 1e-9 ? 15 : 0;
  return std::clamp(-std::log10(std::abs(got - value) / std::abs(value)), 0.0, 15.0);
}

VectorXd curve_values(const Model& model, const std::vector<double>& parameters, const VectorXd& x) {
  // Through a simulation without scatter: the public way to evaluate a model.
  const Model bound = model.is_bound() ? model : model.with_predictors({"x"});
  std::vector<Start> truth;
  for (std::size_t j = 0; j < parameters.size(); ++j) truth.push_back({bound.parameters()[j], parameters[j]});
  const Vector places = x;
  return as_eigen(simulate(bound, truth, std::span(&places, 1)).truth);
}

::testing::AssertionResult prints_as(double got, const std::string& printed) {
  const auto point = printed.find('.');
  const std::size_t decimals = point == std::string::npos ? 0 : printed.size() - point - 1;
  const std::string text = fmt::format("{:.{}f}", got, decimals);
  if (text == printed) return ::testing::AssertionSuccess();
  return ::testing::AssertionFailure() << got << " prints as " << text << ", published is " << printed;
}

LongMatrix inverse(LongMatrix a) {
  const std::size_t n = a.size();
  LongMatrix result(n, std::vector<long double>(n, 0));
  for (std::size_t i = 0; i < n; ++i) result[i][i] = 1;
  // Gauss and Jordan, with the largest pivot of each column.
  for (std::size_t k = 0; k < n; ++k) {
    std::size_t pivot = k;
    for (std::size_t i = k; i < n; ++i) {
      if (std::abs(a[i][k]) > std::abs(a[pivot][k])) pivot = i;
    }
    std::swap(a[k], a[pivot]);
    std::swap(result[k], result[pivot]);
    const long double by = a[k][k];
    for (std::size_t j = 0; j < n; ++j) {
      a[k][j] /= by;
      result[k][j] /= by;
    }
    for (std::size_t i = 0; i < n; ++i) {
      const long double times = a[i][k];
      for (std::size_t j = 0; i != k && j < n; ++j) {
        a[i][j] -= times * a[k][j];
        result[i][j] -= times * result[k][j];
      }
    }
  }
  return result;
}

MatrixXd inverse(const MatrixXd& matrix) {
  const auto n = static_cast<std::size_t>(matrix.rows());
  LongMatrix rows(n, std::vector<long double>(n));
  const auto at = [](std::size_t i) { return static_cast<Eigen::Index>(i); };
  for (std::size_t i = 0; i < n; ++i) {
    for (std::size_t j = 0; j < n; ++j) rows[i][j] = matrix(at(i), at(j));
  }
  rows = inverse(std::move(rows));
  MatrixXd result(matrix.rows(), matrix.cols());
  for (std::size_t i = 0; i < n; ++i) {
    for (std::size_t j = 0; j < n; ++j) result(at(i), at(j)) = static_cast<double>(rows[i][j]);
  }
  return result;
}

MatrixXd triangle(const MatrixXd& matrix) {
  MatrixXd q = matrix;
  MatrixXd r = MatrixXd::Zero(matrix.cols(), matrix.cols());
  for (Eigen::Index k = 0; k < q.cols(); ++k) {
    for (int pass = 0; pass < 2; ++pass) {
      for (Eigen::Index i = 0; i < k; ++i) {
        const double along = q.col(i).dot(q.col(k));
        r(i, k) += along;
        q.col(k) -= along * q.col(i);
      }
    }
    r(k, k) = q.col(k).norm();
    q.col(k) /= r(k, k);
  }
  return r;
}

namespace {

// Whatever record a command makes is as its schema says.
void expect_record(const std::string& text) {
  if (text.starts_with("{")) EXPECT_NO_THROW(require_record(text, "made by the command"));
}

}  // namespace

void add_to(Readings& readings, Reading reading) {
  reading.row = readings.all.size() + 1;
  readings.all.push_back(std::move(reading));
}

void add_blanks(Readings& readings, const std::vector<double>& signals) {
  for (const double signal : signals) add_to(readings, {.kind = ReadingKind::blank, .signal = signal});
}

const LimitRoute& route_of(const Calibration& calibration, std::string_view name) {
  for (const LimitRoute& route : calibration.limits) {
    if (truecurve::name(route.route) == name) return route;
  }
  throw std::out_of_range(std::string(name));
}

std::vector<std::string> parted(const std::string& texts) {
  std::vector<std::string> all;
  std::istringstream stream(texts);
  for (std::string text; std::getline(stream >> std::ws, text, ';');) all.push_back(text);
  return all;
}

::testing::AssertionResult has(std::string_view text, std::string_view part) {
  const bool is_there = text.find(part) != std::string_view::npos;
  return (is_there ? ::testing::AssertionSuccess() : ::testing::AssertionFailure())
         << "'" << part << (is_there ? "' is in '" : "' is not in '") << text << "'";
}

CommandResult run_command(std::vector<std::string> arguments, const std::string& input) {
  const std::vector<std::string> given = arguments;
  std::istringstream in(input);
  std::ostringstream out;
  std::ostringstream error;
  CommandResult result;
  result.code = app::run(std::move(arguments), {in, out, error});
  result.out = out.str();
  result.error = error.str();
  if (result.code != 0) return result;
  expect_record(result.out);
  const auto output = std::find(given.begin(), given.end(), "--output");
  if (output != given.end() && std::filesystem::is_regular_file(*(output + 1))) expect_record(file_text(*(output + 1)));
  return result;
}

nlohmann::json json_of(const CommandResult& result) {
  if (result.code != 0) throw std::runtime_error(result.error);
  return nlohmann::json::parse(result.out);
}

CommandResult run_typed(const std::string& line, const std::string& input) {
  std::vector<std::string> words;
  std::istringstream typed(line);
  const auto quote = [&typed] { return (typed >> std::ws).peek() == '"' ? '"' : '\''; };
  for (std::string word; typed >> std::quoted(word, quote());)
    words.push_back(word.starts_with("demo/") ? demo_file(word.substr(5)) : word);
  return run_command(std::move(words), input);
}

TemporaryFolder::TemporaryFolder() {
  std::random_device random;
  path_ = std::filesystem::temp_directory_path() / fmt::format("truecurve-{:08x}{:08x}", random(), random());
  std::filesystem::create_directories(path_);
}

TemporaryFolder::~TemporaryFolder() {
  std::error_code ignored;
  std::filesystem::remove_all(path_, ignored);
}

}  // namespace truecurve::test
