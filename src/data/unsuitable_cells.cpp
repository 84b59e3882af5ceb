// The errors of cells.
#include "unsuitable_cells.hpp"

#include <truecurve/base/error.hpp>
#include <truecurve/data/censoring.hpp>

#include "limit_cell.hpp"

#include <cmath>

#include <fmt/format.h>

namespace truecurve::detail {

void fail_text(const Table& table, const Column& column, std::size_t row, const std::string& text) {
  if (const auto limit = limit_cell(text)) {
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
               .message = fmt::format("{}, column '{}': '{}' is not a number", row_text(table, row), column.name, text),
               .subject = column.name,
               .value = text,
               .remedy = {"correct the cell, write NA if it is missing, or leave the row out",
                          {Action::leave_row_out, fmt::format("{}", row + 1)}},
               .place = {.file = table.source().name, .line = table.line(row)}});
}

// A response of words is an event, if it is anything.
void fail_words(const Table& table, const Column& column, std::size_t row, const std::string& text) {
  if (!column.is_text()) fail_text(table, column, row, text);
  throw Error({.code = ErrorCode::text_in_numbers,
               .message = fmt::format("{}, column '{}': '{}' is not a number", row_text(table, row), column.name, text),
               .subject = column.name,
               .value = text,
               .remedy = {"if the column says whether something happened, name the word for which it did",
                          {Action::name_event, text},
                          "; else choose a column of numbers"},
               .place = {.file = table.source().name, .line = table.line(row)}});
}

void fail_uncertainty(const Table& table, const std::string& column, std::size_t row, double value) {
  throw Error(
      {.code = ErrorCode::bad_uncertainty,
       .message = fmt::format("{}, '{}': a standard uncertainty must be finite and greater than 0, and this is {}",
                              row_text(table, row), column, std::isnan(value) ? "missing" : fmt::format("{}", value)),
       .subject = fmt::format("row {}", row + 1),
       .value = fmt::format("{}", value),
       .remedy = {"correct it, or leave the row out", {Action::leave_row_out, fmt::format("{}", row + 1)}},
       .place = {.file = table.source().name, .line = table.line(row)}});
}

void require_row(std::size_t row, std::size_t rows) {
  if (row >= 1 && row <= rows) return;
  throw Error({.code = ErrorCode::unsuitable_row,
               .message = fmt::format("there is no row {} to leave out; the table has rows 1 to {}", row, rows),
               .subject = "leave-out",
               .value = fmt::format("{}", row),
               .remedy = "rows are counted from 1, the header not included"});
}

}  // namespace truecurve::detail
