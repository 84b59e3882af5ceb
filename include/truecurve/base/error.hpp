// What went wrong, where, with which value, and what to do about it.
// None of these throws an Error of its own.
//
// Every mistake a user can make ends in one exception type, so that the command and a C++ caller can tell the place
// (file, line, column), the subject (a row, a column, an argument, a parameter) and the remedy without reading prose.
//
// Example:
//     try {
//       (void)truecurve::Model::written("y = a + 2b*x");
//     } catch (const truecurve::Error& error) {
//       EXPECT_EQ(error.code(), truecurve::ErrorCode::missing_operator);
//       EXPECT_FALSE(error.remedy().empty());
//     }
#pragma once

#include <truecurve/base/advice.hpp>

#include <cstddef>
#include <stdexcept>
#include <string>
#include <string_view>

namespace truecurve {

/// What went wrong, as a stable name that programs may test.
enum class ErrorCode {
  // usage: the call or the command line
  unknown_option,
  bad_argument,
  unknown_shape,
  unknown_name,
  // model text
  syntax,
  unknown_function,
  missing_operator,
  unbalanced_bracket,
  name_is_function,
  parameter_without_effect,
  model_too_large,
  // data
  file_not_found,
  empty_file,
  binary_file,
  unsupported_file,
  ragged_row,
  duplicate_column,
  number_out_of_range,
  unknown_column,
  text_in_numbers,
  bad_uncertainty,
  unsuitable_row,
  no_observations,
  bad_record,
  // fit
  too_few_observations,
  rank_deficient,
  not_finite,
  stopped,
  not_supported,
  // output
  cannot_write,
  // a fault of this program
  internal,
};

/// The groups of errors; the command's exit code follows from them.
enum class ErrorKind { usage, data, fit, output, internal };

/// The stable name of a code, e.g. "ragged_row".
[[nodiscard]] std::string_view name(ErrorCode code) noexcept;

/// The group a code belongs to.
[[nodiscard]] ErrorKind kind(ErrorCode code);

/// A place in a text: the file (or "model"), its line and its column, both from 1; 0 where there is none.
struct Place {
  std::string file{};
  std::size_t line = 0;
  std::size_t column = 0;
};

/// Everything an error says; empty fields are left out of the text.
struct ErrorDetails {
  ErrorCode code = ErrorCode::internal;
  std::string message{};  ///< what is wrong, with the rule that was broken
  std::string subject{};  ///< the row, column, argument or parameter concerned
  std::string value{};    ///< the offending value, at full precision
  Advice remedy{};        ///< what to do about it
  std::string excerpt{};  ///< the text concerned with a caret beneath the place, two lines
  Place place{};
};

/// All of it as text; the remedy's means as an interface says them, or not at all.
[[nodiscard]] std::string text_of(const ErrorDetails& details, const MeansWords& words = {});

/// A mistake in what the user gave, or an outcome that cannot be stated as a result.
class Error : public std::runtime_error {
 public:
  explicit Error(ErrorDetails details);

  [[nodiscard]] ErrorCode code() const noexcept { return details_.code; }
  [[nodiscard]] const std::string& message() const noexcept { return details_.message; }
  [[nodiscard]] const std::string& subject() const noexcept { return details_.subject; }
  [[nodiscard]] const std::string& value() const noexcept { return details_.value; }
  [[nodiscard]] std::string remedy() const { return details_.remedy.text(); }
  [[nodiscard]] const Place& place() const noexcept { return details_.place; }
  [[nodiscard]] const ErrorDetails& details() const noexcept { return details_; }

 private:
  ErrorDetails details_;
};

}  // namespace truecurve
