// What an analyst has measured: readings of standards, blanks, fortified samples, unknowns and controls.
//
// Example:
//     const auto table = truecurve::Table::from_columns({{"c", "mg/g", {0, 1, 2}}, {"I1", "", {1.8, 8.1, 14.4}},
//                                                        {"I2", "", {1.9, 8.2, 14.6}}});
//     const auto readings = truecurve::readings_of(table, {.amount = "c", .signals = {"I1", "I2"}});
//     EXPECT_EQ(readings.all.size(), 6u);
//     EXPECT_EQ(readings.of(truecurve::ReadingKind::standard).size(), 6u);
#pragma once

#include <truecurve/base/numeric.hpp>
#include <truecurve/data/observations.hpp>
#include <truecurve/data/table.hpp>

#include <string>
#include <string_view>
#include <vector>

namespace truecurve {

enum class ReadingKind {
  standard,   ///< of known amount, to make the line from
  blank,      ///< without analyte
  fortified,  ///< a blank to which a known amount near the detection limit was added
  sample,     ///< unknown
  control,    ///< of known amount, read as if it were unknown
};

/// "standard", "blank", ...
[[nodiscard]] std::string_view name(ReadingKind kind) noexcept;

/// One reading of the instrument.
struct Reading {
  ReadingKind kind = ReadingKind::standard;
  double amount = not_a_number;  ///< known amount; NaN for blanks and samples
  double signal = not_a_number;
  double amount_uncertainty = not_a_number;  ///< standard uncertainty of the known amount, where stated
  double signal_uncertainty = not_a_number;  ///< of a single reading, where stated
  double exposure = not_a_number;            ///< of a count, whose signal is the count over this; NaN: measured
  double dilution = 1;                       ///< by which a read amount is multiplied
  std::string sample{};                      ///< name of a sample or control; empty where none is given
  std::size_t row = 0;                       ///< number in the table
  std::string table{};                       ///< its file, where it is not the first of several
  double order = not_a_number;               ///< rises in the order of measurement, where a column says it
  std::size_t replicate = 0;                 ///< of several signal columns which, from 0

  /// The counted number. Requires an exposure.
  [[nodiscard]] double count() const noexcept;
};

/// Which columns play which part. `kind`, `sample`, `dilution` and `order` may be empty.
struct ReadingColumns {
  std::string amount{};                ///< may be empty where no row has a known amount
  std::vector<std::string> signals{};  ///< one column of signals, or one a replicate
  std::string kind{};                  ///< words: standard, blank, fortified, sample, control
  std::string sample{};
  std::string dilution{};
  std::string order{};  ///< of measurement; empty: the rows were measured as they stand
  Uncertainty amount_uncertainty = Uncertainty::none();
  Uncertainty signal_uncertainty = Uncertainty::none();  ///< of each reading
  ReadingKind otherwise = ReadingKind::standard;         ///< what rows are where there is no column of kinds
  /// Whether the signals are counts, and their exposure: a column, or one number for all. Events are not calibrated.
  Counting counting{};
};

struct Readings {
  std::vector<Reading> all{};
  Quantity amount{};
  Quantity signal{};
  TableSource source{};
  std::size_t rows_read = 0;
  std::vector<LeftOut> left_out{};            ///< by the user, or because a cell is missing
  std::vector<std::string> signal_columns{};  ///< one a replicate
  std::vector<std::string> remarks{};         ///< units that were converted
  bool are_counts = false;                    ///< the signals are counts over their exposures

  /// "row 7", of several columns of signals "row 7, I2", of a further table "row 7 of blanks.csv". Throws no Error of
  /// its own.
  [[nodiscard]] std::string place_of(const Reading& reading) const;

  /// The readings of one kind, in the order of the table. Throws no Error of its own.
  [[nodiscard]] std::vector<Reading> of(ReadingKind kind) const;
};

/// Takes a table apart. A missing signal is left out and listed; a row that needs an amount and has none is an error.
/// Throws Error: unknown_column, text_in_numbers (a signal such as "<0.5": the row, the text and what to do),
/// bad_argument (a kind that is not known; a dilution that is not positive; no signals; events among trials; stated
/// uncertainties of counts), bad_uncertainty (one that is not finite and above 0), unsuitable_row (also of a count that
/// is none, or an exposure that is not above 0).
[[nodiscard]] Readings readings_of(const Table& table, const ReadingColumns& columns,
                                   const std::vector<LeftOut>& left_out = {});

/// The readings in the units of these quantities: equal units and unknown ones stay, prefixes of the SI are converted
/// and said in the remarks. Throws Error (bad_argument) for units of other quantities.
[[nodiscard]] Readings in_units_of(Readings readings, const Quantity& amount, const Quantity& signal);

/// Readings of several tables together, those of the second in the units of the first. Throws Error (bad_argument)
/// where they are of other quantities.
[[nodiscard]] Readings joined(Readings first, const Readings& other);

}  // namespace truecurve
