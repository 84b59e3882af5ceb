// truecurve shapes: the catalogue.
#include <truecurve/model/shapes.hpp>

#include "command.hpp"

#include <memory>
#include <ostream>

#include <fmt/format.h>

namespace truecurve::app {

Command add_shapes(CLI::App& parser, Streams streams) {
  Arguments command(parser, "shapes", "List the named shapes with formula, meaning of the parameters and use");
  command.example("truecurve shapes");
  return [streams] {
    for (const Shape& shape : shapes()) {
      streams.out << fmt::format("{}\n  {}\n", shape.name, shape.formula);
      if (!shape.linearized.empty()) streams.out << fmt::format("  linearized: {}\n", shape.linearized);
      for (const ShapeParameter& parameter : shape.parameters) {
        const bool converted = !parameter.from_linearized.empty() && parameter.from_linearized != parameter.name;
        streams.out << fmt::format(
            "    {}: {}{}\n", parameter.name, parameter.meaning,
            converted ? fmt::format("; {} of the linearized form", parameter.from_linearized) : "");
      }
      for (const ShapeParameter& quantity : shape.derived)
        streams.out << fmt::format("    {} = {}: {}\n", quantity.name, quantity.from_linearized, quantity.meaning);
      streams.out << fmt::format("  Use: {}\n\n", shape.use);
    }
    return 0;
  };
}

}  // namespace truecurve::app
