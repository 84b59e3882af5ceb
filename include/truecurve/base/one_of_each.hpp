// Some of many rows, whatever repeats along them.
//
// Example:
//     // Ten rows in threes: the first of the first three, the second of the next, ...
//     EXPECT_EQ(truecurve::one_of_each(0, 3, 10), 0u);
//     EXPECT_EQ(truecurve::one_of_each(1, 3, 10), 4u);
//     EXPECT_EQ(truecurve::one_of_each(2, 3, 10), 6u);
#pragma once

#include <cstddef>

namespace truecurve {

/// The row, counted from 0, that is taken of the place-th `stride` rows, of `rows` (at least 1) in all: another one
/// each time, by the golden ratio. Every n-th row would be the same place again and again where the places of the rows
/// repeat. A stride of 1 takes every row. Throws nothing.
[[nodiscard]] std::size_t one_of_each(std::size_t place, std::size_t stride, std::size_t rows) noexcept;

}  // namespace truecurve
