// Fit records back from JSON.
#include <truecurve/base/error.hpp>
#include <truecurve/io/record.hpp>

#include "../src/fit/estimate_parts.hpp"
#include "../src/fit/restoring.hpp"
#include "agreement.hpp"
#include "fit_json.hpp"
#include "json.hpp"

#include <algorithm>
#include <cmath>
#include <optional>

#include <fmt/format.h>

namespace truecurve {

using detail::RecordReader;

// The places of the fitted parameters among all.
std::vector<std::size_t> detail::places_of(const Model& model) {
  std::vector<std::size_t> places;
  for (const std::string& name : model.parameters()) {
    const auto& all = model.all_parameters();
    places.push_back(static_cast<std::size_t>(std::find(all.begin(), all.end(), name) - all.begin()));
  }
  return places;
}

namespace {

// From uncertainties and correlations, which stay in range where the squares of a covariance do not; an older record
// within another holds the covariance only.
detail::UncertaintiesAndCorrelation uncertainties_of(const detail::RecordReader& reader, const Matrix& covariance,
                                                     const std::vector<std::size_t>& places) {
  if (!reader.is_given("/correlation")) return restoring::taken_apart(as_eigen(covariance)(places, places));
  const Matrix correlation = reader.matrix("/correlation", covariance.rows());
  Vector uncertainties(places.size());
  detail::UncertaintiesAndCorrelation made{{}, as_eigen(correlation)(places, places)};
  for (std::size_t j = 0; j < places.size(); ++j) {
    uncertainties[j] = reader.number_or_nan(fmt::format("/parameters/{}/standard_uncertainty", places[j]));
    // Beside a parameter at its limit, or whose uncertainty is 0 or not known, nothing is correlated.
    if (uncertainties[j] > 0 || covariance(places[j], places[j]) != 0) continue;
    uncertainties[j] = 0;
    made.correlation.row(static_cast<Eigen::Index>(j)).setZero();
    made.correlation.col(static_cast<Eigen::Index>(j)).setZero();
  }
  made.standard_uncertainties = as_eigen(uncertainties);
  return made;
}

}  // namespace

void require_record(std::string_view json, const std::string& source) {
  const RecordReader reader = RecordReader::of(json, source);
  if (!detail::has_schema(reader.kind()))
    reader.fail("/record", fmt::format("{} is not a known kind of record", reader.kind()));
  reader.require_kind({reader.kind()});
}

Estimate read_fit_record(std::string_view json, const std::string& source) {
  const RecordReader reader = RecordReader::of(json, source);
  reader.require_kind({"truecurve.fit/1", "truecurve.censored/1", "truecurve.penalised/1"});
  return detail::read_fit(reader);
}

std::optional<Fit> read_counted_fit(std::string_view json, const std::string& source) {
  const RecordReader reader = RecordReader::of(json, source);
  reader.require_kind({"truecurve.fit/1", "truecurve.censored/1", "truecurve.penalised/1"});
  if (reader.kind() != "truecurve.fit/1") return std::nullopt;
  const Estimate estimate = detail::read_fit(reader);
  if (!estimate.is_counted() || !reader.is_given("/counted_rows")) return std::nullopt;
  const auto numbers = reader.get<std::vector<double>>("/counted_rows/numbers");
  std::vector<NamedNumbers> columns = {{estimate.response().name, estimate.response().unit, numbers},
                                       {"(size)", "", reader.get<std::vector<double>>("/counted_rows/sizes")}};
  Choice choice{.response = estimate.response().name,
                .counting = {.kind = estimate.observation_model().kind(), .size_column = "(size)"}};
  for (std::size_t k = 0; k < estimate.predictors().size(); ++k) {
    const Quantity& predictor = estimate.predictors()[k];
    columns.push_back({predictor.name, predictor.unit,
                       reader.get<std::vector<double>>(fmt::format("/counted_rows/predictors/{}", k))});
    choice.predictors.push_back(predictor.name);
  }
  FitOptions options{.uncertainty = estimate.basis()};
  const auto& names = estimate.parameter_names();
  for (std::size_t j = 0; j < names.size(); ++j) {
    options.starts.push_back({names[j], estimate.parameters()[j]});
    if (estimate.limits().empty()) continue;
    options.within.push_back({names[j], estimate.limits()[j].low, estimate.limits()[j].high});
  }
  try {
    return fit(estimate.model(), Observations(Table::from_columns(columns), choice), options);
  } catch (const Error& error) {
    reader.fail("/counted_rows", fmt::format("the curve can't be fitted to these rows again: {}", error.what()));
  }
}

namespace {

// The parameters as a record lists them, and the model with those that are held.
struct ReadParameters {
  std::vector<std::string> names;
  std::vector<double> fitted;
  std::vector<FixedParameter> fixed;
  std::vector<Range> limits;  // empty where none has limits
  std::optional<OpenEnd> open_end;
};

Range read_limits(const RecordReader& reader, const std::string& at) {
  const double low = reader.number_or_nan(at + "/within/low");
  const double high = reader.number_or_nan(at + "/within/high");
  return {std::isnan(low) ? -infinity : low, std::isnan(high) ? infinity : high};
}

ReadParameters read_parameters(const RecordReader& reader) {
  ReadParameters read;
  bool limited = false;
  for (std::size_t j = 0; j < reader.length("/parameters"); ++j) {
    const std::string at = fmt::format("/parameters/{}", j);
    read.names.push_back(reader.get<std::string>(at + "/name"));
    const auto value = reader.get<double>(at + "/value");
    if (reader.get<bool>(at + "/fixed")) {
      read.fixed.push_back({read.names.back(), value});
      continue;
    }
    read.fitted.push_back(value);
    const bool has_limits = reader.is_given(at + "/within");
    limited = limited || has_limits;
    read.limits.push_back(has_limits ? read_limits(reader, at) : Range{-infinity, infinity});
    for (const bool upwards : {true, false}) {
      const std::string end = at + (upwards ? "/within/at_least" : "/within/at_most");
      if (!has_limits || !reader.is_given(end)) continue;
      read.open_end = OpenEnd{static_cast<int>(read.fitted.size()) - 1, upwards, reader.get<double>(end)};
      if (upwards ? read.fitted.back() < read.open_end->bound : read.fitted.back() > read.open_end->bound)
        reader.fail(end, "the value at which the parameter is held lies on the other side");
      if (read.open_end->bound == 0) reader.fail(end, "the bound of a parameter with one end only is not 0");
    }
  }
  if (!limited) read.limits.clear();
  return read;
}

ResponseKind read_response_kind(const RecordReader& reader) {
  // Records of before 0.2 know measured responses only.
  if (!reader.is_given("/response_kind")) return ResponseKind::measured;
  const auto word = reader.get<std::string>("/response_kind");
  for (const ResponseKind kind : {ResponseKind::measured, ResponseKind::events, ResponseKind::counts}) {
    if (name(kind) == word) return kind;
  }
  reader.fail("/response_kind", "measured, events or counts is needed here");
}

UncertaintyBasis read_basis(const RecordReader& reader) {
  const auto basis = reader.get<std::string>("/uncertainty");
  if (basis != "stated" && basis != "scatter") reader.fail("/uncertainty", "stated or scatter is needed here");
  return basis == "stated" ? UncertaintyBasis::stated : UncertaintyBasis::scatter;
}

Scatter read_new_observation(const RecordReader& reader) {
  const auto& names = detail::scatter_form_names;
  const auto at = std::find(names.begin(), names.end(), reader.get<std::string>("/working/new_observation/kind"));
  if (at == names.end()) reader.fail("/working/new_observation/kind", "this kind is not known");
  return {.form = static_cast<Scatter::Form>(at - names.begin()),
          .scale = reader.number_or_nan("/working/new_observation/value"),
          .power = reader.number_or_nan("/working/new_observation/exponent")};
}

// The model with the parameters that are held. Throws Error (bad_record).
Model read_model(const RecordReader& reader, const std::vector<std::string>& predictors, const ReadParameters& read) {
  try {
    const Model free = Model::written(reader.get<std::string>("/model/text")).with_predictors(predictors);
    if (free.all_parameters() != read.names) reader.fail("/parameters", "the parameters are not those of the model");
    return read.fixed.empty() ? free : free.with_fixed(read.fixed);
  } catch (const Error& error) {
    if (error.code() == ErrorCode::bad_record) throw;
    reader.fail("/model/text", error.message());
  }
}

}  // namespace

Estimate detail::read_fit(const RecordReader& reader) {
  std::vector<Quantity> predictors;
  std::vector<std::string> names;
  std::vector<Range> ranges;
  for (std::size_t k = 0; k < reader.length("/data/predictors"); ++k) {
    const std::string at = fmt::format("/data/predictors/{}", k);
    predictors.push_back({reader.get<std::string>(at + "/name"), reader.get<std::string>(at + "/unit")});
    names.push_back(predictors.back().name);
    ranges.push_back({reader.get<double>(at + "/low"), reader.get<double>(at + "/high")});
  }
  if (reader.get<std::string>("/model/kind") == "function")
    reader.fail("/model/kind", "this is the fit of C++ code, which a record can't hold: its curve can't be restored");
  const ReadParameters read = read_parameters(reader);
  const Model model = read_model(reader, names, read);
  const std::size_t p = read.fitted.size();
  const Matrix covariance = reader.matrix("/covariance", read.names.size());
  UncertaintiesAndCorrelation uncertain = uncertainties_of(reader, covariance, places_of(model));
  EstimateParts parts = {
      .model = model,
      .parameters = read.fitted,
      .standard_uncertainties = uncertain.standard_uncertainties,
      .correlation = std::move(uncertain.correlation),
      .degrees_of_freedom = reader.get<double>("/degrees_of_freedom"),
      .basis = read_basis(reader),
      .scale = reader.number_or_nan("/working/scale"),
      .new_observation = read_new_observation(reader),
      .response = {reader.get<std::string>("/data/response/name"), reader.get<std::string>("/data/response/unit")},
      .observation_model = ObservationModel::of(read_response_kind(reader)),
      .predictors = predictors,
      .ranges = ranges,
      .limits = read.limits,
      .open_end = read.open_end,
      .working = {.centre = as_eigen(reader.vector("/working/centre", p)),
                  .parameters = as_eigen(reader.vector("/working/parameters", p)),
                  .inverse_factor = as_eigen(reader.matrix("/working/inverse_factor", p)),
                  .middle = reader.get<double>("/working/middle"),
                  .half_width = reader.get<double>("/working/half_width")}};
  const auto places = places_of(parts.model);
  require_agreement(reader, parts, Matrix(as_eigen(covariance)(places, places)));
  return made_of(std::move(parts));
}

}  // namespace truecurve
