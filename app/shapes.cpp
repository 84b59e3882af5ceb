// truecurve shapes: the catalogue.
#include <truecurve/model/shapes.hpp>

#include "command.hpp"

#include <memory>
#include <ostream>
#include <set>
#include <string>
#include <string_view>
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

// The shapes with a name in theirs; of a name with a choice in it, polynomial(3), the one that it is of.
std::vector<const Shape*> shapes_like(const std::string& name) {
  std::vector<const Shape*> found;
  for (const Shape& shape : shapes()) {
    if (shape.name.find(name) != std::string_view::npos) found.push_back(&shape);
  }
  if (!found.empty()) return found;
  (void)shape_model(name);  // throws, saying what may be meant
  for (const Shape& shape : shapes()) {
    if (name.starts_with(shape.name.substr(0, shape.name.find('(')))) found = {&shape};
  }
  return found;
}

int list_shapes(const std::vector<std::string>& names, const Streams& streams) {
  std::set<const Shape*> wanted;
  for (const std::string& name : names) {
    for (const Shape* shape : shapes_like(name)) wanted.insert(shape);
  }
  for (const Shape& shape : shapes()) {
    if (names.empty() || wanted.contains(&shape)) describe(shape, streams.out);
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
