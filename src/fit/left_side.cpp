// Runs the programs of the left side over whole columns.
#include "left_side.hpp"

#include "../base/matrices.hpp"

#include <algorithm>

namespace truecurve::detail {
namespace {

void run_over(const Program& program, const Eigen::Ref<const VectorXd>& first,
              const std::vector<const double*>& predictors, std::vector<VectorXd*> outputs) {
  Program::Workspace work;
  std::vector<const double*> at(predictors.size() + 1);
  std::vector<double*> to(outputs.size());
  for (VectorXd* output : outputs) output->resize(first.size());
  const auto rows = static_cast<std::size_t>(first.size());
  for (std::size_t start = 0; start < rows; start += block_rows) {
    at[0] = first.data() + start;
    for (std::size_t k = 0; k < predictors.size(); ++k) at[k + 1] = predictors[k] + start;
    for (std::size_t k = 0; k < outputs.size(); ++k) to[k] = outputs[k]->data() + start;
    program.run(at, std::min(block_rows, rows - start), {}, to, work);
  }
}

}  // namespace

LeftSide left_side_at(const BoundModel& model, const Eigen::Ref<const VectorXd>& responses,
                      const std::vector<const double*>& predictors) {
  if (!model.transformed) {
    const VectorXd zero = VectorXd::Zero(responses.size());
    return {responses, VectorXd::Ones(responses.size()), zero, zero};
  }
  LeftSide left;
  run_over(model.left, responses, predictors, {&left.value, &left.slope, &left.curvature, &left.third});
  return left;
}

Response response_at(const BoundModel& model, const Eigen::Ref<const VectorXd>& values,
                     const std::vector<const double*>& predictors) {
  if (!model.transformed) return {values, VectorXd::Ones(values.size())};
  Response response;
  run_over(model.inverse, values, predictors, {&response.value, &response.slope});
  return response;
}

std::vector<const double*> predictor_pointers(const Observations& observations) {
  std::vector<const double*> pointers;
  for (std::size_t k = 0; k < observations.predictors().size(); ++k)
    pointers.push_back(observations.predictor(k).data());
  return pointers;
}

}  // namespace truecurve::detail
