// The one hot loop of linear least squares: a block of rows is absorbed into a triangular factor.
#pragma once

#include <cstddef>

namespace truecurve::detail {

/// So many columns, the response included, can be absorbed; a fit with more parameters is refused.
inline constexpr std::size_t most_columns = 64;

/// Replaces the upper triangular R (columns x columns, column-major) by the factor of [R; block]. The block is
/// column-major with `rows` rows, a multiple of 8 padded with zeros, columns 64-byte aligned and `stride` apart; it is
/// overwritten. Householder reflections: unconditionally stable. Every instruction set gives the same bits, because
/// sums always run in the same eight lanes and products are never fused with sums.
using Absorb = void (*)(double* r, std::size_t columns, double* block, std::size_t rows, std::size_t stride);

void absorb_portable(double* r, std::size_t columns, double* block, std::size_t rows, std::size_t stride);
void absorb_avx2(double* r, std::size_t columns, double* block, std::size_t rows, std::size_t stride);

/// The fastest this processor can run.
[[nodiscard]] Absorb best_absorb();

}  // namespace truecurve::detail
