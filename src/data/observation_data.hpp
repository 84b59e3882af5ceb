// What observations hold, and the demands that every way to make them has in common.
#pragma once

#include <truecurve/data/observations.hpp>

#include <cstdint>
#include <mutex>
#include <span>
#include <string>
#include <utility>
#include <vector>

namespace truecurve {

namespace detail {

/// The numbers of the used rows, from 1: without a list where all rows of arrays are used.
class RowNumbers {
 public:
  RowNumbers() = default;
  explicit RowNumbers(std::vector<std::uint32_t> numbers) : count_(numbers.size()), numbers_(std::move(numbers)) {}
  /// 1, 2, 3, ...
  [[nodiscard]] static RowNumbers first(std::size_t count);
  RowNumbers(const RowNumbers& other);
  RowNumbers& operator=(const RowNumbers& other);
  ~RowNumbers() = default;

  [[nodiscard]] std::size_t size() const noexcept { return count_; }
  [[nodiscard]] std::uint32_t operator[](std::size_t i) const noexcept {
    return all_ ? static_cast<std::uint32_t>(i + 1) : numbers_[i];
  }
  /// As a list, made when it is first asked for; safe to ask from several threads.
  [[nodiscard]] std::span<const std::uint32_t> list() const;

 private:
  std::size_t count_ = 0;
  bool all_ = false;
  mutable std::mutex making_;
  mutable std::vector<std::uint32_t> numbers_;
};

}  // namespace detail

struct Observations::Data {
  Quantity response;
  std::vector<Quantity> predictors;
  Vector responses;
  std::vector<Vector> columns;
  Vector row_scatter;
  ObservationModel model;
  Vector sizes;  // trials or exposures of a counted response
  std::string size_origin;
  std::string event;
  std::string origin;
  detail::RowNumbers rows;
  Vector order;  // of measurement; empty where it is that of the rows
  std::vector<LeftOut> left_out;
  std::size_t rows_read = 0;
  TableSource source;
  std::vector<std::string> remarks;
};

namespace detail {

/// Throws Error (bad_uncertainty) where a standard uncertainty is not finite and above 0.
void require_positive(double value, const std::string& subject, const char* what);
/// Throws Error (no_observations) where no row is left.
void require_rows(std::size_t used);
/// Readings whose rows say what they scatter by, times a scale that is known or NaN.
[[nodiscard]] ObservationModel scattering_by_row(double scale);

}  // namespace detail
}  // namespace truecurve
