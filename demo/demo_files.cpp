// Draws the demo data from their truth.
#include "make_demo_data.hpp"
#include "truth.hpp"

#include <truecurve/base/random.hpp>

#include <fmt/format.h>

namespace truecurve::demo {
namespace {

DemoFile thermometers() {
  using Truth = ThermometerTruth;
  RandomNumbers random(Truth::seed);
  std::string text =
      "# Comparison of a new thermometer with the laboratory's reference\n"
      "# (made-up data; truth and seed in demo/truth.hpp)\n"
      "t_ref (°C),t_test (°C),u(t_test) (°C)\n";
  for (const double reference : Truth::reference) {
    const double u = reference <= 140 ? Truth::bath : Truth::furnace;
    text += fmt::format("{:.0f},{:.2f},{:.2f}\n", reference, Truth::offset + Truth::slope * reference + u * random.normal(), u);
  }
  return {"thermometers.csv", text};
}

DemoFile lead_standards() {
  using Truth = LeadStandardsTruth;
  RandomNumbers random(Truth::seed);
  std::string text =
      "# Lead in bronze by spark emission: standards, four sparks each\n"
      "# (made-up data; truth and seed in demo/truth.hpp)\n"
      "standard;c_Pb (mg/g);I (kcps)\n";
  for (std::size_t level = 0; level < Truth::levels.size(); ++level) {
    for (int spark = 0; spark < Truth::replicates; ++spark) {
      const double intensity = Truth::blank + Truth::sensitivity * Truth::levels[level] + Truth::scatter * random.normal();
      std::string row = fmt::format("B{};{:.1f};{:.2f}\n", level, Truth::levels[level], intensity);
      // The spectrometer's software writes decimal commas.
      for (char& c : row) c = c == '.' ? ',' : c;
      text += row;
    }
  }
  return {"lead_standards.csv", text};
}

}  // namespace

std::vector<DemoFile> demo_files() { return {thermometers(), lead_standards()}; }

}  // namespace truecurve::demo
