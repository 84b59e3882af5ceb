// What is said of cells that no fit can use.
#pragma once

#include <truecurve/data/table.hpp>

#include <string>

namespace truecurve::detail {

/// A text where a number is needed; a limit such as "<0.05" is told what it is. Throws Error (text_in_numbers).
[[noreturn]] void fail_text(const Table& table, const Column& column, std::size_t row, const std::string& text);
/// The same of a response, which may be a column of words. Throws Error (text_in_numbers).
[[noreturn]] void fail_words(const Table& table, const Column& column, std::size_t row, const std::string& text);
/// A standard uncertainty that is none. Throws Error (bad_uncertainty).
[[noreturn]] void fail_uncertainty(const Table& table, const std::string& column, std::size_t row, double value);

/// A row to leave out must be one of the table's, counted from 1. Throws Error (unsuitable_row).
void require_row(std::size_t row, std::size_t rows);

}  // namespace truecurve::detail
