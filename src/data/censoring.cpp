// Limits in cells, and in words beside them.
#include <truecurve/base/error.hpp>
#include <truecurve/data/censoring.hpp>

#include "../base/names.hpp"
#include "limit_cell.hpp"

#include <algorithm>
#include <array>
#include <charconv>
#include <cmath>
#include <optional>
#include <string>
#include <utility>

#include <fmt/format.h>

namespace truecurve {
namespace {

constexpr std::array<std::string_view, 3> censoring_words = {"none", "below", "above"};

[[noreturn]] void fail_at(const Table& table, const Column& column, std::size_t row, const std::string& what,
                          const Advice& remedy) {
  throw Error({.code = ErrorCode::bad_argument,
               .message = fmt::format("{}, column '{}': {}", row_text(table, row), column.name, what),
               .subject = column.name,
               .remedy = remedy,
               .place = {.file = table.source().name, .line = table.line(row)}});
}

Censoring said_at(const Table& table, const Column& column, std::size_t row) {
  const std::string* text = column.text_at(row);
  if (text == nullptr && column.is_missing(row)) return Censoring::none;
  const std::string word = text == nullptr ? shortest(column.numbers[row]) : *text;
  const auto at = std::find(censoring_words.begin(), censoring_words.end(), word);
  if (at != censoring_words.end()) return static_cast<Censoring>(at - censoring_words.begin());
  fail_at(table, column, row, fmt::format("'{}' does not say which side is known", word),
          "write none (measured), below (less than the response) or above (more than it)");
}

}  // namespace

// "<0.05", "≥ 1e7"; a decimal comma is one.
std::optional<detail::LimitCell> detail::limit_cell(std::string text) {
  static constexpr std::array<std::pair<std::string_view, Censoring>, 6> signs = {{{"<=", Censoring::below},
                                                                                   {">=", Censoring::above},
                                                                                   {"<", Censoring::below},
                                                                                   {">", Censoring::above},
                                                                                   {"\u2264", Censoring::below},
                                                                                   {"\u2265", Censoring::above}}};
  for (const auto& [sign, censoring] : signs) {
    if (!text.starts_with(sign)) continue;
    text.erase(0, sign.size());
    text.erase(0, text.find_first_not_of(' '));
    if (std::count(text.begin(), text.end(), ',') == 1 && text.find('.') == std::string::npos)
      std::replace(text.begin(), text.end(), ',', '.');
    if (text.starts_with('+')) text.erase(0, 1);
    double value = 0;
    const auto [end, fault] = std::from_chars(text.data(), text.data() + text.size(), value);
    if (fault != std::errc() || end != text.data() + text.size() || !std::isfinite(value)) return std::nullopt;
    return LimitCell{censoring, value};
  }
  return std::nullopt;
}

std::string_view name(Censoring censoring) noexcept { return detail::name_among(censoring_words, censoring); }

std::size_t CensoredRows::count(Censoring censoring) const noexcept {
  return static_cast<std::size_t>(std::count(of.begin(), of.end(), censoring));
}

CensoredRows censored_rows(const Table& table, const Choice& choice, std::string_view said_by) {
  if (choice.counting.kind != ResponseKind::measured) {
    throw Error({.code = ErrorCode::bad_argument,
                 .message = fmt::format("'{}' is counted, and can't have limits", choice.response),
                 .subject = choice.response,
                 .remedy = "take it as counted, or as measured with limits"});
  }
  const Column& response = table.column(choice.response);
  const Column* said = said_by.empty() ? nullptr : &table.column(said_by);
  Column numbers = response;
  std::vector<Censoring> by_row(table.rows(), Censoring::none);
  for (std::size_t row = 0; row < table.rows(); ++row) {
    if (const std::string* text = response.text_at(row)) {
      const auto limit = detail::limit_cell(*text);
      if (!limit) continue;  // stays a text, which the observations refuse
      by_row[row] = limit->censoring;
      numbers.numbers[row] = limit->value;
      std::erase_if(numbers.texts, [row](const TextCell& cell) { return cell.row == row; });
    }
    if (said == nullptr) continue;
    const Censoring word = said_at(table, *said, row);
    if (by_row[row] != Censoring::none && word != by_row[row])
      fail_at(table, *said, row, fmt::format("'{}' beside '{}'", name(word), *response.text_at(row)),
              "correct one of the two");
    by_row[row] = word;
  }
  std::vector<Column> columns(table.columns().begin(), table.columns().end());
  columns[static_cast<std::size_t>(&response - table.columns().data())] = std::move(numbers);
  std::vector<std::uint32_t> lines;
  for (std::size_t row = 0; row < table.rows() && table.line(row) != 0; ++row)
    lines.push_back(static_cast<std::uint32_t>(table.line(row)));
  CensoredRows result{Observations(Table(std::move(columns), table.source(), std::move(lines)), choice)};
  for (const std::uint32_t row : result.rows.source_rows()) result.of.push_back(by_row[row - 1]);
  return result;
}

}  // namespace truecurve
