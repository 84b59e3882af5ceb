// What a model is made of, for the rooms that evaluate it.
#pragma once

#include <truecurve/model/model.hpp>

#include "../base/matrices.hpp"
#include "graph.hpp"
#include "program.hpp"
#include "structure.hpp"

#include <functional>
#include <memory>
#include <mutex>
#include <span>
#include <string>
#include <utility>
#include <vector>

namespace truecurve::detail {

/// How a term's column depends on the predictors: c*x^degree in one predictor, or something else.
struct Monomial {
  int predictor = -1;  // -1 for a constant
  int degree = -1;     // -1 where the term is no single power
};

/// A model given as C++ code with some of its parameters held.
struct BoundFunction {
  RowFunction run;
  VectorXd theta;         // all parameters, the held ones at their values
  std::vector<int> free;  // place of each free parameter among all
};

/// A model's C++ code threw: the row within the block, and what it said.
struct FunctionFailure {
  std::size_t row = 0;
  std::string what;
};

/// What is known once the predictors are: names resolved, structure examined, programs compiled.
struct BoundModel {
  std::vector<std::string> predictors;
  std::vector<std::string> parameters;
  bool linear = false;
  // of a linear model: outputs 0..p-1 are the terms' columns, output p the part without parameters (if it has one)
  Program columns;
  bool has_offset = false;
  int constant_term = -1;  // the parameter whose column is a constant, or -1
  double constant_value = 1;
  std::vector<Monomial> monomials;  // one a parameter
  bool straight_line = false;
  bool falling_column = false;  // of a straight line: the slope's column falls with the predictor, as in a - b*x
  // The power of the one predictor that each parameter multiplies, where these are 0..k, each once, and nothing else is
  // there; empty for any other model.
  std::vector<int> powers;
  int polynomial_predictor = -1;

  // of a curve, a model that is not linear or is treated so: value and derivatives by every parameter in one pass, and
  // what is needed to solve for the parameters that enter linearly together
  Program jacobian;                               // outputs: value, then one a parameter
  Program value;                                  // output: value
  Program projection;                             // outputs: value, then one a separable parameter, in their order
  std::shared_ptr<const BoundFunction> function;  // of a model given as C++ code: takes the place of the programs
  std::vector<int> separable;                     // parameters that enter linearly together
  std::vector<int> entangled;                     // the others
  std::vector<ParameterPart> parts;               // one a parameter: how it meets the predictors
  std::vector<int> place_signs;                   // 1 where the place on the axis is the parameter itself (x - p), -1
                                                  // where it is its negative (x + p), 0 for every other parameter
  std::vector<double> turns;                      // one a parameter: how fast a sine turns with x where it is 1, or 0
  std::vector<TermGroup> groups;                  // entangled parameters that stand together in a term of the sum

  // The left side. Variables of its programs: the response (or the value of the left side) first, then the predictors.
  bool transformed = false;
  Program left;     // value of the left side, its first, second and third derivative by the response
  Program inverse;  // the response, its derivative by the value of the left side
  NodeId left_node = -1;
  std::string left_text;        // "ln(y)"
  std::string implied_scatter;  // to what the scatter of the response is taken as proportional: "y" for ln(y)

  /// Value, or value and all derivatives, of a curve in `rows` <= block_rows rows; outputs[0] receives the values.
  /// Throws FunctionFailure.
  void run_value(std::span<const double* const> variables, std::size_t rows, std::span<const double> theta,
                 std::span<double* const> outputs, Program::Workspace& work) const;
  void run_jacobian(std::span<const double* const> variables, std::size_t rows, std::span<const double> theta,
                    std::span<double* const> outputs, Program::Workspace& work) const;
  /// Value and the derivatives by the separable parameters.
  void run_projection(std::span<const double* const> variables, std::size_t rows, std::span<const double> theta,
                      std::span<double* const> outputs, Program::Workspace& work) const;
};

/// The value's name in the inverse of a left side; no user can write it.
inline constexpr const char* left_value_name = "\x1f(left side)";

class PredictorSlopes;

/// What is made when it is first asked for. A copy begins anew; safe to ask from several threads.
template <typename T>
class Lazy {
 public:
  Lazy() = default;
  Lazy(const Lazy&) {}
  Lazy& operator=(const Lazy&) = delete;
  template <typename Make>
  [[nodiscard]] std::shared_ptr<const T> get(Make make) const {
    const std::scoped_lock lock(mutex_);
    if (value_ == nullptr) value_ = make();
    return value_;
  }

 private:
  mutable std::mutex mutex_;
  mutable std::shared_ptr<const T> value_;
};

struct ModelData {
  std::string text;
  std::string kind = "written";
  std::string response;
  std::vector<std::string> right_names;
  Graph graph;
  NodeId left = -1;
  NodeId right = -1;
  std::vector<std::string> left_names;
  std::vector<OriginalParameter> originals;
  std::vector<FixedParameter> fixed;
  std::vector<std::string> names;  // all parameters in order of first appearance; known once bound
  std::function<std::vector<VectorXd>(const VectorXd& x, const VectorXd& y)> propose;  // a shape's own starts
  struct Limit {
    std::string parameter;
    double low;
    double high;
  };
  std::vector<Limit> limits;                     // that the meaning of a shape's parameters sets
  RowFunction function;                          // of a model given as C++ code
  std::vector<std::string> function_parameters;  // of such a model
  std::vector<std::string> function_predictors;
  bool exact_derivatives = true;
  std::shared_ptr<const BoundModel> bound;  // null while the predictors are unknown
  Lazy<PredictorSlopes> predictor_slopes{};
};

/// The way into a model, and from its data to one.
struct ModelAccess {
  static const ModelData& data(const Model& model) { return *model.data_; }
  static Model make(std::shared_ptr<const ModelData> data) { return Model(std::move(data)); }
};
[[nodiscard]] inline const ModelData& data_of(const Model& model) { return ModelAccess::data(model); }
[[nodiscard]] inline Model made_of(std::shared_ptr<const ModelData> data) { return ModelAccess::make(std::move(data)); }

/// The same model, a linear one too, with the programs of a curve.
[[nodiscard]] Model as_curve(const Model& model);

}  // namespace truecurve::detail
