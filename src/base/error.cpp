// Builds the text of an error from its parts, in one place so that all read alike.
#include <truecurve/base/error.hpp>

#include <utility>

#include <fmt/format.h>

namespace truecurve {

std::string text_of(const ErrorDetails& details, const MeansWords& words) {
  std::string text;
  if (!details.place.file.empty()) {
    text += details.place.file;
    if (details.place.line > 0) text += fmt::format(":{}", details.place.line);
    if (details.place.column > 0) text += fmt::format(":{}", details.place.column);
    text += ": ";
  }
  text += details.message;
  if (!details.excerpt.empty()) text += "\n" + details.excerpt;
  if (!details.remedy.empty()) text += "\n  " + details.remedy.text(words);
  return text;
}

std::string_view name(ErrorCode code) noexcept {
  switch (code) {
    case ErrorCode::unknown_option: return "unknown_option";
    case ErrorCode::bad_argument: return "bad_argument";
    case ErrorCode::unknown_shape: return "unknown_shape";
    case ErrorCode::unknown_name: return "unknown_name";
    case ErrorCode::syntax: return "syntax";
    case ErrorCode::unknown_function: return "unknown_function";
    case ErrorCode::missing_operator: return "missing_operator";
    case ErrorCode::unbalanced_bracket: return "unbalanced_bracket";
    case ErrorCode::name_is_function: return "name_is_function";
    case ErrorCode::parameter_without_effect: return "parameter_without_effect";
    case ErrorCode::model_too_large: return "model_too_large";
    case ErrorCode::file_not_found: return "file_not_found";
    case ErrorCode::empty_file: return "empty_file";
    case ErrorCode::binary_file: return "binary_file";
    case ErrorCode::unsupported_file: return "unsupported_file";
    case ErrorCode::ragged_row: return "ragged_row";
    case ErrorCode::duplicate_column: return "duplicate_column";
    case ErrorCode::number_out_of_range: return "number_out_of_range";
    case ErrorCode::unknown_column: return "unknown_column";
    case ErrorCode::text_in_numbers: return "text_in_numbers";
    case ErrorCode::bad_uncertainty: return "bad_uncertainty";
    case ErrorCode::unsuitable_row: return "unsuitable_row";
    case ErrorCode::no_observations: return "no_observations";
    case ErrorCode::bad_record: return "bad_record";
    case ErrorCode::too_few_observations: return "too_few_observations";
    case ErrorCode::rank_deficient: return "rank_deficient";
    case ErrorCode::not_finite: return "not_finite";
    case ErrorCode::stopped: return "stopped";
    case ErrorCode::not_supported: return "not_supported";
    case ErrorCode::cannot_write: return "cannot_write";
    case ErrorCode::internal: return "internal";
  }
  return "internal";
}

ErrorKind kind(ErrorCode code) {
  if (code <= ErrorCode::model_too_large) return ErrorKind::usage;
  if (code <= ErrorCode::bad_record) return ErrorKind::data;
  if (code <= ErrorCode::not_supported) return ErrorKind::fit;
  if (code == ErrorCode::cannot_write) return ErrorKind::output;
  return ErrorKind::internal;
}

Error::Error(ErrorDetails details) : std::runtime_error(text_of(details)), details_(std::move(details)) {}

}  // namespace truecurve
