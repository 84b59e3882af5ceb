// Long and wide tables of readings.
#include <truecurve/base/error.hpp>
#include <truecurve/calibrate/readings.hpp>
#include <truecurve/data/units.hpp>

#include "../base/names.hpp"
#include "../data/counting.hpp"
#include "../data/unsuitable_cells.hpp"

#include <algorithm>
#include <array>
#include <cmath>
#include <set>
#include <utility>

#include <fmt/format.h>

namespace truecurve {
namespace {

constexpr std::array<std::string_view, 5> kind_names = {"standard", "blank", "fortified", "sample", "control"};

bool needs_amount(ReadingKind kind) {
  return kind == ReadingKind::standard || kind == ReadingKind::fortified || kind == ReadingKind::control;
}

[[noreturn]] void fail_at(const Table& table, std::size_t row, const Column& column, ErrorCode code,
                          const std::string& what, const std::string& value, const Advice& remedy) {
  throw Error({.code = code,
               .message = fmt::format("{}, column '{}': {}", row_text(table, row), column.name, what),
               .subject = column.name,
               .value = value,
               .remedy = remedy,
               .place = {.file = table.source().name, .line = table.line(row)}});
}

// A number, NaN where it is missing; a text is an error.
double number_at(const Table& table, const Column& column, std::size_t row) {
  if (const std::string* text = column.text_at(row)) {
    fail_at(
        table, row, column, ErrorCode::text_in_numbers, fmt::format("'{}' is not a number", *text), *text,
        {"leave the row out",
         {Action::leave_row_out, fmt::format("{}", row + 1)},
         " and say so in your report, or write the reading as it was measured: a value replaced by a limit can't be "
         "used in a calibration"});
  }
  return column.numbers[row];
}

ReadingKind kind_at(const Table& table, const Column& column, std::size_t row) {
  const std::string* text = column.text_at(row);
  const std::string word = text == nullptr ? "" : *text;
  const auto at = std::find(kind_names.begin(), kind_names.end(), word);
  if (at != kind_names.end()) return static_cast<ReadingKind>(at - kind_names.begin());
  const std::vector<std::string> names(kind_names.begin(), kind_names.end());
  const std::string nearest = nearest_name(word, names);
  fail_at(table, row, column, ErrorCode::bad_argument,
          text == nullptr ? std::string("a kind is needed here") : fmt::format("'{}' is not a kind of reading", word),
          word,
          fmt::format("{}write standard, blank, fortified, sample or control",
                      nearest.empty() ? "" : fmt::format("did you mean '{}'? ", nearest)));
}

// The stated standard uncertainty of a value; NaN where none is stated. An amount may be known exactly, as a share of
// none is.
double uncertainty_at(const Table& table, const Uncertainty& given, const Column& of, std::size_t row,
                      bool may_be_exact = false) {
  const double value = of.numbers[row];
  double u = not_a_number;
  switch (given.kind()) {
    case Uncertainty::Kind::automatic:
    case Uncertainty::Kind::none: return u;
    case Uncertainty::Kind::column: {
      const Column& column = table.column(given.column_name());
      const bool in_percent = column.unit == "%" && of.unit != "%";
      const auto factor = in_percent ? std::abs(value) / 100 : unit_factor_of_differences(column.unit, of.unit);
      if (!factor) {
        fail_at(
            table, row, column, ErrorCode::bad_uncertainty,
            fmt::format("it is in {}, and '{}' in {}", column.unit, of.name, of.unit), column.unit,
            {"convert it; or, where the header is wrong, say so", {Action::name_unit, column.name + "=" + of.unit}});
      }
      u = *factor * number_at(table, column, row);
      break;
    }
    case Uncertainty::Kind::number: u = given.value(); break;
    case Uncertainty::Kind::percent: u = std::abs(value) * given.value() / 100; break;
  }
  if ((u > 0 || (may_be_exact && u == 0)) && std::isfinite(u)) return u;
  throw Error({.code = ErrorCode::bad_uncertainty,
               .message = fmt::format("{}: a standard uncertainty must be greater than 0, and this is {}",
                                      row_text(table, row), u),
               .subject = "uncertainty",
               .value = fmt::format("{}", u),
               .remedy = "state it, or leave the row out",
               .place = {.file = table.source().name, .line = table.line(row)}});
}

std::string word_at(const Column& column, std::size_t row) {
  if (const std::string* text = column.text_at(row)) return *text;
  return std::isnan(column.numbers[row]) ? "" : shortest(column.numbers[row]);
}

void require_counting(const ReadingColumns& columns) {
  if (columns.counting.kind == ResponseKind::measured) return;
  const bool states = columns.signal_uncertainty.kind() != Uncertainty::Kind::none &&
                      columns.signal_uncertainty.kind() != Uncertainty::Kind::automatic;
  if (columns.counting.kind == ResponseKind::counts && !states) return;
  throw Error({.code = ErrorCode::bad_argument,
               .message = states ? "an uncertainty is stated for signals that were counted"
                                 : "events among trials can't be calibrated",
               .subject = "signal",
               .remedy = states ? "omit it: the scatter of a count follows from its mean"
                                : "fit a curve of the share of events, and read it backwards"});
}

// A count over its exposure.
void take_count(const Table& table, const Column& signal, double exposure, Reading& reading) {
  const std::string fault = detail::fault_of_count(ResponseKind::counts, reading.signal, exposure);
  if (!fault.empty())
    fail_at(table, reading.row - 1, signal, ErrorCode::unsuitable_row, fault, shortest(reading.signal),
            {"correct it, or leave the row out",
             {Action::leave_row_out, fmt::format("{}", reading.row)},
             "; a rate is not a count: give the count itself and its exposure"});
  reading.exposure = exposure;
  reading.signal /= exposure;
}

}  // namespace

double Reading::count() const noexcept { return std::round(signal * exposure); }

std::string_view name(ReadingKind kind) noexcept { return detail::name_among(kind_names, kind); }

std::vector<Reading> Readings::of(ReadingKind kind) const {
  std::vector<Reading> some;
  std::copy_if(all.begin(), all.end(), std::back_inserter(some), [kind](const Reading& r) { return r.kind == kind; });
  return some;
}

std::string Readings::place_of(const Reading& reading) const {
  const std::string row = fmt::format("row {}{}", reading.row, reading.table.empty() ? "" : " of " + reading.table);
  return signal_columns.size() < 2 || reading.replicate >= signal_columns.size()
             ? row
             : fmt::format("{}, {}", row, signal_columns[reading.replicate]);
}

namespace {

// The columns that hold readings, and what is left out of them.
class ReadingTable {
 public:
  ReadingTable(const Table& table, const ReadingColumns& columns)
      : table_(table),
        columns_(columns),
        amount_(optional(columns.amount)),
        kind_(optional(columns.kind)),
        sample_(optional(columns.sample)),
        dilution_(optional(columns.dilution)),
        order_(optional(columns.order)),
        exposure_(optional(columns.counting.size_column)),
        out_(table.rows(), false) {
    require_counting(columns);
    for (const std::string& name : columns.signals) signals_.push_back(&table.column(name));
    require_one_unit();
  }

  Readings read(const std::vector<LeftOut>& left_out) {
    Readings readings{.signal = {signals_.size() == 1 ? signals_[0]->name : "signal", signals_[0]->unit},
                      .source = table_.source(),
                      .rows_read = table_.rows(),
                      .left_out = left_out,
                      .are_counts = columns_.counting.kind == ResponseKind::counts};
    // A rate has the unit of one over the exposure's.
    if (readings.are_counts) {
      const std::string per = exposure_ == nullptr ? "" : exposure_->unit;
      readings.signal.unit = per.empty() ? "" : "1/" + per;
    }
    if (amount_ != nullptr) readings.amount = {amount_->name, amount_->unit};
    for (const Column* signal : signals_) readings.signal_columns.push_back(signal->name);
    for (const LeftOut& left : left_out) leave_out(left);
    for (std::size_t row = 0; row < table_.rows(); ++row) {
      if (!out_[row]) add_row(row, readings);
    }
    return readings;
  }

 private:
  [[nodiscard]] const Column* optional(const std::string& name) const {
    return name.empty() ? nullptr : &table_.column(name);
  }

  void require_one_unit() const {
    for (const Column* signal : signals_) {
      if (unit_factor(signal->unit, signals_[0]->unit) == 1) continue;
      throw Error({.code = ErrorCode::bad_argument,
                   .message = fmt::format("the replicates '{}' and '{}' are in {} and {}", signals_[0]->name,
                                          signal->name, signals_[0]->unit, signal->unit),
                   .subject = signal->name,
                   .value = signal->unit,
                   .remedy = {"convert one of the columns, or correct its unit",
                              {Action::name_unit, signal->name + "=" + signals_[0]->unit}}});
    }
  }

  void leave_out(const LeftOut& left) {
    detail::require_row(left.row, table_.rows());
    if (left.column.empty()) {
      out_[left.row - 1] = true;
      return;
    }
    const auto column = std::find_if(signals_.begin(), signals_.end(),
                                     [&left](const Column* signal) { return signal->name == left.column; });
    if (column == signals_.end()) {
      throw Error({.code = ErrorCode::bad_argument,
                   .message = fmt::format("row {}: '{}' is not a column of signals", left.row, left.column),
                   .subject = "leave-out",
                   .value = left.column,
                   .remedy = "name one of the columns of replicates"});
    }
    singles_.emplace(left.row - 1, static_cast<std::size_t>(column - signals_.begin()));
  }

  [[nodiscard]] double dilution_at(std::size_t row) const {
    const double factor = dilution_ == nullptr ? not_a_number : number_at(table_, *dilution_, row);
    if (std::isnan(factor)) return 1;
    if (!(factor > 0))
      fail_at(table_, row, *dilution_, ErrorCode::bad_argument, "a dilution must be greater than 0", shortest(factor),
              "write 1 for an undiluted sample, 10 where it was diluted tenfold");
    return factor;
  }

  void take_amount(std::size_t row, Reading& reading) const {
    if (amount_ == nullptr) {
      throw Error(
          {.code = ErrorCode::bad_argument,
           .message = fmt::format("{} is a {}, and its amount is not given", row_text(table_, row), name(reading.kind)),
           .subject = "amount",
           .remedy = {"name the column of amounts", {Action::choose_predictor}}});
    }
    reading.amount = number_at(table_, *amount_, row);
    if (std::isnan(reading.amount))
      fail_at(table_, row, *amount_, ErrorCode::text_in_numbers,
              fmt::format("the amount of this {} is missing", name(reading.kind)), "",
              {"complete the cell, or leave the row out", {Action::leave_row_out, fmt::format("{}", row + 1)}});
    reading.amount_uncertainty = uncertainty_at(table_, columns_.amount_uncertainty, *amount_, row, true);
  }

  void add_row(std::size_t row, Readings& readings) const {
    Reading reading{.kind = kind_ == nullptr ? columns_.otherwise : kind_at(table_, *kind_, row), .row = row + 1};
    if (sample_ != nullptr) reading.sample = word_at(*sample_, row);
    if (order_ != nullptr) reading.order = number_at(table_, *order_, row);
    reading.dilution = dilution_at(row);
    if (needs_amount(reading.kind)) take_amount(row, reading);
    for (std::size_t k = 0; k < signals_.size(); ++k) {
      if (singles_.count({row, k}) > 0) continue;
      reading.signal = number_at(table_, *signals_[k], row);
      reading.replicate = k;
      if (std::isnan(reading.signal)) {
        readings.left_out.push_back({row + 1, fmt::format("'{}' is missing", signals_[k]->name)});
        continue;
      }
      reading.signal_uncertainty = uncertainty_at(table_, columns_.signal_uncertainty, *signals_[k], row);
      if (readings.are_counts)
        take_count(table_, *signals_[k],
                   exposure_ == nullptr ? columns_.counting.size : number_at(table_, *exposure_, row), reading);
      readings.all.push_back(reading);
    }
  }

  const Table& table_;
  const ReadingColumns& columns_;
  const Column* amount_;
  const Column* kind_;
  const Column* sample_;
  const Column* dilution_;
  const Column* order_;
  const Column* exposure_;
  std::vector<const Column*> signals_;
  std::vector<bool> out_;
  std::set<std::pair<std::size_t, std::size_t>> singles_;  // readings that are left out alone
};

}  // namespace

Readings readings_of(const Table& table, const ReadingColumns& columns, const std::vector<LeftOut>& left_out) {
  if (columns.signals.empty()) {
    throw Error(
        {.code = ErrorCode::bad_argument,
         .message = "no column of signals is chosen",
         .subject = "signal",
         .remedy = {
             "name it", {Action::choose_response}, ", or several that hold replicates", {Action::choose_replicates}}});
  }
  return ReadingTable(table, columns).read(left_out);
}

Readings in_units_of(Readings readings, const Quantity& amount, const Quantity& signal) {
  const auto factor_of = [&readings](const Quantity& has, const Quantity& wanted) {
    const auto factor = unit_factor(has.unit, wanted.unit);
    if (!factor) {
      throw Error({.code = ErrorCode::bad_argument,
                   .message = fmt::format("{}: '{}' is in {}, and the calibration in {}", readings.source.name,
                                          has.name, has.unit, wanted.unit),
                   .subject = has.name,
                   .value = has.unit,
                   .remedy = {"convert the column; or, where the header is wrong, say so",
                              {Action::name_unit, has.name + "=" + wanted.unit}}});
    }
    if (*factor != 1)
      readings.remarks.push_back(fmt::format("{} was converted from {} to {} (factor {}).", has.name, has.unit,
                                             wanted.unit, shortest(*factor)));
    return *factor;
  };
  const double of_signal = factor_of(readings.signal, signal);
  const double of_amount = factor_of(readings.amount, amount);
  for (Reading& r : readings.all) {
    r.signal *= of_signal;
    r.exposure /= of_signal;
    r.signal_uncertainty *= of_signal;
    r.amount *= of_amount;
    r.amount_uncertainty *= of_amount;
  }
  if (!signal.unit.empty()) readings.signal.unit = signal.unit;
  if (!amount.unit.empty()) readings.amount.unit = amount.unit;
  return readings;
}

Readings joined(Readings first, const Readings& other) {
  const bool same_signal = first.signal.name == other.signal.name;
  const bool same_amount =
      first.amount.name.empty() || other.amount.name.empty() || first.amount.name == other.amount.name;
  if (!same_signal || !same_amount) {
    throw Error({.code = ErrorCode::bad_argument,
                 .message = fmt::format("'{}' against '{}' in one table, '{}' against '{}' in the other",
                                        first.signal.name, first.amount.name, other.signal.name, other.amount.name),
                 .subject = "tables",
                 .remedy = "give the columns the same names in all files"});
  }
  if (first.are_counts != other.are_counts) {
    throw Error({.code = ErrorCode::bad_argument,
                 .message = "the signals of one table are counts, and those of the other are not",
                 .subject = "tables",
                 .remedy = "give counts in both"});
  }
  Readings second = in_units_of(other, first.amount, first.signal);
  for (Reading& reading : second.all) reading.table = other.source.name;
  if (first.amount.name.empty()) first.amount = second.amount;
  first.all.insert(first.all.end(), second.all.begin(), second.all.end());
  first.rows_read += second.rows_read;
  first.remarks.insert(first.remarks.end(), second.remarks.begin(), second.remarks.end());
  first.left_out.insert(first.left_out.end(), second.left_out.begin(), second.left_out.end());
  return first;
}

}  // namespace truecurve
