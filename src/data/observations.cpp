// What every way to make observations has in common, and what they say of themselves.
#include <truecurve/base/error.hpp>
#include <truecurve/data/observations.hpp>

#include "../base/matrices.hpp"
#include "counting.hpp"
#include "observation_data.hpp"
#include "unsuitable_cells.hpp"

#include <algorithm>
#include <cmath>
#include <numeric>
#include <set>
#include <utility>

#include <fmt/format.h>

namespace truecurve {
namespace {

// Where uncertainties, trials and exposures come from that no table holds.
constexpr const char* given_with_the_data = "given with the data";

bool is_whole(double value) { return value == std::floor(value) && std::abs(value) < 0x1p53; }

}  // namespace

void detail::require_positive(double value, const std::string& subject, const char* what) {
  if (!(value > 0) || !std::isfinite(value)) {
    throw Error(
        {.code = ErrorCode::bad_uncertainty,
         .message = fmt::format("{} must be finite and greater than 0, and {} is given as {}", what, subject, value),
         .subject = subject,
         .value = fmt::format("{}", value),
         .remedy = "give the standard uncertainty, or leave it out to estimate it from the scatter"});
  }
}

void detail::require_rows(std::size_t used) {
  if (used == 0) {
    throw Error({.code = ErrorCode::no_observations,
                 .message = "no row is left to be used",
                 .remedy = "leave fewer rows out, or choose columns that have values"});
  }
}

ObservationModel detail::scattering_by_row(double scale) {
  return ObservationModel::normal({.form = Scatter::Form::by_row, .scale = scale});
}

std::string detail::fault_of_count(ResponseKind kind, double counted, double size) {
  if (kind == ResponseKind::events && !(size > 0 && is_whole(size)))
    return fmt::format("{} trials: a whole number of at least 1 is needed", shortest(size));
  if (std::isnan(size)) return "its exposure is missing";
  if (!(size > 0) || !std::isfinite(size))
    return fmt::format("an exposure of {}: it must be greater than 0", shortest(size));
  if (!(counted >= 0)) return fmt::format("{} is less than nothing: a count is 0 or more", shortest(counted));
  if (!is_whole(counted)) return fmt::format("{} is not a whole number: a count is one", shortest(counted));
  if (kind == ResponseKind::events && counted > size)
    return fmt::format("{} events among {} trial{}", shortest(counted), shortest(size), size == 1 ? "" : "s");
  return "";
}

Uncertainty Uncertainty::none() {
  Uncertainty made;
  made.kind_ = Kind::none;
  return made;
}

Uncertainty Uncertainty::number(double value) {
  detail::require_positive(value, "the standard uncertainty", "a standard uncertainty");
  Uncertainty made;
  made.kind_ = Kind::number;
  made.value_ = value;
  return made;
}

Uncertainty Uncertainty::percent(double value) {
  detail::require_positive(value, "the relative standard uncertainty in percent", "a standard uncertainty");
  Uncertainty made;
  made.kind_ = Kind::percent;
  made.value_ = value;
  return made;
}

namespace detail {

RowNumbers RowNumbers::first(std::size_t count) {
  RowNumbers made;
  made.count_ = count;
  made.all_ = true;
  return made;
}

RowNumbers::RowNumbers(const RowNumbers& other) : count_(other.count_), all_(other.all_) {
  if (!all_) numbers_ = other.numbers_;
}

RowNumbers& RowNumbers::operator=(const RowNumbers& other) {
  if (this == &other) return *this;
  count_ = other.count_;
  all_ = other.all_;
  numbers_.clear();
  if (!all_) numbers_ = other.numbers_;
  return *this;
}

std::span<const std::uint32_t> RowNumbers::list() const {
  if (!all_) return numbers_;
  const std::scoped_lock lock(making_);
  if (numbers_.empty()) {
    numbers_.resize(count_);
    std::iota(numbers_.begin(), numbers_.end(), 1u);
  }
  return numbers_;
}

}  // namespace detail

namespace {

void require_equal_lengths(const NamedColumn& response, const std::vector<NamedColumn>& predictors,
                           const Vector& uncertainties) {
  const auto differs = [&response](const Vector& values) { return values.size() != response.values.size(); };
  std::string lengths;
  bool agree = uncertainties.empty() || !differs(uncertainties);
  for (const NamedColumn& predictor : predictors) {
    agree = agree && !differs(predictor.values);
    lengths += fmt::format("{} has {} values, ", predictor.name, predictor.values.size());
  }
  if (agree) return;
  throw Error({.code = ErrorCode::bad_argument,
               .message = fmt::format("{}{} {} and the uncertainties {}", lengths, response.name,
                                      response.values.size(), uncertainties.size()),
               .subject = "Observations",
               .remedy = "give arrays of equal length"});
}

void require_names(const NamedColumn& response, const std::vector<NamedColumn>& predictors) {
  std::set<std::string> names = {response.name};
  bool are_told = !response.name.empty();
  for (const NamedColumn& predictor : predictors)
    are_told = are_told && !predictor.name.empty() && names.insert(predictor.name).second;
  if (are_told) return;
  throw Error({.code = ErrorCode::bad_argument,
               .message = "a column has no name, or two have the same",
               .subject = "Observations",
               .remedy = "give each column a name of its own"});
}

void require_finite_rows(const NamedColumn& response, const std::vector<NamedColumn>& predictors) {
  const auto fail = [&predictors](std::size_t row, const std::string& values) {
    throw Error({.code = ErrorCode::not_finite,
                 .message = fmt::format("row {}: {} must {} be finite", row + 1, values,
                                        predictors.size() == 1 ? "both" : "all"),
                 .subject = fmt::format("row {}", row + 1),
                 .remedy = "leave the row out of the arrays"});
  };
  for (std::size_t i = 0; i < response.values.size(); ++i) {
    const bool is_finite = std::isfinite(response.values[i]) &&
                           std::all_of(predictors.begin(), predictors.end(),
                                       [i](const auto& column) { return std::isfinite(column.values[i]); });
    if (is_finite) continue;
    std::string values;
    for (const NamedColumn& column : predictors) values += fmt::format("{} = {} and ", column.name, column.values[i]);
    fail(i, values + fmt::format("{} = {}", response.name, response.values[i]));
  }
}

}  // namespace

Observations Observations::of(Vector x, Vector y, Vector uncertainties) {
  std::vector<NamedColumn> predictors(1);
  predictors[0] = {"x", "", std::move(x)};
  return of_columns({"y", "", std::move(y)}, std::move(predictors), std::move(uncertainties));
}

Observations Observations::borrowed(NamedSpan response, const std::vector<NamedSpan>& predictors,
                                    std::span<const double> uncertainties) {
  std::vector<NamedColumn> columns;
  for (const NamedSpan& span : predictors) columns.push_back({span.name, span.unit, Vector::lent(span.values)});
  return of_columns({std::move(response.name), std::move(response.unit), Vector::lent(response.values)},
                    std::move(columns), Vector::lent(uncertainties));
}

Observations Observations::of_columns(NamedColumn response, std::vector<NamedColumn> predictors, Vector uncertainties) {
  require_names(response, predictors);
  require_equal_lengths(response, predictors, uncertainties);
  detail::require_rows(response.values.size());
  require_finite_rows(response, predictors);
  for (std::size_t i = 0; i < uncertainties.size(); ++i)
    detail::require_positive(std::as_const(uncertainties)[i], fmt::format("that of row {}", i + 1),
                             "a standard uncertainty");
  auto data = std::make_shared<Data>();
  data->response = {std::move(response.name), std::move(response.unit)};
  data->rows = detail::RowNumbers::first(response.values.size());
  data->rows_read = data->rows.size();
  data->responses = std::move(response.values);
  for (NamedColumn& predictor : predictors) {
    data->predictors.push_back({std::move(predictor.name), std::move(predictor.unit)});
    data->columns.push_back(std::move(predictor.values));
  }
  data->row_scatter = std::move(uncertainties);
  if (data->row_scatter.size() != 0) {
    data->model = detail::scattering_by_row(1);
    data->origin = given_with_the_data;
  }
  return Observations(std::move(data));
}

Observations Observations::counted(Vector x, const Vector& counted, Vector sizes, ResponseKind kind) {
  if (sizes.size() != counted.size() || kind == ResponseKind::measured || kind == ResponseKind::other) {
    throw Error({.code = ErrorCode::bad_argument,
                 .message = fmt::format("{} counted numbers and {} sizes of the kind '{}'", counted.size(),
                                        sizes.size(), truecurve::name(kind)),
                 .subject = "Observations::counted",
                 .remedy = "give the trials of events or the exposures of counts, one for each number"});
  }
  for (std::size_t i = 0; i < counted.size(); ++i) {
    const std::string fault = detail::fault_of_count(kind, counted[i], sizes[i]);
    if (fault.empty()) continue;
    throw Error({.code = ErrorCode::unsuitable_row,
                 .message = fmt::format("row {}: {}", i + 1, fault),
                 .subject = fmt::format("row {}", i + 1),
                 .value = shortest(counted[i]),
                 .remedy = "correct it, or leave the row out of the arrays"});
  }
  return of(std::move(x), as_eigen(counted).cwiseQuotient(as_eigen(sizes)))
      .scattering_as(ObservationModel::of(kind), std::move(sizes));
}

std::size_t Observations::size() const noexcept { return data_->rows.size(); }
const Quantity& Observations::response() const noexcept { return data_->response; }
std::span<const Quantity> Observations::predictors() const noexcept { return data_->predictors; }
const Vector& Observations::responses() const noexcept { return data_->responses; }
const Vector& Observations::predictor(std::size_t index) const {
  if (index < data_->columns.size()) return data_->columns[index];
  throw Error({.code = ErrorCode::bad_argument,
               .message = fmt::format("there is no predictor {}: the observations have {}, counted from 0", index,
                                      data_->columns.size()),
               .subject = "predictor",
               .value = fmt::format("{}", index),
               .remedy = "give an index below their number"});
}
const Vector& Observations::row_scatter() const noexcept { return data_->row_scatter; }
const Vector& Observations::uncertainties() const noexcept {
  static const Vector none;
  return has_uncertainties() ? data_->row_scatter : none;
}
double Observations::relative_uncertainty() const noexcept {
  const Scatter& scatter = data_->model.scatter();
  return has_uncertainties() && scatter.form == Scatter::Form::power ? scatter.scale : 0;
}
bool Observations::has_uncertainties() const noexcept { return data_->model.has_stated_scatter(); }
const ObservationModel& Observations::observation_model() const noexcept { return data_->model; }
const Vector& Observations::sizes() const noexcept { return data_->sizes; }
bool Observations::has_sizes() const noexcept { return (as_eigen(data_->sizes).array() != 1).any(); }
const std::string& Observations::size_origin() const noexcept { return data_->size_origin; }
const std::string& Observations::event() const noexcept { return data_->event; }
Vector Observations::counted_numbers() const {
  return as_eigen(data_->responses).cwiseProduct(as_eigen(data_->sizes)).array().round();
}
const std::string& Observations::uncertainty_origin() const noexcept { return data_->origin; }
std::span<const std::uint32_t> Observations::source_rows() const noexcept { return data_->rows.list(); }
std::span<const LeftOut> Observations::left_out() const noexcept { return data_->left_out; }
std::size_t Observations::rows_read() const noexcept { return data_->rows_read; }
Vector Observations::order() const {
  if (data_->order.size() != 0) return data_->order;
  return source_rows();
}
const TableSource& Observations::source() const noexcept { return data_->source; }
std::span<const std::string> Observations::remarks() const noexcept { return data_->remarks; }

Observations Observations::with_response(Vector values, Vector uncertainties) const {
  return with(std::move(values), std::move(uncertainties), 1);
}

Observations Observations::with_relative_scatter(Vector values, Vector row_scatter) const {
  return with(std::move(values), std::move(row_scatter), not_a_number);
}

Observations Observations::with_response(Vector values) const {
  return with(std::move(values), data_->row_scatter, has_uncertainties() ? 1 : not_a_number);
}

Observations Observations::with(Vector values, Vector row_scatter, double scale) const {
  const std::size_t n = size();
  if (values.size() != n || (row_scatter.size() != 0 && row_scatter.size() != n)) {
    throw Error({.code = ErrorCode::bad_argument,
                 .message = fmt::format("{} rows need as many values, and {} values with {} uncertainties are given", n,
                                        values.size(), row_scatter.size()),
                 .subject = "with_response",
                 .remedy = "give one value for every used row"});
  }
  auto made = std::make_shared<Data>(*data_);
  made->responses = std::move(values);
  made->model = row_scatter.size() == 0 ? ObservationModel::normal() : detail::scattering_by_row(scale);
  made->row_scatter = std::move(row_scatter);
  made->sizes = {};
  return Observations(std::move(made));
}

Observations Observations::scattering_as(ObservationModel model, Vector sizes) const {
  if (model.is_measured() || sizes.size() != size() || !(as_eigen(sizes).array() > 0).all() ||
      !as_eigen(sizes).allFinite() || has_uncertainties()) {
    throw Error({.code = ErrorCode::bad_argument,
                 .message = fmt::format("{} rows need a kernel and as many sizes above 0, no uncertainties, and {} "
                                        "sizes are given",
                                        size(), sizes.size()),
                 .subject = "scattering_as",
                 .remedy = "give one size for every used row; 1 where nothing is known"});
  }
  auto made = std::make_shared<Data>(*data_);
  made->model = std::move(model);
  made->sizes = std::move(sizes);
  if ((as_eigen(made->sizes).array() != 1).any()) made->size_origin = given_with_the_data;
  return Observations(std::move(made));
}

Observations Observations::with_counted(Vector responses) const {
  if (responses.size() != data_->responses.size()) {
    throw Error(
        {.code = ErrorCode::bad_argument,
         .message = fmt::format("{} rows need as many shares or rates, and {} are given", size(), responses.size()),
         .subject = "with_counted",
         .remedy = "give one value for every used row"});
  }
  auto made = std::make_shared<Data>(*data_);
  made->responses = std::move(responses);
  return Observations(std::move(made));
}

Observations Observations::numbered(std::vector<std::uint32_t> rows, Vector order) const {
  const bool is_ordered = order.size() == 0 || order.size() == data_->responses.size();
  if (rows.size() != size() || !is_ordered) {
    throw Error({.code = ErrorCode::bad_argument,
                 .message = fmt::format("{} rows need as many numbers and places in the order of measurement, and {} "
                                        "and {} are given",
                                        size(), rows.size(), order.size()),
                 .subject = "numbered",
                 .remedy = "give the number of every used row"});
  }
  auto made = std::make_shared<Data>(*data_);
  made->rows_read = std::max<std::size_t>(data_->rows_read, *std::max_element(rows.begin(), rows.end()));
  made->rows = detail::RowNumbers(std::move(rows));
  made->order = std::move(order);
  return Observations(std::move(made));
}

Observations Observations::without(std::span<const std::size_t> rows, const std::string& reason) const {
  std::vector<bool> out(data_->rows_read + 1, false);
  for (const std::size_t row : rows) {
    detail::require_row(row, data_->rows_read);
    out[row] = true;
  }
  auto made = std::make_shared<Data>(*data_);
  std::vector<Eigen::Index> kept;
  std::vector<std::uint32_t> numbers;
  for (std::size_t i = 0; i < data_->rows.size(); ++i) {
    if (out[data_->rows[i]]) {
      made->left_out.push_back({data_->rows[i], reason});
    } else {
      kept.push_back(static_cast<Eigen::Index>(i));
      numbers.push_back(data_->rows[i]);
    }
  }
  detail::require_rows(kept.size());
  made->rows = detail::RowNumbers(std::move(numbers));
  made->responses = as_eigen(data_->responses)(kept);
  for (std::size_t k = 0; k < data_->columns.size(); ++k) made->columns[k] = as_eigen(data_->columns[k])(kept);
  if (data_->row_scatter.size() != 0) made->row_scatter = as_eigen(data_->row_scatter)(kept);
  if (data_->sizes.size() != 0) made->sizes = as_eigen(data_->sizes)(kept);
  if (data_->order.size() != 0) made->order = as_eigen(data_->order)(kept);
  std::stable_sort(made->left_out.begin(), made->left_out.end(),
                   [](const LeftOut& a, const LeftOut& b) { return a.row < b.row; });
  return Observations(std::move(made));
}

}  // namespace truecurve
