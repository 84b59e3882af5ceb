// Triangles of the size of a curve's parameters, without the templates of a general decomposition: their compilation
// took longer than that of all else in the descent.
#pragma once

namespace truecurve::detail {

/// Householder's triangle of the first `pivots` columns of a column-major array, in place: what is below it becomes
/// zero, the other columns are transformed along. Shape: rows x columns, `stride` apart; requires rows >= pivots.
/// Source: Golub and Van Loan, Matrix Computations, algorithm 5.2.1.
void triangularize(double* a, int rows, int columns, int pivots, int stride);

/// Solves R x = b for an upper triangular R (column-major); b is given in x. A zero on the diagonal gives infinities.
void substitute_back(const double* r, int size, int stride, double* x);

}  // namespace truecurve::detail
