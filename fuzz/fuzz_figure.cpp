// Names, units and numbers of every kind in a figure: it is drawn as SVG that begins and ends as one, or refused. The
// input is four lines (names and units of x and y), then bytes that become the rows.
#include <truecurve/base/error.hpp>
#include <truecurve/figure/fit_figure.hpp>
#include <truecurve/figure/look_figure.hpp>
#include <truecurve/model/shapes.hpp>

#include "bytes.hpp"

#include <array>
#include <cmath>
#include <cstdlib>
#include <cstring>
#include <filesystem>
#include <fstream>
#include <iterator>
#include <string>

#include <unistd.h>

namespace {

using namespace truecurve;

void require_svg(const std::filesystem::path& file) {
  std::ifstream stream(file, std::ios::binary);
  const std::string svg{std::istreambuf_iterator<char>(stream), {}};
  if (!svg.starts_with("<?xml") || svg.rfind("</svg>") == std::string::npos) std::abort();
}

}  // namespace

extern "C" int LLVMFuzzerTestOneInput(const unsigned char* data, std::size_t size) {
  static const std::filesystem::path file =
      std::filesystem::temp_directory_path() / ("truecurve-fuzz-" + std::to_string(getpid()) + ".svg");
  const unsigned char* const end = data + size;
  std::array<std::string, 4> words;
  for (std::string& word : words) {
    const auto* const line =
        static_cast<const unsigned char*>(std::memchr(data, '\n', static_cast<std::size_t>(end - data)));
    if (line == nullptr) return 0;
    word.assign(reinterpret_cast<const char*>(data), static_cast<std::size_t>(line - data));
    data = line + 1;
  }
  const std::vector<double> numbers = fuzzed::numbers_from(data, end);
  const std::size_t rows = std::min<std::size_t>(numbers.size() / 2, 60);
  if (rows < 1) return 0;
  std::vector<double> x;
  std::vector<double> y;
  for (std::size_t i = 0; i < rows; ++i) {
    x.push_back(numbers[2 * i]);
    y.push_back(numbers[2 * i + 1]);
  }
  try {
    const Table table = Table::from_columns({{words[0], words[1], x}, {words[2], words[3], y}});
    const Observations points(table, {.response = words[2], .predictors = {words[0]}});
    draw_look(points, file);
    require_svg(file);
    draw_fit(fit(shape_model("line", "x", "y"), Observations::of(x, y)), file);
    require_svg(file);
  } catch (const Error& error) {
    if (error.message().empty() || error.remedy().empty() || error.code() == ErrorCode::internal) std::abort();
  }
  return 0;
}
