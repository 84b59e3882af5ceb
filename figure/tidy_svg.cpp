// Reads the driver's elements one by one; what it does not know it leaves as it is.
#include "tidy_svg.hpp"

#include <truecurve/base/error.hpp>

#include <algorithm>
#include <charconv>
#include <cmath>
#include <optional>
#include <string_view>
#include <vector>

#include <fmt/format.h>

namespace truecurve::detail {
namespace {

std::string attribute(std::string_view element, std::string_view name) {
  const std::string mark = fmt::format(" {}=\"", name);
  const auto at = element.find(mark);
  if (at == std::string_view::npos) return "";
  const auto begin = at + mark.size();
  return std::string(element.substr(begin, element.find('"', begin) - begin));
}

// The number that follows blanks and a comma, whatever the locale; `at` is moved behind it.
std::optional<double> number_at(const char*& at, const char* end) {
  while (at != end && (*at == ' ' || *at == ',' || *at == '\n')) ++at;
  double number = 0;
  const auto [stop, code] = std::from_chars(at, end, number);
  if (code != std::errc()) return {};
  at = stop;
  return number;
}

// "1.000000e+00" as "1".
std::string plain_number(const std::string& text) {
  const char* at = text.data();
  return fmt::format("{:.6g}", number_at(at, text.data() + text.size()).value_or(0));
}

struct Point {
  double x, y;
  bool operator==(const Point&) const = default;
};
using Line = std::vector<Point>;

Line line_of(const std::string& points) {
  Line line;
  const char* at = points.data();
  const char* const end = at + points.size();
  while (const auto x = number_at(at, end)) line.push_back({*x, number_at(at, end).value_or(0)});
  return line;
}

double distance(Point p, Point from, Point to) {
  const double dx = to.x - from.x;
  const double dy = to.y - from.y;
  const double length = std::hypot(dx, dy);
  if (length == 0) return std::hypot(p.x - from.x, p.y - from.y);
  return std::abs(dx * (p.y - from.y) - dy * (p.x - from.x)) / length;
}

// The points without which a line would move by more than a twentieth of a pixel (Douglas and Peucker 1973).
Line simplified(const Line& line) {
  constexpr double unseen = 0.05;
  if (line.size() < 3) return line;
  std::vector<bool> kept(line.size(), false);
  kept.front() = kept.back() = true;
  std::vector<std::pair<std::size_t, std::size_t>> open = {{0, line.size() - 1}};
  while (!open.empty()) {
    const auto [from, to] = open.back();
    open.pop_back();
    double farthest = unseen;
    std::size_t at = from;
    for (std::size_t i = from + 1; i < to; ++i) {
      const double away = distance(line[i], line[from], line[to]);
      if (away > farthest) {
        farthest = away;
        at = i;
      }
    }
    if (at == from) continue;
    kept[at] = true;
    open.push_back({from, at});
    open.push_back({at, to});
  }
  Line result;
  for (std::size_t i = 0; i < line.size(); ++i) {
    if (kept[i]) result.push_back(line[i]);
  }
  return result;
}

std::string path_of(const Line& line) {
  std::string result;
  for (const Point& point : simplified(line))
    result += fmt::format("{}{:.6g},{:.6g}", result.empty() ? "M" : " ", point.x, point.y);
  return result;
}

void append_utf8(std::string& text, unsigned long code) {
  const auto byte = [&text](unsigned long value) { text += static_cast<char>(value); };
  if (code < 0x80) {
    byte(code);
  } else if (code < 0x800) {
    byte(0xC0 | (code >> 6));
    byte(0x80 | (code & 0x3F));
  } else if (code < 0x10000) {
    byte(0xE0 | (code >> 12));
    byte(0x80 | ((code >> 6) & 0x3F));
    byte(0x80 | (code & 0x3F));
  } else {
    byte(0xF0 | (code >> 18));
    byte(0x80 | ((code >> 12) & 0x3F));
    byte(0x80 | ((code >> 6) & 0x3F));
    byte(0x80 | (code & 0x3F));
  }
}

// "&#x35;" as "5", but never a character that XML keeps for itself.
std::string decoded(std::string_view text) {
  std::string result;
  for (std::size_t at = 0; at < text.size();) {
    const auto end = text.substr(at, 3) == "&#x" ? text.find(';', at) : std::string_view::npos;
    if (end == std::string_view::npos) {
      result += text[at++];
      continue;
    }
    const unsigned long code = std::strtoul(std::string(text.substr(at + 3, end - at - 3)).c_str(), nullptr, 16);
    if (code == '<' || code == '>' || code == '&' || code == '"') {
      result += text.substr(at, end + 1 - at);
    } else {
      append_utf8(result, code);
    }
    at = end + 1;
  }
  return result;
}

// Blanks and line ends between attributes as one blank.
std::string on_one_line(std::string_view element) {
  std::string result;
  for (const char c : element) {
    const bool is_blank = c == ' ' || c == '\n';
    if (!is_blank)
      result += c;
    else if (!result.empty() && result.back() != ' ')
      result += ' ';
  }
  return result;
}

// Without what only repeats the default.
std::string plain_text_element(std::string element) {
  for (const std::string_view needless : {" dominant-baseline=\"no-change\"", " fill-opacity=\"1.000000\"",
                                          " font-style=\"normal\"", " font-weight=\"normal\""}) {
    if (const auto at = element.find(needless); at != std::string::npos) element.erase(at, needless.size());
  }
  return element;
}

// Collects lines of one style into one path.
class Paths {
 public:
  explicit Paths(std::string& out) : out_(out) {}

  void add(std::string_view polyline) {
    const std::string fill = attribute(polyline, "fill");
    const std::string style =
        fmt::format("fill=\"{}\" stroke=\"{}\" stroke-width=\"{}\"", fill.empty() ? "none" : fill,
                    attribute(polyline, "stroke"), plain_number(attribute(polyline, "stroke-width")));
    const bool is_filled = !fill.empty() && fill != "none";
    if (style != style_ || is_filled) close();
    style_ = style;
    const Line line = line_of(attribute(polyline, "points"));
    if (line.empty()) return;
    if (!lines_.empty() && lines_.back().back() == line.front()) {
      lines_.back().insert(lines_.back().end(), line.begin() + 1, line.end());
    } else {
      lines_.push_back(line);
    }
  }

  void close() {
    if (lines_.empty()) return;
    out_ += fmt::format("<path {} d=\"", style_);
    for (const Line& line : lines_) out_ += path_of(line);
    out_ += "\"/>\n";
    lines_.clear();
  }

 private:
  std::string& out_;
  std::string style_{};
  std::vector<Line> lines_{};
};

}  // namespace

std::string tidy_svg(const std::string& svg) {
  std::string result;
  Paths paths(result);
  const auto root = svg.find("<svg");
  if (root == std::string::npos)
    throw Error({.code = ErrorCode::internal, .message = "the SVG driver wrote no picture", .subject = "figure"});
  result = "<?xml version=\"1.0\" encoding=\"UTF-8\"?>\n";
  for (std::size_t at = root; at < svg.size();) {
    const auto begin = svg.find('<', at);
    if (begin == std::string::npos) break;
    const bool is_text = svg.compare(begin, 5, "<text") == 0;
    const auto end = is_text ? svg.find("</text>", begin) + 7 : svg.find('>', begin) + 1;
    const std::string element = on_one_line(std::string_view(svg).substr(begin, end - begin));
    at = end;
    if (element.starts_with("<polyline")) {
      paths.add(element);
      continue;
    }
    paths.close();
    if (element.starts_with("<svg")) {
      const std::string box = attribute(element, "viewBox");
      result += fmt::format(
          "<svg xmlns=\"http://www.w3.org/2000/svg\" version=\"1.1\" width=\"{}\" height=\"{}\" viewBox=\"{}\">\n",
          plain_number(attribute(element, "width")), plain_number(attribute(element, "height")), box);
    } else {
      result += (is_text ? decoded(plain_text_element(element)) : element) + "\n";
    }
  }
  paths.close();
  return result;
}

}  // namespace truecurve::detail
