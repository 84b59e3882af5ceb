// The body of absorb, included once for each instruction set: TRUECURVE_ABSORB names the function, TRUECURVE_LANE_BYTES
// the width of its registers.
#include "absorb.hpp"

#include <cmath>

namespace truecurve::detail {
namespace {

using Lanes = double __attribute__((vector_size(TRUECURVE_LANE_BYTES)));
constexpr std::size_t lane = TRUECURVE_LANE_BYTES / sizeof(double);
constexpr std::size_t registers = 8 / lane;

// Eight partial sums, whatever the width of a register, added up in one fixed order.
struct EightSums {
  Lanes part[registers] = {};
  [[nodiscard]] double total() const {
    alignas(64) double v[8];
    for (std::size_t r = 0; r < registers; ++r) *reinterpret_cast<Lanes*>(v + r * lane) = part[r];
    return ((v[0] + v[4]) + (v[2] + v[6])) + ((v[1] + v[5]) + (v[3] + v[7]));
  }
};

inline const Lanes& read(const double* from) { return *reinterpret_cast<const Lanes*>(from); }
inline Lanes& write(double* to) { return *reinterpret_cast<Lanes*>(to); }

inline double dot(const double* a, const double* b, std::size_t rows) {
  EightSums sum;
  for (std::size_t i = 0; i < rows; i += 8) {
    for (std::size_t r = 0; r < registers; ++r) sum.part[r] += read(a + i + r * lane) * read(b + i + r * lane);
  }
  return sum.total();
}

// column -= factor*pivot, and the dot product of the result with itself.
inline double subtract_and_square(double* column, double factor, const double* pivot, std::size_t rows) {
  EightSums sum;
  for (std::size_t i = 0; i < rows; i += 8) {
    for (std::size_t r = 0; r < registers; ++r) {
      const Lanes value = read(column + i + r * lane) - factor * read(pivot + i + r * lane);
      write(column + i + r * lane) = value;
      sum.part[r] += value * value;
    }
  }
  return sum.total();
}

// column -= factor*pivot, and the dot product of the result with the next pivot column.
inline double subtract_and_dot(double* column, double factor, const double* pivot, const double* next,
                               std::size_t rows) {
  EightSums sum;
  for (std::size_t i = 0; i < rows; i += 8) {
    for (std::size_t r = 0; r < registers; ++r) {
      const Lanes value = read(column + i + r * lane) - factor * read(pivot + i + r * lane);
      write(column + i + r * lane) = value;
      sum.part[r] += value * read(next + i + r * lane);
    }
  }
  return sum.total();
}

}  // namespace

void TRUECURVE_ABSORB(double* r, std::size_t columns, double* block, std::size_t rows, std::size_t stride) {
  // product[k] is the dot product of the present pivot column with column k; each pass over the columns prepares the
  // next.
  double product[most_columns];
  for (std::size_t k = 0; k < columns; ++k) product[k] = dot(block, block + k * stride, rows);
  for (std::size_t j = 0; j < columns; ++j) {
    const double* const pivot = block + j * stride;
    double* const next = block + (j + 1) * stride;
    const double below = product[j];
    double head = 0;
    double tau = 0;
    if (below != 0) {  // NaN too: it must reach the factor, where it is noticed
      double& diagonal = r[j + j * columns];
      const double norm = std::sqrt(diagonal * diagonal + below);
      const double beta = diagonal > 0 ? -norm : norm;
      head = diagonal - beta;
      tau = 2 / (head * head + below);
      diagonal = beta;
    }
    for (std::size_t k = j + 1; k < columns; ++k) {
      const double factor = tau * (head * r[j + k * columns] + product[k]);
      r[j + k * columns] -= factor * head;
      product[k] = k == j + 1 ? subtract_and_square(next, factor, pivot, rows)
                              : subtract_and_dot(block + k * stride, factor, pivot, next, rows);
    }
  }
}

}  // namespace truecurve::detail
