// What all records have in common: how values become JSON, and a reader that names the field in every complaint.
#pragma once

#include <truecurve/assess/bands.hpp>
#include <truecurve/base/error.hpp>
#include <truecurve/base/level.hpp>
#include <truecurve/fit/estimate.hpp>

#include "schema.hpp"

#include <algorithm>
#include <initializer_list>
#include <string>
#include <string_view>
#include <vector>

#include <fmt/format.h>
#include <fmt/ranges.h>
#include <nlohmann/json.hpp>

namespace truecurve {

inline void to_json(nlohmann::ordered_json& json, Level level) { json = level.value(); }
inline void to_json(nlohmann::ordered_json& json, Seed seed) { json = seed.value(); }

}  // namespace truecurve

namespace truecurve::detail {

using Json = nlohmann::ordered_json;

inline Json list(const Vector& values) { return Json(std::vector<double>(values.begin(), values.end())); }

inline Json list(const Matrix& values) {
  Json rows = Json::array();
  for (std::size_t i = 0; i < values.rows(); ++i) {
    Json row = Json::array();
    for (std::size_t j = 0; j < values.cols(); ++j) row.push_back(values(i, j));
    rows.push_back(std::move(row));
  }
  return rows;
}

inline Json quantity(const Quantity& q) { return {{"name", q.name}, {"unit", q.unit}}; }

inline Json left_out_of(const Observations& observations) {
  Json rows = Json::array();
  for (const LeftOut& left : observations.left_out()) rows.push_back({{"row", left.row}, {"reason", left.reason}});
  return rows;
}

inline Json interval_of(const Interval& interval) { return {{"low", interval.low}, {"high", interval.high}}; }

inline Json model_of(const Estimate& estimate) {
  return {{"text", estimate.model().text()}, {"kind", estimate.model().kind()}};
}

inline std::string text_of(const Json& record) {
  return record.dump(2, ' ', false, Json::error_handler_t::replace) + "\n";
}

// Names the field in every complaint, so that a damaged record can be mended by hand.
class RecordReader {
 public:
  /// Throws Error (bad_record) where the text is no record.
  [[nodiscard]] static RecordReader of(std::string_view text, const std::string& source) {
    RecordReader reader(nlohmann::json(), source, "");
    reader.root_ = reader.parsed(text);
    if (!reader.root_.is_object() || !reader.root_.contains("record"))
      reader.fail("", "this is not a record of True Curve: it has no field 'record'");
    if (!reader.root_["record"].is_string()) reader.fail("/record", "the kind of record is needed here");
    return reader;
  }

  /// What record it is: "truecurve.fit/1".
  [[nodiscard]] std::string kind() const { return get<std::string>("/record"); }
  /// Throws Error (bad_record) where it is of none of these kinds, or a field is missing, of another type or out of
  /// its range.
  void require_kind(std::initializer_list<std::string_view> wanted) const {
    if (std::find(wanted.begin(), wanted.end(), kind()) == wanted.end())
      fail("/record", fmt::format("a record {} is needed, but this is {}", fmt::join(wanted, " or "), kind()));
    if (const auto wrong = schema_fault(root_, kind())) fail(wrong->field, wrong->what);
  }
  /// A record within this one.
  [[nodiscard]] RecordReader inner(const std::string& pointer) const {
    return {get<nlohmann::json>(pointer), source_, prefix_ + pointer};
  }

  template <typename Value>
  Value get(const std::string& pointer) const {
    try {
      return root_.at(nlohmann::json::json_pointer(pointer)).get<Value>();
    } catch (const nlohmann::json::exception&) {
      fail(pointer, "this field is missing or holds something else than it should");
    }
  }
  [[nodiscard]] double number_or_nan(const std::string& pointer) const {
    const nlohmann::json::json_pointer at(pointer);
    return root_.contains(at) && root_.at(at).is_null() ? not_a_number : get<double>(pointer);
  }
  [[nodiscard]] bool is_text(const std::string& pointer) const {
    return is_given(pointer) && root_.at(nlohmann::json::json_pointer(pointer)).is_string();
  }
  [[nodiscard]] bool is_given(const std::string& pointer) const {
    const nlohmann::json::json_pointer at(pointer);
    return root_.contains(at) && !root_.at(at).is_null();
  }
  [[nodiscard]] std::size_t length(const std::string& pointer) const {
    const nlohmann::json::json_pointer at(pointer);
    if (!root_.contains(at) || !root_.at(at).is_array()) fail(pointer, "a list is needed here");
    return root_.at(at).size();
  }
  [[nodiscard]] Vector vector(const std::string& pointer, std::size_t size) const {
    if (length(pointer) != size) fail(pointer, fmt::format("a list of {} is needed here", size));
    Vector values(size);
    for (std::size_t i = 0; i < size; ++i) values[i] = number_or_nan(fmt::format("{}/{}", pointer, i));
    return values;
  }
  [[nodiscard]] Matrix matrix(const std::string& pointer, std::size_t size) const {
    if (length(pointer) != size) fail(pointer, fmt::format("{} rows are needed here", size));
    Matrix values(size, size);
    for (std::size_t i = 0; i < size; ++i) {
      const Vector row = vector(fmt::format("{}/{}", pointer, i), size);
      for (std::size_t j = 0; j < size; ++j) values(i, j) = row[j];
    }
    return values;
  }
  [[noreturn]] void fail(const std::string& field, const std::string& what) const {
    throw Error({.code = ErrorCode::bad_record,
                 .message = field.empty() ? what : fmt::format("'{}{}': {}", prefix_, field, what),
                 .subject = prefix_ + field,
                 .remedy = {"write the record anew", {Action::write_record}},
                 .place = {.file = source_}});
  }

 private:
  // What nests deeper than any record does would need as deep a stack to be looked through.
  [[nodiscard]] nlohmann::json parsed(std::string_view text) const {
    constexpr int deepest = 64;
    try {
      return nlohmann::json::parse(text, [&](int depth, nlohmann::json::parse_event_t, const nlohmann::json&) {
        if (depth > deepest) fail("", fmt::format("this is no record: it nests more than {} levels deep", deepest));
        return true;
      });
    } catch (const nlohmann::json::parse_error& error) {
      const std::string_view read = text.substr(0, std::min(text.size(), std::max<std::size_t>(error.byte, 1) - 1));
      const auto line = std::count(read.begin(), read.end(), '\n') + 1;
      const std::size_t column = read.size() - (read.rfind('\n') + 1) + 1;  // npos + 1 is 0
      fail("", fmt::format("this is no JSON, and so no record: line {} can't be read from column {} on", line, column));
    } catch (const nlohmann::json::out_of_range& error) {  // "...parsing '1e999'"
      const std::string_view what = error.what();
      const std::size_t from = what.find('\'') + 1;
      const std::string_view number = what.substr(from, what.rfind('\'') - from);
      const std::string_view read = text.substr(0, text.find(number));
      fail("", fmt::format("line {}: the number {} is beyond the range of doubles",
                           std::count(read.begin(), read.end(), '\n') + 1, number));
    }
  }

  RecordReader(nlohmann::json root, std::string source, std::string prefix)
      : root_(std::move(root)), source_(std::move(source)), prefix_(std::move(prefix)) {}

  nlohmann::json root_;
  std::string source_;
  std::string prefix_;  // where an inner record stands in the whole one
};

}  // namespace truecurve::detail
