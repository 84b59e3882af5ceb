// What observations hold, and the demands that every way to make them has in common.
#pragma once

#include <truecurve/data/observations.hpp>

#include <string>
#include <vector>

namespace truecurve {

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
  std::vector<std::uint32_t> rows;
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
