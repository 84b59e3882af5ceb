// Results of which only a limit is known: below a reporting limit, above what was waited for.
//
// Example:
//     std::vector<truecurve::Column> columns(1);
//     columns[0].name = "c";
//     columns[0].numbers = {0.3, truecurve::not_a_number};
//     columns[0].texts = {{1, "<0.05"}};
//     const auto rows = truecurve::censored_rows(truecurve::Table(columns), {.response = "c"});
//     EXPECT_EQ(rows.of[1], truecurve::Censoring::below);
#pragma once

#include <truecurve/data/observations.hpp>

#include <cstddef>
#include <string_view>
#include <vector>

namespace truecurve {

/// What a row says about its response.
enum class Censoring : unsigned char {
  none,   ///< measured
  below,  ///< less than the number that stands there (left-censored)
  above,  ///< more than it (right-censored): a run-out
};

[[nodiscard]] std::string_view name(Censoring censoring) noexcept;

/// Observations and what each used row says about its response, whose number is the limit where it is one.
struct CensoredRows {
  Observations rows;
  std::vector<Censoring> of{};  ///< one a used row

  [[nodiscard]] std::size_t count(Censoring censoring) const noexcept;
};

/// Takes the chosen columns out of a table whose response has cells such as "<0.05" or "> 1e7" (also ≤, ≥, <=, >=), or
/// a column of its own, `said_by`, with the words none, below and above (nothing counts as none). Throws Error:
/// text_in_numbers (another text), bad_argument (a word that is none of them, a cell that says otherwise than its word,
/// a counted response), and as Observations.
[[nodiscard]] CensoredRows censored_rows(const Table& table, const Choice& choice, std::string_view said_by = "");

}  // namespace truecurve
