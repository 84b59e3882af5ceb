// The options behind the means that the library advises.
#include "option_words.hpp"

#include <fmt/format.h>

namespace truecurve::app {
namespace {

// The option with what is known of its value.
std::string with_value(const char* option, const std::string& argument, const char* otherwise = "") {
  const std::string value = argument.empty() ? otherwise : quoted(argument);
  return value.empty() ? option : fmt::format("{} {}", option, value);
}

}  // namespace

std::string quoted(const std::string& word) {
  const bool is_plain =
      !word.empty() &&
      word.find_first_not_of("abcdefghijklmnopqrstuvwxyzABCDEFGHIJKLMNOPQRSTUVWXYZ0123456789_-./=,%:+") ==
          std::string::npos;
  if (is_plain) return word;
  // POSIX, Shell & Utilities, 2.2.2: within single quotes every character stands for itself; a quote is left out of
  // them.
  std::string text = "'";
  for (const char c : word) text += c == '\'' ? std::string("'\\''") : std::string(1, c);
  return text + "'";
}

std::string option_words(const Means& means) {
  const std::string& what = means.argument;
  switch (means.action) {
    case Action::leave_row_out: return with_value("--leave-out", what);
    case Action::leave_invalid_rows_out: return "--leave-out invalid";
    case Action::restrict_range: return with_value("--range", what);
    case Action::choose_block: return "--block NUMBER";
    case Action::choose_response: return "--y COLUMN";
    case Action::choose_replicates: return "--replicates S1,S2,S3";
    case Action::choose_predictor: return "--x COLUMN";
    case Action::name_unit: return with_value("--unit", what.ends_with('=') ? what + "UNIT" : what, "NAME=UNIT");
    case Action::name_event: return with_value("--event", what);
    case Action::name_trials: return "--trials";
    case Action::take_as_numbers: return "--as-numbers";
    case Action::read_counts: return "--counts";
    case Action::measure_counts: return "--spread counts in place of --counts";
    case Action::name_exposure: return "--exposure";
    case Action::choose_scatter: return what.empty() ? "--spread" : "--spread " + what;
    case Action::choose_distribution: return with_value("--distribution", what, "normal, lognormal or weibull");
    case Action::state_uncertainty:
      return what.empty() ? "--u" : fmt::format("--u {}=COLUMN, NUMBER or PERCENT%", quoted(what));
    case Action::omit_uncertainty: return fmt::format("--u {}=none", quoted(what));
    case Action::scale_by_scatter: return "--uncertainty scatter";
    case Action::give_start: return "--start NAME=VALUE";
    case Action::set_limits: return "--within NAME=LOW..HIGH";
    case Action::hold_parameter: return fmt::format("--fix {}=VALUE", what.empty() ? "NAME" : quoted(what));
    case Action::treat_blank: return with_value("--blank", what);
    case Action::list_shapes: return "truecurve shapes";
    case Action::draw_sample: return "--figure-sample NAME";
    case Action::draw_criterion: return "--figure-criterion FILE";
    case Action::draw_probability: return "--figure-probability FILE";
    case Action::write_record: return "--output FILE";
  }
  return "";
}

}  // namespace truecurve::app
