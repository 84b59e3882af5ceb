// What is written to options: grids, places, limits, starts, rows to leave out, candidates. Any text gives values, or
// an Error that names the option. The first byte says which.
#include <truecurve/base/error.hpp>
#include <truecurve/fit/fit.hpp>
#include <truecurve/model/shapes.hpp>

#include "../app/candidate_text.hpp"
#include "../app/grid_values.hpp"
#include "../app/model_options.hpp"

#include <cmath>
#include <cstdlib>
#include <string>

namespace {

using namespace truecurve;

void require_finite(const Vector& values) {
  for (const double value : values) {
    if (!std::isfinite(value)) std::abort();
  }
}

void read_one(unsigned kind, const std::string& text) {
  static const Table table =
      Table::from_columns({{"x", "", {1, 2, 3, 4}}, {"y", "", {3, 5, 7, 8}}, {"I2", "", {1, 1, 2, 2}}});
  static const Fit line = fit(shape_model("line", "x", "y"), Observations::of({1, 2, 3, 4}, {3, 5, 7, 8}));
  switch (kind % 6) {
    case 0: require_finite(Vector(app::grid_values(text, "--at"))); break;
    case 1:
      for (const Vector& values : app::places_of({text}, line.estimate(), "--at")) require_finite(values);
      break;
    case 2: {
      const app::ModelOptions options{.starts = {text}, .fixed = {text}};
      (void)app::starts_of(options);
      (void)app::fixed_of(options);
      break;
    }
    case 3: (void)app::rows_left_out(table, {text}); break;
    case 4:
      for (const app::CandidateText& candidate : app::candidates_of(text, {})) {
        if (candidate.name.empty()) std::abort();
      }
      break;
    default: (void)app::within_of(text);
  }
}

}  // namespace

extern "C" int LLVMFuzzerTestOneInput(const unsigned char* data, std::size_t size) {
  if (size < 1 || size > 200) return 0;
  try {
    read_one(data[0], std::string(reinterpret_cast<const char*>(data + 1), size - 1));
  } catch (const Error& error) {
    if (error.message().empty() || error.remedy().empty() || error.code() == ErrorCode::internal) std::abort();
  }
  return 0;
}
