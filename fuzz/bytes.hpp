// What the fuzzers make of bytes.
#pragma once

#include <cmath>
#include <cstring>
#include <vector>

namespace truecurve::fuzzed {

/// Numbers of every kind: eighths mostly, and behind a byte of 255 the eight bytes of any double that is finite.
inline std::vector<double> numbers_from(const unsigned char* data, const unsigned char* end) {
  std::vector<double> numbers;
  while (data < end) {
    double number = (*data - 100) / 8.0;
    if (*data == 0xFF && end - data > 8) {
      std::memcpy(&number, data + 1, sizeof number);
      data += sizeof number;
    }
    numbers.push_back(std::isfinite(number) ? number : 0);
    ++data;
  }
  return numbers;
}

}  // namespace truecurve::fuzzed
