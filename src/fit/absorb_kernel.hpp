// The body of absorb, included once for each instruction set; TRUECURVE_ABSORB names the function.
#include "absorb.hpp"

#include <cmath>

namespace truecurve::detail {
namespace {

// Eight doubles: one register with AVX-512, two with AVX, four with SSE2; the compiler splits as it must.
using Lanes = double __attribute__((vector_size(64)));

struct Aligned {
  static const Lanes& read(const double* from) { return *reinterpret_cast<const Lanes*>(from); }
  static Lanes& write(double* to) { return *reinterpret_cast<Lanes*>(to); }
};

inline double sum_of_lanes(const Lanes& v) {
  return ((v[0] + v[4]) + (v[2] + v[6])) + ((v[1] + v[5]) + (v[3] + v[7]));
}

inline double dot(const double* a, const double* b, std::size_t rows) {
  Lanes sum = {};
  for (std::size_t i = 0; i < rows; i += 8) sum += Aligned::read(a + i) * Aligned::read(b + i);
  return sum_of_lanes(sum);
}

// b -= factor*a, and the dot product of the result with itself where it is the next pivot column.
inline void subtract(double* b, double factor, const double* a, std::size_t rows) {
  for (std::size_t i = 0; i < rows; i += 8) Aligned::write(b + i) -= factor * Aligned::read(a + i);
}

}  // namespace

void TRUECURVE_ABSORB(double* r, std::size_t columns, double* block, std::size_t rows, std::size_t stride) {
  for (std::size_t j = 0; j < columns; ++j) {
    double* const pivot = block + j * stride;
    const double below = dot(pivot, pivot, rows);
    if (below == 0) continue;
    double& diagonal = r[j + j * columns];
    const double norm = std::sqrt(diagonal * diagonal + below);
    const double beta = diagonal > 0 ? -norm : norm;
    const double head = diagonal - beta;
    const double tau = 2 / (head * head + below);
    diagonal = beta;
    for (std::size_t k = j + 1; k < columns; ++k) {
      double* const column = block + k * stride;
      const double factor = tau * (head * r[j + k * columns] + dot(pivot, column, rows));
      r[j + k * columns] -= factor * head;
      subtract(column, factor, pivot, rows);
    }
  }
}

}  // namespace truecurve::detail
