// What was measured, as a fit takes it: a response, its predictors, its standard uncertainties, and the rows left out.
//
// Example:
//     const auto table = truecurve::Table::from_columns({{"x", "", {1, 2, 3}}, {"y", "", {3.3, 5.6, 7.1}}});
//     const truecurve::Observations points(table, {.response = "y", .predictors = {"x"},
//                                                  .response_uncertainty = truecurve::Uncertainty::number(0.5)});
//     EXPECT_EQ(points.size(), 3u);
//     EXPECT_EQ(points.uncertainties()[2], 0.5);
#pragma once

#include <truecurve/base/numeric.hpp>
#include <truecurve/data/observation_model.hpp>
#include <truecurve/data/table.hpp>

#include <memory>
#include <span>
#include <string>
#include <vector>

namespace truecurve {

/// How the standard uncertainties of the response are given.
class Uncertainty {
 public:
  enum class Kind { automatic, none, column, number, percent };

  /// Automatic: the column headed `u(NAME)` or `u_NAME` where the table has one, else none.
  Uncertainty() = default;
  /// The column of that name, in the unit of the response. Throws no Error of its own.
  Uncertainty(std::string column)
      : kind_(Kind::column), column_(std::move(column)) {}               // NOLINT: a column's name is one
  Uncertainty(const char* column) : Uncertainty(std::string(column)) {}  // NOLINT
  /// None are taken, whatever columns there are. Throws no Error of its own.
  [[nodiscard]] static Uncertainty none();
  /// The same for every row, in the unit of the response. Throws Error (bad_uncertainty) unless it is finite and above
  /// 0.
  [[nodiscard]] static Uncertainty number(double value);
  /// This share of the value, in percent. A fit takes it of its curve, by iteration: of the reading itself it would
  /// give low readings too much weight. Throws Error as number().
  [[nodiscard]] static Uncertainty percent(double value);

  [[nodiscard]] Kind kind() const noexcept { return kind_; }
  [[nodiscard]] const std::string& column_name() const noexcept { return column_; }
  [[nodiscard]] double value() const noexcept { return value_; }

 private:
  Kind kind_ = Kind::automatic;
  std::string column_{};
  double value_ = 0;
};

/// A row that is not used, by its number in the table (from 1), and why.
struct LeftOut {
  std::size_t row = 0;
  std::string reason{};
  std::string column{};  ///< of replicate columns of signals: only the reading in this one; empty for the whole row
};

/// How a response was counted, where it was not measured.
struct Counting {
  ResponseKind kind = ResponseKind::measured;
  /// Of events in single trials: which of the two words, or of the two numbers, of the response is the event; empty for
  /// a response of zeros and ones, in which 1 is.
  std::string event{};
  /// A column with the trials (the response then is the number of events among them) or the exposure of each row.
  std::string size_column{};
  double size = 1;  ///< the same for every row, without a column
};

/// Which columns play which part.
struct Choice {
  std::string response{};                 ///< the measured quantity, y
  std::vector<std::string> predictors{};  ///< what it is measured against, x
  Uncertainty response_uncertainty{};     ///< standard uncertainty of each response
  std::vector<LeftOut> left_out{};        ///< rows not to be used, whatever they hold
  Counting counting{};                    ///< of a response that was counted; it has no uncertainties
  std::string order{};  ///< a column that gives the order of measurement; empty: the rows were measured as they stand
};

/// A quantity's name and unit.
struct Quantity {
  std::string name{};
  std::string unit{};
};

/// A column from the caller's arrays.
struct NamedColumn {
  std::string name{};
  std::string unit{};
  Vector values{};
};
/// The same without a copy.
struct NamedSpan {
  std::string name{};
  std::string unit{};
  std::span<const double> values{};
};

/// Immutable and cheap to copy. Rows in which a chosen column is missing are left out and listed with that reason; a
/// text in a chosen column is an error, as is an uncertainty that is not finite and greater than 0.
class Observations {
 public:
  /// Throws Error: unknown_column, text_in_numbers, bad_uncertainty, no_observations, bad_argument (uncertainties of a
  /// counted response, an event that is none of its words), unsuitable_row (no such row, or a row that can't have been
  /// counted: no whole number, less than 0, more events than trials, a size that is not above 0).
  Observations(const Table& table, const Choice& choice);

  /// Straight from arrays: the columns are called x and y. `uncertainties` is empty, or one a row. Throws Error as
  /// of_columns().
  [[nodiscard]] static Observations of(Vector x, Vector y, Vector uncertainties = {});

  /// Of named columns with their units, one predictor or more, or none: all of equal length. `uncertainties`, in the
  /// unit of the response, is empty, or one a row. Vectors that are moved in are not copied. Throws Error: bad_argument
  /// (lengths differ, a name that is empty or stands twice), not_finite, bad_uncertainty, no_observations.
  [[nodiscard]] static Observations of_columns(NamedColumn response, std::vector<NamedColumn> predictors,
                                               Vector uncertainties = {});
  /// The same of arrays that stay with the caller: nothing is copied, and they must be neither changed nor freed while
  /// these observations, their copies, or a fit of them exist. What is derived from them (`without`, `with_response`)
  /// owns its numbers. Beside them a fit of a line needs no memory that grows with the rows. Throws Error as
  /// of_columns().
  [[nodiscard]] static Observations borrowed(NamedSpan response, const std::vector<NamedSpan>& predictors,
                                             std::span<const double> uncertainties = {});

  /// Shares of trials or counts from arrays: `counted` whole numbers, `sizes` the trials or exposures of the rows.
  /// Throws Error: bad_argument, unsuitable_row.
  [[nodiscard]] static Observations counted(Vector x, const Vector& counted, Vector sizes, ResponseKind kind);

  [[nodiscard]] std::size_t size() const noexcept;
  [[nodiscard]] const Quantity& response() const noexcept;
  [[nodiscard]] std::span<const Quantity> predictors() const noexcept;
  [[nodiscard]] const Vector& responses() const noexcept;  ///< one a used row
  /// One a used row. Throws Error (bad_argument) where there is no predictor of that index, counted from 0.
  [[nodiscard]] const Vector& predictor(std::size_t index) const;
  /// Measured readings, or how the response was counted.
  [[nodiscard]] const ObservationModel& observation_model() const noexcept;
  /// Trials or exposures of a counted response, one a used row; else empty. Its responses() are shares or rates: the
  /// counted number over this.
  [[nodiscard]] const Vector& sizes() const noexcept;
  /// Whether the trials or exposures are other than 1.
  [[nodiscard]] bool has_sizes() const noexcept;
  /// The counted numbers themselves, one a used row: events, or counts. Throws no Error of its own.
  [[nodiscard]] Vector counted_numbers() const;
  /// Where trials or exposures come from, as a phrase: "from column n"; empty where there are none.
  [[nodiscard]] const std::string& size_origin() const noexcept;
  /// The event as a phrase: the column's name, "cracked", or "state = cracked" where a word stands for it; empty for a
  /// response of another kind.
  [[nodiscard]] const std::string& event() const noexcept;
  /// Stated standard uncertainties, one for each used row, or empty. Of a percentage it is the share of the measured
  /// value.
  [[nodiscard]] const Vector& uncertainties() const noexcept;
  /// What the readings of the rows scatter by, one for each used row: their stated uncertainties, or numbers
  /// proportional to their standard deviations; empty where all scatter alike.
  [[nodiscard]] const Vector& row_scatter() const noexcept;
  /// The stated uncertainty as a share of the response (0.05 for 5 %); 0 where it is not stated so.
  [[nodiscard]] double relative_uncertainty() const noexcept;
  [[nodiscard]] bool has_uncertainties() const noexcept;
  /// Where the uncertainties come from, as a phrase: "from column u(T), found by itself"; empty without any.
  [[nodiscard]] const std::string& uncertainty_origin() const noexcept;
  [[nodiscard]] std::span<const std::uint32_t> source_rows() const noexcept;  ///< the number of each used row, from 1
  /// Numbers that rise in the order of measurement, one for each used row: those of a chosen column, else of the rows.
  /// Throws no Error of its own.
  [[nodiscard]] Vector order() const;
  [[nodiscard]] std::span<const LeftOut> left_out() const noexcept;  ///< in row order
  [[nodiscard]] std::size_t rows_read() const noexcept;
  [[nodiscard]] const TableSource& source() const noexcept;
  /// Remarks made while choosing, e.g. a column of uncertainties that was not used.
  [[nodiscard]] std::span<const std::string> remarks() const noexcept;

  /// The same rows with another response and other stated uncertainties (one a used row, or empty). They count as
  /// measured. Throws Error (bad_argument) where the lengths differ.
  [[nodiscard]] Observations with_response(Vector values, Vector uncertainties) const;
  /// The same, their scatter (one a used row, or empty) known but for its scale. Throws Error as with_response().
  [[nodiscard]] Observations with_relative_scatter(Vector values, Vector row_scatter) const;
  /// The same rows with another response that scatters as it did. Throws Error as the other.
  [[nodiscard]] Observations with_response(Vector values) const;

  /// The same rows, their responses scattering as a model says that is not of our own kinds; sizes one a row, greater
  /// than 0. Throws Error (bad_argument).
  [[nodiscard]] Observations scattering_as(ObservationModel model, Vector sizes) const;
  /// The same rows and sizes with other shares or rates. Throws Error (bad_argument) where the lengths differ.
  [[nodiscard]] Observations with_counted(Vector responses) const;

  /// The same rows under the numbers that they have in the table they came from, one a used row, and numbers that rise
  /// in the order of measurement (empty: those of the rows do). Throws Error (bad_argument) where the lengths differ.
  [[nodiscard]] Observations numbered(std::vector<std::uint32_t> rows, Vector order = {}) const;

  /// The same observations without some of their rows (numbers in the table, from 1). Throws Error (unsuitable_row,
  /// no_observations).
  [[nodiscard]] Observations without(std::span<const std::size_t> rows, const std::string& reason) const;

 private:
  struct Data;
  class FromTable;
  explicit Observations(std::shared_ptr<const Data> data) : data_(std::move(data)) {}
  [[nodiscard]] Observations with(Vector values, Vector row_scatter, double scale) const;
  std::shared_ptr<const Data> data_;
};

}  // namespace truecurve
