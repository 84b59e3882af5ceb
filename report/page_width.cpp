// The width in force, one for each thread.
#include <truecurve/report/page_width.hpp>

#include "grid.hpp"

#include <algorithm>
#include <limits>
#include <sstream>

namespace truecurve {
namespace {

constexpr std::size_t readable = 100;
constexpr std::size_t narrowest = 40;
constexpr std::size_t unlimited = std::numeric_limits<std::size_t>::max();
thread_local std::size_t in_force = unlimited;

}  // namespace

PageWidth::PageWidth(std::size_t columns) : before_(in_force) {
  in_force = columns == 0 ? unlimited : std::max(columns, narrowest);
}
PageWidth::~PageWidth() { in_force = before_; }
std::size_t PageWidth::columns() { return std::min(in_force, readable); }
std::size_t PageWidth::limit() { return in_force; }

std::string on_page(const std::string& text, std::size_t indent) {
  const std::string margin(indent, ' ');
  std::istringstream lines(text);
  std::string result;
  std::string paragraph;
  const auto close = [&] {
    if (!paragraph.empty()) result += detail::wrapped(paragraph, PageWidth::columns(), margin, margin);
    paragraph.clear();
  };
  for (std::string line; std::getline(lines, line);) {
    if (!line.empty() && line[0] != ' ') {
      paragraph += " " + line;
      continue;
    }
    close();
    result += line + "\n";
  }
  close();
  return result;
}

}  // namespace truecurve
