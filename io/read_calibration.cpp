// Calibrations back from JSON.
#include <truecurve/io/calibration_record.hpp>

#include "calibration_json.hpp"
#include "fit_json.hpp"

#include <algorithm>
#include <cmath>

#include <fmt/format.h>

namespace truecurve {

using detail::Json;
using detail::RecordReader;

namespace {

Counting read_counting(const RecordReader& reader) {
  Counting counting;
  if (!reader.is_given("/columns/exposure")) return counting;
  counting.kind = ResponseKind::counts;
  if (reader.is_text("/columns/exposure")) {
    counting.size_column = reader.get<std::string>("/columns/exposure");
  } else {
    counting.size = reader.get<double>("/columns/exposure");
  }
  return counting;
}

template <typename Names>
std::size_t index_in(const Names& names, const RecordReader& reader, const std::string& pointer) {
  const auto text = reader.get<std::string>(pointer);
  const auto at = std::find(names.begin(), names.end(), text);
  if (at == names.end()) reader.fail(pointer, "this word is not known");
  return static_cast<std::size_t>(at - names.begin());
}

double given_or_nan(const RecordReader& reader, const std::string& pointer) {
  return reader.is_given(pointer) ? reader.get<double>(pointer) : not_a_number;
}

void require_what_the_form_needs(const RecordReader& reader, const std::string& at, const Scatter& scatter) {
  const auto require = [&](bool is_given, const char* field) {
    if (!is_given) reader.fail(at + field, "this form of scatter needs a value here");
  };
  require(!std::isnan(scatter.scale), "/scale");
  if (scatter.form == Scatter::Form::power) require(!std::isnan(scatter.power), "/power");
  if (scatter.form == Scatter::Form::tabulated) require(!scatter.table.empty(), "/table");
  if (scatter.form != Scatter::Form::growing) return;
  require(!std::isnan(scatter.growing.constant), "/constant");
  require(!std::isnan(scatter.growing.slope), "/slope");
}

Scatter read_scatter(const RecordReader& reader, const std::string& at) {
  Scatter scatter{.form = detail::forms.at(index_in(detail::form_names, reader, at + "/form")),
                  .scale = reader.number_or_nan(at + "/scale"),
                  .power = reader.number_or_nan(at + "/power"),
                  .offset = reader.is_given(at + "/offset") ? reader.get<double>(at + "/offset") : 0};
  scatter.growing.constant = reader.number_or_nan(at + "/constant");
  scatter.growing.slope = reader.number_or_nan(at + "/slope");
  for (std::size_t i = 0; i < reader.length(at + "/table"); ++i) {
    const std::string row = fmt::format("{}/table/{}", at, i);
    scatter.table.emplace_back(reader.get<double>(row + "/signal"), reader.get<double>(row + "/sd"));
    if (i > 0 && !(scatter.table[i - 1].first < scatter.table[i].first))
      reader.fail(row + "/signal", "the signals of the table must increase");
  }
  require_what_the_form_needs(reader, at, scatter);
  return scatter;
}

struct Axes {
  Quantity amount;
  Quantity signal;
};

// A curve that reads amounts: of one predictor, the amount, and of the signal.
void require_same_names(const RecordReader& reader, const std::string& at, const Estimate& estimate, const Axes& axes) {
  if (estimate.predictors().size() != 1 || estimate.predictors()[0].name != axes.amount.name)
    reader.fail(at + "/data/predictors",
                fmt::format("the curve must have the amount '{}' as its only predictor", axes.amount.name));
  if (estimate.response().name != axes.signal.name)
    reader.fail(at + "/data/response/name", fmt::format("the response must be the signal '{}'", axes.signal.name));
}

Estimate read_curve(const RecordReader& reader, const std::string& at, const Axes& axes) {
  Estimate estimate = detail::read_fit(reader.inner(at));
  require_same_names(reader, at, estimate, axes);
  return estimate;
}

std::vector<Weighting> read_weightings(const RecordReader& reader, const Axes& axes) {
  std::vector<Weighting> weightings;
  if (!reader.is_given("/curve/weightings")) return weightings;
  double sum = 0;
  for (std::size_t i = 0; i < reader.length("/curve/weightings"); ++i) {
    const std::string at = fmt::format("/curve/weightings/{}", i);
    const auto weight = reader.get<double>(at + "/weight");
    sum += weight;
    const Estimate estimate = read_curve(reader, at + "/estimate", axes);
    weightings.push_back({weight, estimate, read_scatter(reader, at + "/scatter")});
  }
  if (!weightings.empty() && !(std::abs(sum - 1) < 1e-9))
    reader.fail("/curve/weightings", fmt::format("the weights add up to {}, not to 1", sum));
  return weightings;
}

ReadingColumns read_columns(const RecordReader& reader) {
  ReadingColumns columns;
  columns.amount = reader.get<std::string>("/columns/amount");
  columns.signals = reader.get<std::vector<std::string>>("/columns/signals");
  columns.kind = reader.get<std::string>("/columns/kind");
  columns.sample = reader.get<std::string>("/columns/sample");
  columns.dilution = reader.get<std::string>("/columns/dilution");
  columns.counting = read_counting(reader);
  return columns;
}

Quantity read_quantity(const RecordReader& reader, const std::string& at) {
  return {reader.get<std::string>(at + "/name"), reader.get<std::string>(at + "/unit")};
}

CalibrationCurve read_calibration_curve(const RecordReader& reader, const Axes& axes, bool are_counts) {
  const Estimate estimate = read_curve(reader, "/curve/estimate", axes);
  const Estimate without_blank = read_curve(reader, "/curve/without_blank", axes);
  CalibrationCurve curve{.estimate = estimate, .without_blank = without_blank};
  curve.scatter = read_scatter(reader, "/curve/scatter");
  curve.blank = reader.get<double>("/curve/blank");
  curve.level = reader.get<double>("/curve/level");
  curve.are_counts = reader.is_given("/curve/are_counts") && reader.get<bool>("/curve/are_counts");
  if (curve.are_counts != are_counts)
    reader.fail("/curve/are_counts",
                "this must be true where 'columns' names an exposure, and false where it does not");
  if (reader.is_given("/curve/blank_degrees_of_freedom"))
    curve.blank_degrees_of_freedom = reader.get<double>("/curve/blank_degrees_of_freedom");
  curve.weightings = read_weightings(reader, axes);
  curve.scatter_at_zero = given_or_nan(reader, "/curve/scatter_at_zero");
  curve.scatter_at_zero_degrees_of_freedom = given_or_nan(reader, "/curve/scatter_at_zero_degrees_of_freedom");
  return curve;
}

}  // namespace

StoredCalibration read_calibration_record(std::string_view json, const std::string& source) {
  const RecordReader reader = RecordReader::of(json, source);
  reader.require_kind({"truecurve.calibration/1"});
  if (reader.get<std::string>("/checksum") != detail::checksum_of(Json::parse(json))) {
    reader.fail("/checksum", "it is not that of the content: the calibration was changed or damaged after it was made");
  }
  const Axes axes{read_quantity(reader, "/amount"), read_quantity(reader, "/signal")};
  const ReadingColumns columns = read_columns(reader);
  StoredCalibration stored{.curve =
                               read_calibration_curve(reader, axes, columns.counting.kind == ResponseKind::counts)};
  stored.amount = axes.amount;
  stored.signal = axes.signal;
  stored.columns = columns;
  stored.limits.alpha = reader.get<double>("/limit_options/alpha");
  stored.limits.beta = reader.get<double>("/limit_options/beta");
  stored.limits.readings = reader.get<int>("/limit_options/readings");
  if (reader.is_given("/day")) stored.day = reader.get<std::string>("/day");
  return stored;
}

}  // namespace truecurve
