#include "picture.hpp"

#include "../support.hpp"

#include <locale>

#include <pugixml.hpp>

namespace truecurve::test {
namespace {

// The number of a label: "−0.5", "10⁻³", "2·10⁴"; nothing for words.
std::optional<double> label_number(std::string text) {
  static const std::vector<std::pair<std::string, std::string>> signs = {
      {"−", "-"}, {"⁻", "-"}, {"⁰", "0"}, {"¹", "1"}, {"²", "2"}, {"³", "3"}, {"⁴", "4"},
      {"⁵", "5"}, {"⁶", "6"}, {"⁷", "7"}, {"⁸", "8"}, {"⁹", "9"}, {" %", ""}};
  const bool is_power = text.starts_with("10") && text.size() > 2 && static_cast<unsigned char>(text[2]) > 127;
  for (const auto& [sign, plain] : signs) {
    for (auto at = text.find(sign); at != std::string::npos; at = text.find(sign)) text.replace(at, sign.size(), plain);
  }
  if (text.empty() || text.find_first_not_of("-0123456789.") != std::string::npos) return {};
  return is_power ? std::pow(10.0, number_of(text.substr(2))) : number_of(text);
}

// Equal steps or equal ratios between the numbers of an axis?
bool is_logarithmic(const std::vector<std::pair<double, double>>& ticks) {
  if (ticks.size() < 3 || ticks.front().first <= 0) return false;
  const auto& [a, b, c] = std::tuple{ticks.front(), ticks[1], ticks.back()};
  const double place = (b.second - a.second) / (c.second - a.second);
  return std::abs(place - std::log(b.first / a.first) / std::log(c.first / a.first)) <
         std::abs(place - (b.first - a.first) / (c.first - a.first));
}

std::vector<Path> paths_of(const std::string& d) {
  std::vector<Path> paths;
  std::string text;
  for (const char c : d) text += c == 'M' ? std::string(" M ") : std::string(1, c);
  std::istringstream stream(text);
  for (std::string token; stream >> token;) {
    if (token == "M") {
      paths.emplace_back();
      continue;
    }
    const auto comma = token.find(',');
    paths.back().push_back({number_of(token.substr(0, comma)), number_of(token.substr(comma + 1))});
  }
  return paths;
}

Pixel text_place(const std::string& transform) {
  std::istringstream stream(transform.substr(transform.find('(') + 1));
  stream.imbue(std::locale::classic());
  double number[6] = {};
  for (double& value : number) stream >> value;
  return {number[4], number[5]};
}

}  // namespace

double Panel::along(const std::vector<std::pair<double, double>>& ticks, double value, bool is_logarithmic) {
  const auto& [low, from] = ticks.front();
  const auto& [high, to] = ticks.back();
  const double share = is_logarithmic ? std::log(value / low) / std::log(high / low) : (value - low) / (high - low);
  return from + share * (to - from);
}

double Panel::x_value(double pixel) const {
  const auto& [low, from] = x_ticks.front();
  const auto& [high, to] = x_ticks.back();
  const double share = (pixel - from) / (to - from);
  return x_is_logarithmic ? low * std::pow(high / low, share) : low + share * (high - low);
}

bool Panel::holds(const Pixel& p) const {
  return p.x > left - 1 && p.x < right + 1 && p.y > bottom - 1 && p.y < top + 1;
}

Picture::Picture(const std::filesystem::path& svg) {
  pugi::xml_document document;
  if (!document.load_file(svg.c_str())) {
    ADD_FAILURE() << svg << " is no picture";
    return;
  }
  for (const pugi::xml_node& node : document.child("svg").child("g").children()) {
    const std::string name = node.name();
    if (name == "text") {
      std::string text;
      for (const pugi::xml_node& part : node.children()) text += part.text().get();
      words_.push_back({text, text_place(node.attribute("transform").value()), node.attribute("text-anchor").value()});
    } else if (name == "path") {
      shapes_.push_back({node.attribute("fill").value(), node.attribute("stroke").value(),
                         number_of(node.attribute("stroke-width").value()), paths_of(node.attribute("d").value())});
    }
  }
  find_panels();
}

bool Picture::says(const std::string& text) const {
  return std::any_of(words_.begin(), words_.end(),
                     [&](const Words& words) { return words.text.find(text) != std::string::npos; });
}

// The axes are two lines from one corner, the horizontal one first.
void Picture::find_panels() {
  for (const Shape& shape : shapes_) {
    if (shape.fill != "none" || shape.stroke != "#262C34" || shape.width != 1) continue;
    for (std::size_t i = 0; i + 1 < shape.paths.size(); ++i) {
      const Path& flat = shape.paths[i];
      const Path& upright = shape.paths[i + 1];
      if (flat.size() != 2 || upright.size() != 2) continue;
      const bool meet = std::hypot(flat[0].x - upright[0].x, flat[0].y - upright[0].y) < 0.1;
      if (!meet || flat[1].x - flat[0].x < 50 || upright[1].y - upright[0].y < 50) continue;
      panels_.push_back({.left = flat[0].x, .right = flat[1].x, .bottom = flat[0].y, .top = upright[1].y});
    }
  }
  for (Panel& panel : panels_) {
    for (const Words& words : words_) {
      const auto number = label_number(words.text);
      if (!number) continue;
      if (words.anchor == "middle" && words.at.y < panel.bottom && words.at.y > panel.bottom - 45 &&
          words.at.x > panel.left - 1 && words.at.x < panel.right + 1)
        panel.x_ticks.emplace_back(*number, words.at.x);
      if (words.anchor == "end" && words.at.x < panel.left && words.at.x > panel.left - 30 &&
          words.at.y > panel.bottom - 1 && words.at.y < panel.top + 1)
        panel.y_ticks.emplace_back(*number, words.at.y);
    }
  }
  // Panels above one another may share the numbers of the lowest, panels beside one another those of the leftmost.
  for (Panel& panel : panels_) {
    for (const Panel& other : panels_) {
      if (panel.x_ticks.empty() && std::abs(other.left - panel.left) < 1 && std::abs(other.right - panel.right) < 1)
        panel.x_ticks = other.x_ticks;
      if (panel.y_ticks.empty() && std::abs(other.bottom - panel.bottom) < 1 && std::abs(other.top - panel.top) < 1)
        panel.y_ticks = other.y_ticks;
    }
    std::sort(panel.x_ticks.begin(), panel.x_ticks.end());
    std::sort(panel.y_ticks.begin(), panel.y_ticks.end());
    panel.x_is_logarithmic = is_logarithmic(panel.x_ticks);
    panel.y_is_logarithmic = is_logarithmic(panel.y_ticks);
  }
  std::sort(panels_.begin(), panels_.end(), [](const Panel& a, const Panel& b) {
    return std::abs(a.top - b.top) > 1 ? a.top > b.top : a.left < b.left;
  });
}

std::vector<Pixel> Picture::discs(const Panel& panel, const std::string& colour) const {
  std::vector<Pixel> found;
  for (const Shape& shape : shapes_) {
    if (shape.fill != colour) continue;
    for (const Path& path : shape.paths) {
      if (path.size() < 8) continue;
      const auto [left, right] =
          std::minmax_element(path.begin(), path.end(), [](const Pixel& a, const Pixel& b) { return a.x < b.x; });
      const auto [low, high] =
          std::minmax_element(path.begin(), path.end(), [](const Pixel& a, const Pixel& b) { return a.y < b.y; });
      const double width = right->x - left->x;
      const Pixel middle{(left->x + right->x) / 2, (low->y + high->y) / 2};
      if (std::abs(width - (high->y - low->y)) < 0.3 && width < 30 && panel.holds(middle)) found.push_back(middle);
    }
  }
  return found;
}

std::vector<Path> Picture::lines(const Panel& panel, const std::string& colour, double width) const {
  std::vector<Path> found;
  for (const Shape& shape : shapes_) {
    if (shape.fill != "none" || shape.stroke != colour || std::abs(shape.width - width) > 0.01) continue;
    for (const Path& path : shape.paths) {
      if (std::all_of(path.begin(), path.end(), [&](const Pixel& p) { return panel.holds(p); })) found.push_back(path);
    }
  }
  return found;
}

Path Picture::corners(const Panel& panel, const std::string& colour) const {
  Path found;
  for (const Shape& shape : shapes_) {
    if (shape.fill != colour) continue;
    for (const Path& path : shape.paths) {
      for (const Pixel& p : path) {
        if (panel.holds(p)) found.push_back(p);
      }
    }
  }
  return found;
}

}  // namespace truecurve::test
