// Takes the chosen columns out of a table, checks every value a fit will use, and keeps account of what was left out.
#include <truecurve/base/error.hpp>
#include <truecurve/data/observations.hpp>
#include <truecurve/data/units.hpp>

#include "../base/matrices.hpp"
#include "counting.hpp"
#include "observation_data.hpp"
#include "unsuitable_cells.hpp"

#include <algorithm>
#include <cmath>
#include <utility>

#include <fmt/format.h>

namespace truecurve {
namespace {

using detail::fail_text;
using detail::fail_uncertainty;
using detail::fail_words;

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

}  // namespace

// The steps from a table to observations, in their order.
class Observations::FromTable {
 public:
  FromTable(const Table& table, const Choice& choice)
      : table_(table), choice_(choice), response_(table.column(choice.response)), out_(table.rows(), false) {}

  std::shared_ptr<Data> made() {
    choose_columns();
    if (is_counted()) choose_counting();
    find_uncertainties();
    leave_out_as_asked();
    for (std::size_t row = 0; row < table_.rows(); ++row) check_row(row);
    std::stable_sort(data_->left_out.begin(), data_->left_out.end(),
                     [](const LeftOut& a, const LeftOut& b) { return a.row < b.row; });
    gather_columns();
    gather_uncertainties();
    if (!choice_.order.empty()) gather_order();
    data_->rows_read = table_.rows();
    data_->source = table_.source();
    return data_;
  }

 private:
  [[nodiscard]] bool is_counted() const { return choice_.counting.kind != ResponseKind::measured; }
  void choose_columns();
  void choose_counting();
  void choose_event(const Counting& counting);
  void find_uncertainties();
  void convert_uncertainties();
  void leave_out_as_asked();
  void check_row(std::size_t row);
  void leave_out_missing(std::size_t row, const Column& column);
  void check_count(std::size_t row) const;
  void gather_columns();
  void gather_uncertainties();
  void gather_order();
  [[nodiscard]] Vector gather(const Column& column) const;
  void take_share(double share, const std::string& subject);
  void take_percentages();

  const Table& table_;
  const Choice& choice_;
  const Column& response_;
  std::vector<const Column*> chosen_;  // the response first
  Column zeros_and_ones_;              // in place of a response of words
  const Column* sizes_ = nullptr;      // trials or exposures
  Uncertainty given_ = Uncertainty::none();
  const Column* uncertainty_ = nullptr;
  double of_response_ = 1;  // by which uncertainties come into the unit of the response
  bool in_percent_ = false;
  std::vector<bool> out_;
  std::shared_ptr<Data> data_ = std::make_shared<Data>();
};

void Observations::FromTable::choose_columns() {
  chosen_ = {&response_};
  for (const std::string& name : choice_.predictors) {
    const Column& column = table_.column(name);
    if (std::find(chosen_.begin(), chosen_.end(), &column) != chosen_.end()) {
      throw Error({.code = ErrorCode::bad_argument,
                   .message = fmt::format("column '{}' is chosen twice", column.name),
                   .subject = column.name,
                   .remedy = "choose different columns for response and predictors"});
    }
    chosen_.push_back(&column);
  }
}

void Observations::FromTable::choose_counting() {
  const Counting& counting = choice_.counting;
  if (choice_.response_uncertainty.kind() != Uncertainty::Kind::automatic &&
      choice_.response_uncertainty.kind() != Uncertainty::Kind::none) {
    throw Error({.code = ErrorCode::bad_argument,
                 .message = fmt::format("'{}' is counted, and an uncertainty is stated for it", response_.name),
                 .subject = response_.name,
                 .remedy = "omit the uncertainty: the scatter of a count follows from its mean"});
  }
  if (!counting.size_column.empty()) {
    sizes_ = &table_.column(counting.size_column);
    if (sizes_ == &response_) {
      throw Error({.code = ErrorCode::bad_argument,
                   .message = fmt::format("column '{}' is chosen twice", sizes_->name),
                   .subject = sizes_->name,
                   .remedy = "choose different columns for the response and its trials or exposure"});
    }
    data_->size_origin = fmt::format("from column '{}'", sizes_->name);
  } else if (counting.size != 1) {
    data_->size_origin = fmt::format("{} for every row", shortest(counting.size));
  }
  choose_event(counting);
}

void Observations::FromTable::choose_event(const Counting& counting) {
  const bool single = counting.kind == ResponseKind::events && sizes_ == nullptr && counting.size == 1;
  if (!counting.event.empty() && !single) {
    throw Error({.code = ErrorCode::bad_argument,
                 .message = "an event is named, and trials or an exposure are given as well",
                 .subject = "event",
                 .value = counting.event,
                 .remedy = "name the event of single trials, one a row; or give the number of events among so many "
                           "trials"});
  }
  if (single) {
    std::vector<bool> left(table_.rows(), false);
    for (const LeftOut& out : choice_.left_out) {
      if (out.row >= 1 && out.row <= table_.rows()) left[out.row - 1] = true;
    }
    zeros_and_ones_ = as_zeros_and_ones(table_, response_, counting.event, left);
    chosen_[0] = &zeros_and_ones_;
    if (!counting.event.empty() && counting.event != "1") data_->event = " = " + counting.event;
  }
  if (counting.kind == ResponseKind::events)
    data_->event = (response_.own_name.empty() ? response_.name : response_.own_name) + data_->event;
}

void Observations::FromTable::find_uncertainties() {
  if (!is_counted()) given_ = choice_.response_uncertainty;
  switch (given_.kind()) {
    case Uncertainty::Kind::column:
      uncertainty_ = &table_.column(given_.column_name());
      data_->origin = fmt::format("from column '{}'", uncertainty_->name);
      break;
    case Uncertainty::Kind::automatic:
      uncertainty_ = table_.uncertainty_of(response_);
      if (uncertainty_ != nullptr)
        data_->origin = fmt::format("from column '{}', found by its name", uncertainty_->name);
      break;
    case Uncertainty::Kind::number: data_->origin = fmt::format("{} for every row", given_.value()); break;
    case Uncertainty::Kind::percent: data_->origin = fmt::format("{} % of the fitted value", given_.value()); break;
    case Uncertainty::Kind::none: break;
  }
  if (uncertainty_ != nullptr) convert_uncertainties();
  for (std::size_t k = 1; k < chosen_.size(); ++k) {
    const Column* other = table_.uncertainty_of(*chosen_[k]);
    if (other == nullptr || other == uncertainty_) continue;
    data_->remarks.push_back(
        fmt::format("Column '{}' is not used: '{}' is taken as known without error.", other->name, chosen_[k]->name));
  }
}

void Observations::FromTable::convert_uncertainties() {
  in_percent_ = uncertainty_->unit == "%" && response_.unit != "%";
  if (in_percent_) return;
  const auto factor = unit_factor_of_differences(uncertainty_->unit, response_.unit);
  if (!factor) {
    throw Error({.code = ErrorCode::bad_uncertainty,
                 .message = fmt::format("column '{}' is in {}, and '{}' in {}", uncertainty_->name, uncertainty_->unit,
                                        response_.name, response_.unit),
                 .subject = uncertainty_->name,
                 .value = uncertainty_->unit,
                 .remedy = {"convert it; or, where the header is wrong, say so",
                            {Action::name_unit, uncertainty_->name + "=" + response_.unit}},
                 .place = {.file = table_.source().name}});
  }
  if (*factor == 1) return;
  of_response_ = *factor;
  data_->origin += fmt::format(", converted from {} to {}", uncertainty_->unit, response_.unit);
}

void Observations::FromTable::leave_out_as_asked() {
  for (const LeftOut& left : choice_.left_out) {
    detail::require_row(left.row, table_.rows());
    if (!left.column.empty()) {
      throw Error({.code = ErrorCode::bad_argument,
                   .message = fmt::format("row {}: '{}' alone can't be left out", left.row, left.column),
                   .subject = "leave-out",
                   .value = fmt::format("{}[{}]", left.row, left.column),
                   .remedy = "leave out the whole row: a single reading can be left out of replicate columns of a "
                             "calibration only"});
    }
    if (!out_[left.row - 1]) data_->left_out.push_back(left);
    out_[left.row - 1] = true;
  }
}

void Observations::FromTable::leave_out_missing(std::size_t row, const Column& column) {
  if (out_[row] || !std::isnan(column.numbers[row])) return;
  out_[row] = true;
  data_->left_out.push_back({row + 1, fmt::format("'{}' is missing", column.name)});
}

void Observations::FromTable::check_row(std::size_t row) {
  if (out_[row]) return;
  for (const Column* column : chosen_) {
    if (const std::string* text = column->text_at(row)) {
      if (column == &response_) fail_words(table_, *column, row, *text);
      fail_text(table_, *column, row, *text);
    }
    leave_out_missing(row, *column);
  }
  if (sizes_ != nullptr && !out_[row]) {
    if (const std::string* text = sizes_->text_at(row)) fail_text(table_, *sizes_, row, *text);
    leave_out_missing(row, *sizes_);
  }
  if (is_counted() && !out_[row]) check_count(row);
  if (out_[row] || uncertainty_ == nullptr) return;
  if (const std::string* text = uncertainty_->text_at(row)) fail_text(table_, *uncertainty_, row, *text);
  const double u = uncertainty_->numbers[row];
  if (!(u > 0) || !std::isfinite(u)) fail_uncertainty(table_, uncertainty_->name, row, u);
}

void Observations::FromTable::check_count(std::size_t row) const {
  const double size = sizes_ != nullptr ? sizes_->numbers[row] : choice_.counting.size;
  const std::string fault = detail::fault_of_count(choice_.counting.kind, chosen_[0]->numbers[row], size);
  if (fault.empty()) return;
  throw Error({.code = ErrorCode::unsuitable_row,
               .message = fmt::format("{}, column '{}': {}", row_text(table_, row), response_.name, fault),
               .subject = fmt::format("row {}", row + 1),
               .value = shortest(chosen_[0]->numbers[row]),
               .remedy = {"correct it, or leave the row out", {Action::leave_row_out, fmt::format("{}", row + 1)}},
               .place = {.file = table_.source().name, .line = table_.line(row)}});
}

Vector Observations::FromTable::gather(const Column& column) const {
  std::vector<double> values(data_->rows.size());
  for (std::size_t k = 0; k < values.size(); ++k) values[k] = column.numbers[data_->rows[k] - 1];
  return values;
}

void Observations::FromTable::gather_columns() {
  const auto used = static_cast<std::size_t>(std::count(out_.begin(), out_.end(), false));
  detail::require_rows(used);
  std::vector<std::uint32_t> rows;
  rows.reserve(used);
  for (std::size_t i = 0; i < table_.rows(); ++i) {
    if (!out_[i]) rows.push_back(static_cast<std::uint32_t>(i + 1));
  }
  data_->rows = detail::RowNumbers(std::move(rows));
  data_->response = {response_.name, response_.unit};
  data_->responses = gather(*chosen_[0]);
  if (is_counted()) {
    const Counting& counting = choice_.counting;
    data_->model = ObservationModel::of(counting.kind);
    data_->sizes = sizes_ != nullptr ? gather(*sizes_) : Vector(used, counting.size);
    data_->responses = as_eigen(data_->responses).cwiseQuotient(as_eigen(data_->sizes));
    // A share has no unit, a rate that of one over the exposure's.
    const std::string per = sizes_ != nullptr && counting.kind == ResponseKind::counts ? sizes_->unit : "";
    data_->response.unit = per.empty() ? "" : "1/" + per;
  }
  for (std::size_t k = 1; k < chosen_.size(); ++k) {
    data_->predictors.push_back({chosen_[k]->name, chosen_[k]->unit});
    data_->columns.push_back(gather(*chosen_[k]));
  }
}

void Observations::FromTable::take_share(double share, const std::string& subject) {
  data_->model = ObservationModel::normal({.form = Scatter::Form::power, .scale = share, .power = 1});
  data_->row_scatter = as_eigen(data_->responses).cwiseAbs() * share;
  for (std::size_t k = 0; k < data_->row_scatter.size(); ++k) {
    const double u = data_->row_scatter[k];
    if (!(u > 0)) fail_uncertainty(table_, subject, data_->rows[k] - 1, u);
  }
}

// One percentage for all rows is one of the fitted values.
void Observations::FromTable::take_percentages() {
  const Vector percent = gather(*uncertainty_);
  const auto [least, most] = std::minmax_element(percent.begin(), percent.end());
  if (*least != *most) {
    throw Error({.code = ErrorCode::bad_uncertainty,
                 .message = fmt::format("column '{}' holds percentages from {} to {}", uncertainty_->name,
                                        shortest(*least), shortest(*most)),
                 .subject = uncertainty_->name,
                 .remedy = fmt::format("give the uncertainties in the unit of '{}', or one percentage for all rows",
                                       response_.name),
                 .place = {.file = table_.source().name}});
  }
  data_->origin += fmt::format(", {} % of the fitted value", shortest(percent[0]));
  take_share(percent[0] / 100, uncertainty_->name);
}

void Observations::FromTable::gather_uncertainties() {
  if (uncertainty_ != nullptr && in_percent_) {
    take_percentages();
  } else if (uncertainty_ != nullptr) {
    data_->row_scatter = of_response_ * as_eigen(gather(*uncertainty_));
  } else if (given_.kind() == Uncertainty::Kind::number) {
    data_->row_scatter = Vector(data_->rows.size(), given_.value());
  } else if (given_.kind() == Uncertainty::Kind::percent) {
    take_share(given_.value() / 100, fmt::format("{} % of {}", given_.value(), response_.name));
  }
  if (data_->row_scatter.size() != 0 && data_->model.scatter().form == Scatter::Form::constant)
    data_->model = detail::scattering_by_row(1);
}

void Observations::FromTable::gather_order() {
  const Column& order = table_.column(choice_.order);
  for (const std::uint32_t row : data_->rows.list()) {
    if (const std::string* text = order.text_at(row - 1)) fail_text(table_, order, row - 1, *text);
    if (!std::isnan(order.numbers[row - 1])) continue;
    throw Error({.code = ErrorCode::text_in_numbers,
                 .message = fmt::format("{}, column '{}': the place in the order of measurement is missing",
                                        row_text(table_, row - 1), order.name),
                 .subject = order.name,
                 .remedy = {"complete the cell, or leave the row out", {Action::leave_row_out, fmt::format("{}", row)}},
                 .place = {.file = table_.source().name, .line = table_.line(row - 1)}});
  }
  data_->order = gather(order);
}

Observations::Observations(const Table& table, const Choice& choice) : data_(FromTable(table, choice).made()) {}

}  // namespace truecurve
