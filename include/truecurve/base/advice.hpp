// What can be done about an error or a caution, in words that every interface can use: the library says what,
// and by a code with what means; a command, a window or a program says how.
// None of these throws an Error of its own.
//
// Example:
//     const truecurve::Advice advice{"leave the row out", {truecurve::Action::leave_row_out, "3"}, ", or correct it"};
//     EXPECT_EQ(advice.text(), "leave the row out, or correct it");
//     EXPECT_EQ(advice.text([](const truecurve::Means& means) { return "row " + means.argument; }),
//               "leave the row out (row 3), or correct it");
#pragma once

#include <initializer_list>
#include <optional>
#include <string>
#include <utility>
#include <vector>

namespace truecurve {

/// Something that a user of the library can choose, and what its argument says.
enum class Action {
  // the rows
  leave_row_out,           ///< the row's number in its table
  leave_invalid_rows_out,  ///< no argument: the rows that a transform cannot take
  restrict_range,          ///< amounts from and to, such as "..40"; empty for any
  choose_block,            ///< no argument: which of several tables in a file
  // the columns
  choose_response,    ///< no argument
  choose_replicates,  ///< no argument
  choose_predictor,   ///< no argument
  name_unit,          ///< "column=unit"
  // the kind of response and its scatter
  name_event,           ///< the entry that is the event, or empty
  name_trials,          ///< no argument
  take_as_numbers,      ///< no argument: zeros and ones by least squares
  read_counts,          ///< no argument
  measure_counts,       ///< no argument: counts as measured signals that scatter like counts
  name_exposure,        ///< no argument
  choose_scatter,       ///< constant, proportional, counts, both; empty for any
  choose_distribution,  ///< normal, lognormal or weibull; empty for any
  state_uncertainty,    ///< the column concerned, or empty
  omit_uncertainty,     ///< the column concerned
  scale_by_scatter,     ///< no argument
  // the parameters
  give_start,      ///< no argument
  set_limits,      ///< no argument
  hold_parameter,  ///< its name, or empty
  // the blank of a calibration
  treat_blank,  ///< none, subtract or include
  // what is shown and kept
  list_shapes,       ///< no argument
  draw_sample,       ///< no argument: how an unknown of another name is read
  draw_criterion,    ///< no argument
  draw_probability,  ///< no argument
  write_record,      ///< no argument
};

/// One thing that can be done, and with what.
struct Means {
  Action action{};
  std::string argument{};
};

/// How an interface says it, e.g. "--leave-out 3"; nothing where it has no words for it.
using MeansWords = std::string (*)(const Means&);

/// Words, and within them the means that they speak of.
class Advice {
 public:
  /// Words, or the means that those before it speak of.
  struct Part {
    Part(std::string said) : words(std::move(said)) {}  // NOLINT(google-explicit-constructor): words are advice
    Part(const char* said) : words(said) {}             // NOLINT(google-explicit-constructor)
    Part(Action action, std::string argument = {}) : means(Means{action, std::move(argument)}) {}  // NOLINT
    std::string words{};
    std::optional<Means> means{};
  };

  Advice() = default;
  Advice(std::string words);  // NOLINT(google-explicit-constructor): words are advice
  Advice(const char* words);  // NOLINT(google-explicit-constructor)
  Advice(std::initializer_list<Part> parts);

  [[nodiscard]] bool empty() const noexcept { return parts_.empty(); }
  /// The words alone.
  [[nodiscard]] std::string text() const;
  /// The words, and behind those that speak of means how these are said, in brackets.
  [[nodiscard]] std::string text(const MeansWords& words) const;
  /// The means in the order of the words.
  [[nodiscard]] std::vector<Means> means() const;

  Advice& operator+=(const Advice& more);
  friend Advice operator+(Advice first, const Advice& more) { return std::move(first += more); }

 private:
  std::vector<Part> parts_{};
};

}  // namespace truecurve
