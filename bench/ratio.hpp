// Ratios of two times measured in one run.
#pragma once

#include <algorithm>
#include <chrono>
#include <cstddef>
#include <vector>

// Medians of alternating runs, so that a change in the machine's speed hits both alike.
template <typename A, typename B>
double ratio(int runs, A a, B b) {
  std::vector<double> ratios;
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
