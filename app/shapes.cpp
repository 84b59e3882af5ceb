// truecurve shapes: the catalogue.
#include <truecurve/model/shapes.hpp>

#include "command.hpp"

#include <algorithm>
#include <memory>
#include <ostream>
#include <string>
#include <vector>

#include <fmt/format.h>

namespace truecurve::app {
namespace {

void describe(const Shape& shape, std::ostream& out) {
  out << fmt::format("{}\n  {}\n", shape.name, shape.formula);
  if (!shape.linearized.empty()) out << fmt::format("  linearized: {}\n", shape.linearized);
  for (const ShapeParameter& parameter : shape.parameters) {
    const bool converted = !parameter.from_linearized.empty() && parameter.from_linearized != parameter.name;
    out << fmt::format("    {}: {}{}\n", parameter.name, parameter.meaning,
                       converted ? fmt::format("; {} of the linearized form", parameter.from_linearized) : "");
  }
  for (const ShapeParameter& quantity : shape.derived)
    out << fmt::format("    {} = {}: {}\n", quantity.name, quantity.from_linearized, quantity.meaning);
  out << fmt::format("  Use: {}\n\n", shape.use);
}

int list_shapes(const std::vector<std::string>& names, const Streams& streams) {
  for (const std::string& name : names) {
    const auto is_meant = [&name](const Shape& shape) { return shape.name.find(name) != std::string_view::npos; };
    if (std::none_of(shapes().begin(), shapes().end(), is_meant)) (void)shape_model(name);  // says what may be meant
  }
  for (const Shape& shape : shapes()) {
    const bool is_wanted = std::any_of(names.begin(), names.end(), [&shape](const std::string& name) {
      return shape.name.find(name) != std::string_view::npos;
    });
    if (names.empty() || is_wanted) describe(shape, streams.out);
  }
  return 0;
}

}  // namespace

Command add_shapes(CLI::App& parser, const Streams& streams) {
  auto names = std::make_shared<std::vector<std::string>>();
  Arguments command(parser, "shapes", "List the named shapes with formula, meaning of the parameters and use");
  command.add("SHAPE", *names, "Only those with this in their names: exponential, newton-cooling");
  command.example("truecurve shapes exponential");
  return [names, streams] { return list_shapes(*names, streams); };
}

}  // namespace truecurve::app
