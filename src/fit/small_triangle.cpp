// Loops over columns.
#include "small_triangle.hpp"

#include <algorithm>
#include <cmath>

namespace truecurve::detail {

void triangularize(double* a, int rows, int columns, int pivots, int stride) {
  for (int k = 0; k < std::min(pivots, rows); ++k) {
    double* const pivot = a + static_cast<std::ptrdiff_t>(k) * stride;
    double tail = 0;
    for (int i = k + 1; i < rows; ++i) tail += pivot[i] * pivot[i];
    if (tail == 0) continue;  // triangular already
    // The sign that cancels nothing.
    const double head = pivot[k];
    const double norm = std::sqrt(head * head + tail);
    const double beta = head > 0 ? -norm : norm;
    const double v = head - beta;
    const double scale = 1 / (norm * (norm + std::abs(head)));  // 2/(vᵀv)
    for (int j = k + 1; j < columns; ++j) {
      double* const column = a + static_cast<std::ptrdiff_t>(j) * stride;
      double along = v * column[k];
      for (int i = k + 1; i < rows; ++i) along += pivot[i] * column[i];
      along *= scale;
      column[k] -= along * v;
      for (int i = k + 1; i < rows; ++i) column[i] -= along * pivot[i];
    }
    pivot[k] = beta;
    for (int i = k + 1; i < rows; ++i) pivot[i] = 0;
  }
}

void substitute_back(const double* r, int size, int stride, double* x) {
  for (int k = size - 1; k >= 0; --k) {
    x[k] /= r[k + k * stride];
    for (int i = 0; i < k; ++i) x[i] -= x[k] * r[i + k * stride];
  }
}

}  // namespace truecurve::detail
