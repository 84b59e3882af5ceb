// Several tables in one file: blocks with names of their own, beneath each other.
#pragma once

#include "csv_format.hpp"

#include <cstddef>
#include <string>
#include <string_view>
#include <vector>

namespace truecurve::detail {

/// Tells the blocks of a file apart, line by line. A new one begins behind a blank line (or one of empty cells) with
/// names, or with a title of one cell where numbers stood, once the block before has a row of numbers.
class CsvBlocks {
 public:
  /// `wanted` counts from 1; 0 for a file that holds one.
  explicit CsvBlocks(std::size_t wanted) : wanted_(wanted) {}

  /// The first block begins in that line.
  void begin(std::size_t line, std::string_view names);
  /// What the block that is read holds until now.
  struct Read {
    std::size_t rows = 0;
    bool begins_with_words = false;  ///< whether the first cell of its last row is a text
  };
  /// Looks at the next line that is no remark and continues no cell; whether a new block begins with it.
  [[nodiscard]] bool begins_with(std::string_view line, std::size_t number, const Read& read, const CsvFormat& format);
  /// Whether the lines of the present block are to be read.
  [[nodiscard]] bool is_read() const { return blocks_.empty() || present_ == (wanted_ == 0 ? 1 : wanted_); }

  /// When all lines are seen: what was not read, in a sentence, or nothing. Throws Error (bad_argument) where several
  /// blocks hold numbers and none is chosen, or there is none of that number; it lists them.
  [[nodiscard]] std::string not_read(const std::string& source) const;

 private:
  struct Block {
    std::size_t line = 0;
    std::string names{};
    bool has_numbers = false;
  };
  [[nodiscard]] std::string list() const;

  std::size_t wanted_;
  std::size_t present_ = 0;  // with numbers, the one that is begun included
  bool after_blank_ = false;
  std::vector<Block> blocks_;
};

}  // namespace truecurve::detail
