// Uses the installed library as a stranger would.
#include <truecurve/io/csv.hpp>
#include <truecurve/truecurve.hpp>

#include <iostream>
#include <sstream>

int main() {
  std::istringstream file("x,y\n1,3\n2,5\n3,7\n");
  const auto table = truecurve::read_csv(file, "three points");
  const auto line = truecurve::fit(truecurve::shape_model("line"),
                                   truecurve::Observations(table, {.response = "y", .predictors = {"x"}}));
  std::cout << line.parameter("b").value << '\n';
  return line.parameter("b").value > 1.999 && line.parameter("b").value < 2.001 ? 0 : 1;
}
