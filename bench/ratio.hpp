// Ratios of two times measured in one run.
#pragma once

#include <algorithm>
#include <chrono>
#include <cstddef>
#include <cstdlib>
#include <vector>

// Whether a test only tries that it runs: everything once, and of few rows. The ratios mean nothing then.
inline bool is_tried() { return std::getenv("TRUECURVE_BENCH_TRY") != nullptr; }
// So many rows, or a thousandth of them.
inline std::ptrdiff_t many_rows(std::ptrdiff_t wanted) {
  return is_tried() ? std::max<std::ptrdiff_t>(wanted / 1000, 100) : wanted;
}

// Medians of alternating runs, so that a change in the machine's speed hits both alike.
template <typename A, typename B>
double ratio(int runs, A a, B b) {
  std::vector<double> ratios;
  if (is_tried()) runs = 1;
  for (int i = 0; i < runs; ++i) {
    const auto start = std::chrono::steady_clock::now();
    a();
    const auto middle = std::chrono::steady_clock::now();
    b();
    const auto end = std::chrono::steady_clock::now();
    ratios.push_back(std::chrono::duration<double>(middle - start) / std::chrono::duration<double>(end - middle));
  }
  std::nth_element(ratios.begin(), ratios.begin() + runs / 2, ratios.end());
  return ratios[static_cast<std::size_t>(runs / 2)];
}
