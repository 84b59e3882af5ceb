// What the text of a curve shows of its parameters: how they meet the predictors, which stand together, which terms are
// alike.
#pragma once

#include "graph.hpp"
#include "program.hpp"

#include <vector>

namespace truecurve::detail {

/// How a parameter meets the predictors, which says of what size it may be: next to the bare x in a sum (a place on the
/// axis), a factor or a divisor of x, an exponent, the base of a power with x in its exponent, next to other things
/// with x in a sine (a phase), or something else.
enum class ParameterPart { place, factor, divisor, exponent, base, phase, other };

struct Meeting {
  ParameterPart part = ParameterPart::other;
  /// 1 where the place on the axis is the parameter itself (x - p), -1 where it is its negative (x + p), else 0; 0 also
  /// where x + p is divided by and the like: the k of m*x/(k + x) is no place on the axis.
  int place_sign = 0;
  /// Of a factor or divisor of x in the argument of a sine: that argument grows by turn*p (or turn/p) for a unit of x;
  /// else 0.
  double turn = 0;
};
/// The first operation on the way up from a parameter that joins it with a predictor.
[[nodiscard]] Meeting meeting_of(Graph& graph, NodeId root, int parameter, const std::vector<NameRole>& roles);

/// Parameters that stand together in a term of the outermost sum, by number: those to be sought, and those that enter
/// linearly in these terms and in no others.
struct TermGroup {
  std::vector<int> entangled;
  std::vector<int> separable;
  /// Groups of equal number are the same expression but for the names of the parameters, which then correspond in the
  /// order in which they stand here.
  int family = 0;
  /// Whether the terms vanish where the separable parameters are 0.
  bool can_vanish = false;
};

/// The groups of the entangled parameters. `names` holds the graph's name of each parameter.
[[nodiscard]] std::vector<TermGroup> term_groups(Graph& graph, NodeId root, const std::vector<int>& entangled,
                                                 const std::vector<int>& separable, const std::vector<int>& names);

}  // namespace truecurve::detail
