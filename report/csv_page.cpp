// The data of a page as CSV.
#include <truecurve/base/numeric.hpp>
#include <truecurve/report/renderers.hpp>

#include <cmath>

namespace truecurve {
namespace {

// Quoted where it must be (RFC 4180).
std::string field(const std::string& text) {
  if (text.find_first_of(",\"\n\r") == std::string::npos) return text;
  std::string quoted = "\"";
  for (const char c : text) {
    if (c == '"') quoted += '"';
    quoted += c;
  }
  return quoted + "\"";
}

std::string field(double value) {
  if (std::isnan(value)) return "";
  if (std::isinf(value)) return value > 0 ? "inf" : "-inf";
  return shortest(value);
}

std::string field(std::size_t number) { return std::to_string(number); }

}  // namespace

std::string csv_of(const Page& page) {
  std::string text;
  for (std::size_t k = 0; k < page.data.names.size(); ++k) text += (k == 0 ? "" : ",") + field(page.data.names[k]);
  text += "\n";
  for (const auto& row : page.data.rows) {
    for (std::size_t k = 0; k < row.size(); ++k)
      text += (k == 0 ? "" : ",") + std::visit([](const auto& datum) { return field(datum); }, row[k]);
    text += "\n";
  }
  return text;
}

}  // namespace truecurve
