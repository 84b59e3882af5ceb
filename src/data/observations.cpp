// Takes the chosen columns out of a table, checks every value a fit will use, and keeps account of what was left out.
#include <truecurve/base/error.hpp>
#include <truecurve/data/observations.hpp>
#include <truecurve/data/units.hpp>

#include "../base/matrices.hpp"
#include "counting.hpp"
#include "limit_cell.hpp"

#include <algorithm>
#include <cctype>
#include <cmath>
#include <numeric>
#include <utility>

#include <fmt/format.h>

namespace truecurve {

struct Observations::Data {
  Quantity response;
  std::vector<Quantity> predictors;
  Vector responses;
  std::vector<Vector> columns;
  Vector row_scatter;
  ObservationModel model;
  Vector sizes;  // trials or exposures of a counted response
  std::string size_origin;
  std::string event;
  std::string origin;
  std::vector<std::uint32_t> rows;
  Vector order;  // of measurement; empty where it is that of the rows
  std::vector<LeftOut> left_out;
  std::size_t rows_read = 0;
  TableSource source;
  std::vector<std::string> remarks;
};

namespace {

void require_positive(double value, const std::string& subject, const char* what) {
  if (!(value > 0) || !std::isfinite(value)) {
    throw Error(
        {.code = ErrorCode::bad_uncertainty,
         .message = fmt::format("{} must be finite and greater than 0, and {} is given as {}", what, subject, value),
         .subject = subject,
         .value = fmt::format("{}", value),
         .remedy = "give the standard uncertainty, or leave it out to estimate it from the scatter"});
  }
}

[[noreturn]] void fail_text(const Table& table, const Column& column, std::size_t row, const std::string& text) {
  if (const auto limit = detail::limit_cell(text)) {
    throw Error(
        {.code = ErrorCode::text_in_numbers,
         .message = fmt::format("{}, column '{}': '{}' is a limit, not a measured value (a censored result)",
                                row_text(table, row), column.name, text),
         .subject = column.name,
         .value = text,
         .remedy = {"least squares has no place for it: say how the responses scatter",
                    {Action::choose_distribution},
                    ", and such rows count as what they are. Without them",
                    {Action::leave_row_out, fmt::format("{}", row + 1)},
                    fmt::format(" the fit is biased, because the rows left out are the {} ones; putting the limit in "
                                "as a value biases it, too",
                                limit->censoring == Censoring::above ? "high" : "low")},
         .place = {.file = table.source().name, .line = table.line(row)}});
  }
  throw Error({.code = ErrorCode::text_in_numbers,
               .message = fmt::format("{}, column '{}': '{}' is no number", row_text(table, row), column.name, text),
               .subject = column.name,
               .value = text,
               .remedy = {"correct the cell, write NA if it is missing, or leave the row out",
                          {Action::leave_row_out, fmt::format("{}", row + 1)}},
               .place = {.file = table.source().name, .line = table.line(row)}});
}

// A response of words is an event, if it is anything.
[[noreturn]] void fail_words(const Table& table, const Column& column, std::size_t row, const std::string& text) {
  if (!column.is_text()) fail_text(table, column, row, text);
  throw Error({.code = ErrorCode::text_in_numbers,
               .message = fmt::format("{}, column '{}': '{}' is no number", row_text(table, row), column.name, text),
               .subject = column.name,
               .value = text,
               .remedy = {"if the column says whether something happened, name the word for which it did",
                          {Action::name_event, text},
                          "; else choose a column of numbers"},
               .place = {.file = table.source().name, .line = table.line(row)}});
}

[[noreturn]] void fail_uncertainty(const Table& table, const std::string& column, std::size_t row, double value) {
  throw Error(
      {.code = ErrorCode::bad_uncertainty,
       .message = fmt::format("{}, '{}': a standard uncertainty must be finite and greater than 0, and this is {}",
                              row_text(table, row), column, std::isnan(value) ? "missing" : fmt::format("{}", value)),
       .subject = fmt::format("row {}", row + 1),
       .value = fmt::format("{}", value),
       .remedy = {"correct it, or leave the row out", {Action::leave_row_out, fmt::format("{}", row + 1)}},
       .place = {.file = table.source().name, .line = table.line(row)}});
}

void require_rows(std::size_t used) {
  if (used == 0) {
    throw Error({.code = ErrorCode::no_observations,
                 .message = "no row is left to be used",
                 .remedy = "leave fewer rows out, or choose columns that have values"});
  }
}

// The two entries of a response of events in single trials; throws where there are more.
std::vector<std::string> entries_of(const Table& table, const Column& column, const std::vector<bool>& out) {
  constexpr std::size_t most = 2;
  std::vector<std::string> entries;
  for (std::size_t i = 0; i < table.rows(); ++i) {
    if (out[i] || column.is_missing(i)) continue;
    const std::string* text = column.text_at(i);
    const std::string entry = text != nullptr ? *text : shortest(column.numbers[i]);
    if (std::find(entries.begin(), entries.end(), entry) != entries.end()) continue;
    entries.push_back(entry);
    if (entries.size() <= most) continue;
    throw Error({.code = ErrorCode::bad_argument,
                 .message = fmt::format("{}, column '{}': '{}' is a third entry beside '{}' and '{}'; of single trials "
                                        "each row either has the event or has it not",
                                        row_text(table, i), column.name, entry, entries[0], entries[1]),
                 .subject = column.name,
                 .value = entry,
                 .remedy = {"correct the cell, or leave the row out",
                            {Action::leave_row_out, fmt::format("{}", i + 1)},
                            "; of so many events among so many trials say which column holds the trials",
                            {Action::name_trials}},
                 .place = {.file = table.source().name, .line = table.line(i)}});
  }
  return entries;
}

// A response of single trials as zeros and ones, missing cells as they are.
Column as_zeros_and_ones(const Table& table, const Column& column, const std::string& event,
                         const std::vector<bool>& out) {
  const std::vector<std::string> entries = entries_of(table, column, out);
  const auto is_number = [](const std::string& entry) { return entry == "0" || entry == "1"; };
  std::string wanted = event;
  if (wanted.empty()) {
    if (!std::all_of(entries.begin(), entries.end(), is_number)) {
      throw Error({.code = ErrorCode::bad_argument,
                   .message = fmt::format("column '{}' holds '{}'{}: it is not said which is the event", column.name,
                                          entries[0], entries.size() > 1 ? fmt::format(" and '{}'", entries[1]) : ""),
                   .subject = column.name,
                   .value = entries[0],
                   .remedy = {"name it", {Action::name_event, entries.back()}}});
    }
    wanted = "1";
  } else if (std::find(entries.begin(), entries.end(), wanted) == entries.end()) {
    throw Error({.code = ErrorCode::bad_argument,
                 .message = fmt::format("no row of column '{}' holds '{}'; it holds '{}'{}", column.name, wanted,
                                        entries.empty() ? "" : entries[0],
                                        entries.size() > 1 ? fmt::format(" and '{}'", entries[1]) : ""),
                 .subject = column.name,
                 .value = wanted,
                 .remedy = "name the event as it stands in the table"});
  }
  Column made = column;
  for (std::size_t i = 0; i < table.rows(); ++i) {
    if (column.is_missing(i)) continue;
    const std::string* text = column.text_at(i);
    made.numbers[i] = (text != nullptr ? *text : shortest(column.numbers[i])) == wanted ? 1 : 0;
  }
  made.texts.clear();
  return made;
}

bool is_whole(double value) { return value == std::floor(value) && std::abs(value) < 0x1p53; }

// Readings whose rows say what they scatter by, times a scale that is known or NaN.
ObservationModel by_row(double scale) {
  return ObservationModel::normal({.form = Scatter::Form::by_row, .scale = scale});
}

ObservationModel stated_by_row() { return by_row(1); }

}  // namespace

std::string detail::fault_of_count(ResponseKind kind, double counted, double size) {
  if (kind == ResponseKind::events && !(size > 0 && is_whole(size)))
    return fmt::format("{} trials: a whole number of at least 1 is needed", shortest(size));
  if (std::isnan(size)) return "its exposure is missing";
  if (!(size > 0) || !std::isfinite(size))
    return fmt::format("an exposure of {}: it must be greater than 0", shortest(size));
  if (!(counted >= 0)) return fmt::format("{} is less than nothing: a count is 0 or more", shortest(counted));
  if (!is_whole(counted)) return fmt::format("{} is no whole number: a count is one", shortest(counted));
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
  require_positive(value, "the standard uncertainty", "a standard uncertainty");
  Uncertainty made;
  made.kind_ = Kind::number;
  made.value_ = value;
  return made;
}

Uncertainty Uncertainty::percent(double value) {
  require_positive(value, "the relative standard uncertainty in percent", "a standard uncertainty");
  Uncertainty made;
  made.kind_ = Kind::percent;
  made.value_ = value;
  return made;
}

Observations::Observations(const Table& table, const Choice& choice) {
  auto data = std::make_shared<Data>();
  const Column& response = table.column(choice.response);
  std::vector<const Column*> chosen = {&response};
  for (const std::string& name : choice.predictors) {
    const Column& column = table.column(name);
    if (std::find(chosen.begin(), chosen.end(), &column) != chosen.end()) {
      throw Error({.code = ErrorCode::bad_argument,
                   .message = fmt::format("column '{}' is chosen twice", column.name),
                   .subject = column.name,
                   .remedy = "choose different columns for response and predictors"});
    }
    chosen.push_back(&column);
  }

  const Counting& counting = choice.counting;
  const bool is_counted = counting.kind != ResponseKind::measured;
  Column zeros_and_ones;
  const Column* sizes = nullptr;
  if (is_counted) {
    if (choice.response_uncertainty.kind() != Uncertainty::Kind::automatic &&
        choice.response_uncertainty.kind() != Uncertainty::Kind::none) {
      throw Error({.code = ErrorCode::bad_argument,
                   .message = fmt::format("'{}' is counted, and an uncertainty is stated for it", response.name),
                   .subject = response.name,
                   .remedy = "leave the uncertainty away: the scatter of a count follows from its mean"});
    }
    if (!counting.size_column.empty()) {
      sizes = &table.column(counting.size_column);
      if (std::find(chosen.begin(), chosen.end(), sizes) != chosen.end() && sizes == &response) {
        throw Error({.code = ErrorCode::bad_argument,
                     .message = fmt::format("column '{}' is chosen twice", sizes->name),
                     .subject = sizes->name,
                     .remedy = "choose different columns for the response and its trials or exposure"});
      }
      data->size_origin = fmt::format("from column '{}'", sizes->name);
    } else if (counting.size != 1) {
      data->size_origin = fmt::format("{} for every row", shortest(counting.size));
    }
    const bool single = counting.kind == ResponseKind::events && sizes == nullptr && counting.size == 1;
    if (!counting.event.empty() && !single) {
      throw Error({.code = ErrorCode::bad_argument,
                   .message = "an event is named, and trials or an exposure are given as well",
                   .subject = "event",
                   .value = counting.event,
                   .remedy = "name the event of single trials, one a row; or give the number of events among so many "
                             "trials"});
    }
    if (single) {
      std::vector<bool> left(table.rows(), false);
      for (const LeftOut& out : choice.left_out) {
        if (out.row >= 1 && out.row <= table.rows()) left[out.row - 1] = true;
      }
      zeros_and_ones = as_zeros_and_ones(table, response, counting.event, left);
      chosen[0] = &zeros_and_ones;
      if (!counting.event.empty() && counting.event != "1") data->event = " = " + counting.event;
    }
    if (counting.kind == ResponseKind::events)
      data->event = (response.own_name.empty() ? response.name : response.own_name) + data->event;
  }

  const Uncertainty given = is_counted ? Uncertainty::none() : choice.response_uncertainty;
  const Column* uncertainty = nullptr;
  if (given.kind() == Uncertainty::Kind::column) {
    uncertainty = &table.column(given.column_name());
    data->origin = fmt::format("from column '{}'", uncertainty->name);
  } else if (given.kind() == Uncertainty::Kind::automatic) {
    uncertainty = table.uncertainty_of(response);
    if (uncertainty != nullptr) data->origin = fmt::format("from column '{}', found by its name", uncertainty->name);
  } else if (given.kind() == Uncertainty::Kind::number) {
    data->origin = fmt::format("{} for every row", given.value());
  } else if (given.kind() == Uncertainty::Kind::percent) {
    data->origin = fmt::format("{} % of the fitted value", given.value());
  }
  double of_response = 1;  // by which uncertainties come into the unit of the response
  bool in_percent = false;
  if (uncertainty != nullptr) {
    in_percent = uncertainty->unit == "%" && response.unit != "%";
    const auto factor = unit_factor_of_differences(uncertainty->unit, response.unit);
    if (!in_percent && !factor) {
      throw Error({.code = ErrorCode::bad_uncertainty,
                   .message = fmt::format("column '{}' is in {}, and '{}' in {}", uncertainty->name, uncertainty->unit,
                                          response.name, response.unit),
                   .subject = uncertainty->name,
                   .value = uncertainty->unit,
                   .remedy = {"convert it; or, where the header is wrong, say so",
                              {Action::name_unit, uncertainty->name + "=" + response.unit}},
                   .place = {.file = table.source().name}});
    }
    if (!in_percent && *factor != 1) {
      of_response = *factor;
      data->origin += fmt::format(", converted from {} to {}", uncertainty->unit, response.unit);
    }
  }
  for (std::size_t k = 1; k < chosen.size(); ++k) {
    if (const Column* other = table.uncertainty_of(*chosen[k]); other != nullptr && other != uncertainty) {
      data->remarks.push_back(
          fmt::format("Column '{}' is not used: '{}' is taken as known without error.", other->name, chosen[k]->name));
    }
  }

  const std::size_t rows = table.rows();
  std::vector<bool> out(rows, false);
  for (const LeftOut& left : choice.left_out) {
    if (left.row < 1 || left.row > rows) {
      throw Error(
          {.code = ErrorCode::unsuitable_row,
           .message = fmt::format("there is no row {} to leave out; the table has rows 1 to {}", left.row, rows),
           .subject = "leave-out",
           .value = fmt::format("{}", left.row),
           .remedy = "rows are counted from 1, the header not included"});
    }
    if (!left.column.empty()) {
      throw Error({.code = ErrorCode::bad_argument,
                   .message = fmt::format("row {}: '{}' alone can't be left out", left.row, left.column),
                   .subject = "leave-out",
                   .value = fmt::format("{}[{}]", left.row, left.column),
                   .remedy = "leave out the whole row: a single reading can be left out of replicate columns of a "
                             "calibration only"});
    }
    if (!out[left.row - 1]) data->left_out.push_back(left);
    out[left.row - 1] = true;
  }
  for (std::size_t i = 0; i < rows; ++i) {
    if (out[i]) continue;
    for (const Column* column : chosen) {
      if (const std::string* text = column->text_at(i)) {
        if (column == &response) fail_words(table, *column, i, *text);
        fail_text(table, *column, i, *text);
      }
      if (std::isnan(column->numbers[i]) && !out[i]) {
        out[i] = true;
        data->left_out.push_back({i + 1, fmt::format("'{}' is missing", column->name)});
      }
    }
    if (sizes != nullptr && !out[i]) {
      if (const std::string* text = sizes->text_at(i)) fail_text(table, *sizes, i, *text);
      if (std::isnan(sizes->numbers[i])) {
        out[i] = true;
        data->left_out.push_back({i + 1, fmt::format("'{}' is missing", sizes->name)});
      }
    }
    if (is_counted && !out[i]) {
      const double size = sizes != nullptr ? sizes->numbers[i] : counting.size;
      const std::string fault = detail::fault_of_count(counting.kind, chosen[0]->numbers[i], size);
      if (!fault.empty()) {
        throw Error({.code = ErrorCode::unsuitable_row,
                     .message = fmt::format("{}, column '{}': {}", row_text(table, i), response.name, fault),
                     .subject = fmt::format("row {}", i + 1),
                     .value = shortest(chosen[0]->numbers[i]),
                     .remedy = {"correct it, or leave the row out", {Action::leave_row_out, fmt::format("{}", i + 1)}},
                     .place = {.file = table.source().name, .line = table.line(i)}});
      }
    }
    if (out[i] || uncertainty == nullptr) continue;
    if (const std::string* text = uncertainty->text_at(i)) fail_text(table, *uncertainty, i, *text);
    const double u = uncertainty->numbers[i];
    if (!(u > 0) || !std::isfinite(u)) fail_uncertainty(table, uncertainty->name, i, u);
  }
  std::stable_sort(data->left_out.begin(), data->left_out.end(),
                   [](const LeftOut& a, const LeftOut& b) { return a.row < b.row; });

  const auto used = static_cast<std::size_t>(std::count(out.begin(), out.end(), false));
  require_rows(used);
  data->rows.reserve(used);
  for (std::size_t i = 0; i < rows; ++i) {
    if (!out[i]) data->rows.push_back(static_cast<std::uint32_t>(i + 1));
  }
  const auto gather = [&](const Column& column) {
    std::vector<double> values(used);
    for (std::size_t k = 0; k < used; ++k) values[k] = column.numbers[data->rows[k] - 1];
    return Vector(std::move(values));
  };
  data->response = {response.name, response.unit};
  data->responses = gather(*chosen[0]);
  if (is_counted) {
    data->model = ObservationModel::of(counting.kind);
    data->sizes = sizes != nullptr ? gather(*sizes) : Vector(used, counting.size);
    data->responses = as_eigen(data->responses).cwiseQuotient(as_eigen(data->sizes));
    // A share has no unit, a rate that of one over the exposure's.
    const std::string per = sizes != nullptr && counting.kind == ResponseKind::counts ? sizes->unit : "";
    data->response.unit = per.empty() ? "" : "1/" + per;
  }
  for (std::size_t k = 1; k < chosen.size(); ++k) {
    data->predictors.push_back({chosen[k]->name, chosen[k]->unit});
    data->columns.push_back(gather(*chosen[k]));
  }
  const auto take_share = [&](double share, const std::string& subject) {
    data->model = ObservationModel::normal({.form = Scatter::Form::power, .scale = share, .power = 1});
    data->row_scatter = as_eigen(data->responses).cwiseAbs() * share;
    for (std::size_t k = 0; k < used; ++k) {
      const double u = data->row_scatter[k];
      if (!(u > 0)) fail_uncertainty(table, subject, data->rows[k] - 1, u);
    }
  };
  if (uncertainty != nullptr && in_percent) {
    // One percentage for all rows is one of the fitted values.
    const Vector percent = gather(*uncertainty);
    const auto [least, most] = std::minmax_element(percent.begin(), percent.end());
    if (*least != *most) {
      throw Error({.code = ErrorCode::bad_uncertainty,
                   .message = fmt::format("column '{}' holds percentages from {} to {}", uncertainty->name,
                                          shortest(*least), shortest(*most)),
                   .subject = uncertainty->name,
                   .remedy = fmt::format("give the uncertainties in the unit of '{}', or one percentage for all rows",
                                         response.name),
                   .place = {.file = table.source().name}});
    }
    data->origin += fmt::format(", {} % of the fitted value", shortest(percent[0]));
    take_share(percent[0] / 100, uncertainty->name);
  } else if (uncertainty != nullptr) {
    data->row_scatter = of_response * as_eigen(gather(*uncertainty));
  } else if (given.kind() == Uncertainty::Kind::number) {
    data->row_scatter = Vector(used, given.value());
  } else if (given.kind() == Uncertainty::Kind::percent) {
    take_share(given.value() / 100, fmt::format("{} % of {}", given.value(), response.name));
  }
  if (data->row_scatter.size() != 0 && data->model.scatter().form == Scatter::Form::constant)
    data->model = stated_by_row();
  if (!choice.order.empty()) {
    const Column& order = table.column(choice.order);
    for (const std::uint32_t row : data->rows) {
      if (const std::string* text = order.text_at(row - 1)) fail_text(table, order, row - 1, *text);
      if (!std::isnan(order.numbers[row - 1])) continue;
      throw Error(
          {.code = ErrorCode::text_in_numbers,
           .message = fmt::format("{}, column '{}': the place in the order of measurement is missing",
                                  row_text(table, row - 1), order.name),
           .subject = order.name,
           .remedy = {"complete the cell, or leave the row out", {Action::leave_row_out, fmt::format("{}", row)}},
           .place = {.file = table.source().name, .line = table.line(row - 1)}});
    }
    data->order = gather(order);
  }
  data->rows_read = rows;
  data->source = table.source();
  data_ = std::move(data);
}

Observations Observations::of(Vector x, Vector y, Vector uncertainties) {
  if (x.size() != y.size() || (uncertainties.size() != 0 && uncertainties.size() != y.size())) {
    throw Error({.code = ErrorCode::bad_argument,
                 .message = fmt::format("x has {} values, y {} and the uncertainties {}", x.size(), y.size(),
                                        uncertainties.size()),
                 .subject = "Observations::of",
                 .remedy = "give arrays of equal length"});
  }
  require_rows(y.size());
  for (std::size_t i = 0; i < y.size(); ++i) {
    if (!std::isfinite(x[i]) || !std::isfinite(y[i])) {
      throw Error({.code = ErrorCode::not_finite,
                   .message = fmt::format("row {}: x = {} and y = {} must both be finite", i + 1, x[i], y[i]),
                   .subject = fmt::format("row {}", i + 1),
                   .remedy = "leave the row out of the arrays"});
    }
    if (uncertainties.size() != 0) {
      require_positive(uncertainties[i], fmt::format("that of row {}", i + 1), "a standard uncertainty");
    }
  }
  auto data = std::make_shared<Data>();
  data->response.name = "y";
  data->predictors = {{"x", ""}};
  data->rows.resize(y.size());
  std::iota(data->rows.begin(), data->rows.end(), 1u);
  data->rows_read = data->rows.size();
  data->responses = std::move(y);
  data->columns = {std::move(x)};
  data->row_scatter = std::move(uncertainties);
  if (data->row_scatter.size() != 0) {
    data->model = stated_by_row();
    data->origin = "given with the data";
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
const Vector& Observations::predictor(std::size_t index) const { return data_->columns.at(index); }
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
std::span<const std::uint32_t> Observations::source_rows() const noexcept { return data_->rows; }
std::span<const LeftOut> Observations::left_out() const noexcept { return data_->left_out; }
std::size_t Observations::rows_read() const noexcept { return data_->rows_read; }
Vector Observations::order() const {
  if (data_->order.size() != 0) return data_->order;
  return data_->rows;
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
  made->model = row_scatter.size() == 0 ? ObservationModel::normal() : by_row(scale);
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
  made->rows = std::move(rows);
  made->order = std::move(order);
  return Observations(std::move(made));
}

Observations Observations::without(std::span<const std::size_t> rows, const std::string& reason) const {
  std::vector<bool> out(data_->rows_read + 1, false);
  for (const std::size_t row : rows) {
    if (row < 1 || row > data_->rows_read) {
      throw Error(
          {.code = ErrorCode::unsuitable_row,
           .message = fmt::format("there is no row {} to leave out; the table has rows 1 to {}", row, data_->rows_read),
           .subject = "leave-out",
           .value = fmt::format("{}", row),
           .remedy = "rows are counted from 1, the header not included"});
    }
    out[row] = true;
  }
  auto made = std::make_shared<Data>(*data_);
  std::vector<Eigen::Index> kept;
  made->rows.clear();
  for (std::size_t i = 0; i < data_->rows.size(); ++i) {
    if (out[data_->rows[i]]) {
      made->left_out.push_back({data_->rows[i], reason});
    } else {
      kept.push_back(static_cast<Eigen::Index>(i));
      made->rows.push_back(data_->rows[i]);
    }
  }
  require_rows(kept.size());
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
