// Reads the driver's elements one by one; what it does not know it leaves as it is.
#include "tidy_svg.hpp"

#include <truecurve/base/error.hpp>

#include <algorithm>
#include <charconv>
#include <cmath>
#include <optional>
#include <sstream>
#include <string_view>
#include <utility>
#include <vector>

#include <fmt/format.h>
#include <pugixml.hpp>

namespace truecurve::detail {
namespace {

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
std::string plain_number(std::string_view text) {
  const char* at = text.data();
  return fmt::format("{:.6g}", number_at(at, text.data() + text.size()).value_or(0));
}

struct Point {
  double x, y;
  bool operator==(const Point&) const = default;
};
using Line = std::vector<Point>;

Line line_of(std::string_view points) {
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

// An element as it stands, in one line.
std::string written(const pugi::xml_node& element) {
  std::ostringstream out;
  element.print(out, "", pugi::format_raw | pugi::format_no_declaration, pugi::encoding_utf8);
  return out.str() + "\n";
}

// Without what only repeats the default.
void make_plain(pugi::xml_node text) {
  constexpr std::pair<const char*, std::string_view> needless[] = {{"dominant-baseline", "no-change"},
                                                                   {"fill-opacity", "1.000000"},
                                                                   {"font-style", "normal"},
                                                                   {"font-weight", "normal"}};
  for (const auto& [name, value] : needless) {
    if (text.attribute(name).value() == value) text.remove_attribute(name);
  }
  for (const pugi::xml_node part : text.children()) make_plain(part);
}

// Collects lines of one style into one path.
class Paths {
 public:
  explicit Paths(std::string& out) : out_(out) {}

  void add(const pugi::xml_node& polyline) {
    const std::string fill = polyline.attribute("fill").value();
    const std::string style =
        fmt::format("fill=\"{}\" stroke=\"{}\" stroke-width=\"{}\"", fill.empty() ? "none" : fill,
                    polyline.attribute("stroke").value(), plain_number(polyline.attribute("stroke-width").value()));
    const bool is_filled = !fill.empty() && fill != "none";
    if (style != style_ || is_filled) close();
    style_ = style;
    const Line line = line_of(polyline.attribute("points").value());
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

void copy_children(const pugi::xml_node& parent, std::string& result, Paths& paths) {
  for (pugi::xml_node element : parent.children()) {
    if (element.type() != pugi::node_element) continue;
    const std::string_view name = element.name();
    if (name == "polyline") {
      paths.add(element);
      continue;
    }
    paths.close();
    if (name == "text") {
      make_plain(element);
      result += written(element);
    } else if (element.find_child([](const pugi::xml_node& child) { return child.type() == pugi::node_element; })) {
      result += fmt::format("<{}", name);
      for (const pugi::xml_attribute attribute : element.attributes())
        result += fmt::format(" {}=\"{}\"", attribute.name(), attribute.value());
      result += ">\n";
      copy_children(element, result, paths);
      paths.close();
      result += fmt::format("</{}>\n", name);
    } else {
      result += written(element);
    }
  }
}

}  // namespace

std::string tidy_svg(const std::string& svg) {
  pugi::xml_document document;
  const pugi::xml_parse_result read =
      document.load_buffer(svg.data(), svg.size(), pugi::parse_default | pugi::parse_ws_pcdata, pugi::encoding_utf8);
  const pugi::xml_node root = document.child("svg");
  if (!read || !root)
    throw Error({.code = ErrorCode::cannot_write,
                 .message = fmt::format("the picture could not be drawn in full: {}",
                                        read ? "it has no content" : read.description()),
                 .subject = "figure",
                 .remedy = "check the space on the disk"});
  std::string result = fmt::format(
      "<?xml version=\"1.0\" encoding=\"UTF-8\"?>\n<svg xmlns=\"http://www.w3.org/2000/svg\" version=\"1.1\" "
      "width=\"{}\" height=\"{}\" viewBox=\"{}\">\n",
      plain_number(root.attribute("width").value()), plain_number(root.attribute("height").value()),
      root.attribute("viewBox").value());
  Paths paths(result);
  copy_children(root, result, paths);
  paths.close();
  return result + "</svg>\n";
}

}  // namespace truecurve::detail
