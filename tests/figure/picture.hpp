// Reads what a figure shows, as an eye would: its words, and through the numbers on its axes where its points and lines
// stand. Pixels count from the lower left corner.
#pragma once

#include <filesystem>
#include <string>
#include <vector>

namespace truecurve::test {

struct Pixel {
  double x = 0, y = 0;
};
using Path = std::vector<Pixel>;

struct Words {
  std::string text;
  Pixel at;
  std::string anchor;
};

/// A panel: where its axes are, and what their numbers say.
struct Panel {
  double left, right, bottom, top;
  /// Where a value stands, by the outermost numbers of the axis: equal steps, or equal ratios.
  [[nodiscard]] double x(double value) const { return along(x_ticks, value, x_is_logarithmic); }
  [[nodiscard]] double y(double value) const { return along(y_ticks, value, y_is_logarithmic); }
  [[nodiscard]] double x_value(double pixel) const;
  [[nodiscard]] bool holds(const Pixel& p) const;

  std::vector<std::pair<double, double>> x_ticks{};  ///< value and pixel, rising
  std::vector<std::pair<double, double>> y_ticks{};
  bool x_is_logarithmic = false, y_is_logarithmic = false;

 private:
  static double along(const std::vector<std::pair<double, double>>& ticks, double value, bool is_logarithmic);
};

class Picture {
 public:
  explicit Picture(const std::filesystem::path& svg);

  [[nodiscard]] const std::vector<Words>& words() const { return words_; }
  /// Whether a text is among the words, as a whole or as a part of one.
  [[nodiscard]] bool says(const std::string& text) const;
  /// From the uppermost, and from the left.
  [[nodiscard]] const std::vector<Panel>& panels() const { return panels_; }
  /// The middles of the filled circles of a colour ("#183E70") in a panel, in the order they were drawn.
  [[nodiscard]] std::vector<Pixel> discs(const Panel& panel, const std::string& colour) const;
  /// Lines of a colour and width in a panel, each unbroken piece for itself.
  [[nodiscard]] std::vector<Path> lines(const Panel& panel, const std::string& colour, double width) const;
  /// The corners of areas of a colour in a panel.
  [[nodiscard]] Path corners(const Panel& panel, const std::string& colour) const;

 private:
  struct Shape {
    std::string fill, stroke;
    double width;
    std::vector<Path> paths;
  };
  void find_panels();
  std::vector<Words> words_;
  std::vector<Shape> shapes_;
  std::vector<Panel> panels_;
};

}  // namespace truecurve::test
