// Any bytes at all must give a table whose parts agree, or an Error; never a crash, a hang or a leak.
#include <truecurve/base/error.hpp>
#include <truecurve/io/csv.hpp>

#include <cmath>
#include <cstdlib>
#include <sstream>

extern "C" int LLVMFuzzerTestOneInput(const unsigned char* data, std::size_t size) {
  std::istringstream stream(std::string(reinterpret_cast<const char*>(data), size));
  try {
    const truecurve::Table table = truecurve::read_csv(stream, "fuzz");
    for (const truecurve::Column& column : table.columns()) {
      if (column.numbers.size() != table.rows() || column.name.empty()) std::abort();
      for (const double number : column.numbers) {
        if (std::isinf(number)) std::abort();
      }
    }
    for (std::size_t row = 0; row < table.rows(); ++row) {
      if (table.line(row) == 0) std::abort();
    }
  } catch (const truecurve::Error& error) {
    if (error.remedy().empty() || error.place().file != "fuzz") std::abort();
  }
  return 0;
}
