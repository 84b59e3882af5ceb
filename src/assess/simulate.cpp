// Draws responses about a known curve.
#include <truecurve/assess/bands.hpp>
#include <truecurve/assess/simulate.hpp>
#include <truecurve/base/error.hpp>
#include <truecurve/base/random.hpp>

#include "../base/matrices.hpp"
#include "../fit/estimate_parts.hpp"

#include <algorithm>
#include <cmath>

#include <fmt/format.h>
#include <fmt/ranges.h>

namespace truecurve {
namespace {

using Eigen::Index;

[[noreturn]] void fail(ErrorCode code, const std::string& subject, const std::string& message, const Advice& remedy) {
  throw Error({.code = code, .message = message, .subject = subject, .remedy = remedy});
}

VectorXd true_parameters(const Model& model, const std::vector<Start>& truth) {
  const std::vector<std::string>& names = model.parameters();
  VectorXd values = VectorXd::Constant(static_cast<Index>(names.size()), not_a_number);
  for (const Start& given : truth) {
    const auto at = std::find(names.begin(), names.end(), given.parameter);
    if (at == names.end())
      fail(ErrorCode::unknown_name, given.parameter, fmt::format("the model has no parameter '{}'", given.parameter),
           fmt::format("its parameters are: {}", fmt::join(names, ", ")));
    values[at - names.begin()] = given.value;
  }
  for (Index j = 0; j < values.size(); ++j) {
    const std::string& name = names[static_cast<std::size_t>(j)];
    if (!std::isfinite(values[j]))
      fail(ErrorCode::bad_argument, name, fmt::format("the true value of '{}' is not given", name),
           fmt::format("every parameter needs one: {}", fmt::join(names, ", ")));
  }
  return values;
}

void require_sound(const Model& model, std::span<const Vector> points, const SimulateOptions& options) {
  for (const auto& [value, name] :
       {std::pair{options.scatter, "scatter"}, {options.relative_scatter, "relative scatter"}}) {
    if (!(value >= 0) || !std::isfinite(value))
      fail(ErrorCode::bad_argument, name, fmt::format("the {} {} is not a standard deviation", name, value),
           "give a number that is not negative");
  }
  if (!options.observation_model.is_measured()) {
    if (options.scatter != 0 || options.relative_scatter != 0)
      fail(ErrorCode::bad_argument, "scatter", "a scatter is given for a response that is counted",
           "omit it: the scatter of a count follows from its mean");
    const bool whole =
        options.observation_model.kind() != ResponseKind::events || options.size == std::floor(options.size);
    if (!(options.size > 0) || !std::isfinite(options.size) || !whole)
      fail(ErrorCode::bad_argument, "size", fmt::format("{} trials or units of exposure can't be made", options.size),
           "give a whole number of trials, or an exposure above 0");
  }
  if (options.replicates < 1)
    fail(ErrorCode::bad_argument, "replicates", fmt::format("{} replicates can't be made", options.replicates),
         "give at least 1");
  if (points.size() != model.predictors().size())
    fail(ErrorCode::bad_argument, "points",
         fmt::format("the model has {}, and points are given for {}", plural(model.predictors().size(), "predictor"),
                     points.size()),
         fmt::format("its predictors are: {}", fmt::join(model.predictors(), ", ")));
  constexpr double most_points = 1e8;
  if (!points.empty() && static_cast<double>(points.front().size()) * options.replicates > most_points)
    fail(ErrorCode::bad_argument, "replicates",
         fmt::format("{} with {} replicates are more than {} rows", plural(points.front().size(), "point"),
                     options.replicates, most_points),
         "ask for fewer");
  for (const Vector& values : points) {
    if (values.size() != points.front().size() || values.size() == 0)
      fail(ErrorCode::bad_argument, "points", "the predictors are given at different numbers of points",
           "give each the same number");
  }
}

}  // namespace

Simulation simulate(const Model& model, const std::vector<Start>& truth, std::span<const Vector> points,
                    const SimulateOptions& options) {
  require_sound(model, points, options);
  const VectorXd parameters = true_parameters(model, truth);
  const Index p = parameters.size();
  detail::EstimateParts parts{.model = model,
                              .parameters = parameters,
                              .standard_uncertainties = VectorXd::Zero(p),
                              .correlation = MatrixXd::Zero(p, p),
                              .degrees_of_freedom = 1,
                              .basis = UncertaintyBasis::stated,
                              .response = {model.response(), ""},
                              .working = {VectorXd::Zero(p), parameters, MatrixXd::Zero(p, p)}};
  for (std::size_t k = 0; k < points.size(); ++k) {
    parts.predictors.push_back({model.predictors()[k], ""});
    const auto [low, high] = std::minmax_element(points[k].begin(), points[k].end());
    parts.ranges.push_back({*low, *high});
  }
  const std::vector<BandPoint> curve = band(detail::made_of(std::move(parts)), points, 0.95);
  const auto replicates = static_cast<std::size_t>(options.replicates);
  const std::size_t rows = points.front().size() * replicates;
  const Vector unknown = Vector(rows, not_a_number);
  Simulation made{.predictors = std::vector<Vector>(points.size(), unknown),
                  .truth = unknown,
                  .uncertainties = unknown,
                  .responses = unknown};
  const bool measured = options.observation_model.is_measured();
  const Scatter scatter{
      .form = Scatter::Form::growing, .scale = 1, .growing = {options.scatter, options.relative_scatter}};
  const ObservationModel drawn = measured ? ObservationModel::normal(scatter) : options.observation_model;
  const ResponseKernel& kernel = drawn.kernel();
  RandomNumbers random(options.seed);
  for (std::size_t i = 0; i < rows; ++i) {
    const std::size_t point = i / replicates;
    for (std::size_t k = 0; k < points.size(); ++k) made.predictors[k][i] = points[k][point];
    made.truth[i] = curve[point].value;
    const double mean = made.truth[i];
    if (!(mean >= kernel.lowest_mean() && mean <= kernel.highest_mean()))
      fail(ErrorCode::bad_argument, model.predictors()[0],
           fmt::format("at {} = {} the model is {}, which is no {}", model.predictors()[0], made.predictors[0][i], mean,
                       options.observation_model.kind() == ResponseKind::events ? "probability" : "mean count"),
           "choose a truth and places at which it is one");
    const bool inside = mean > kernel.lowest_mean() && mean < kernel.highest_mean();
    made.uncertainties[i] = inside ? kernel.standard_deviation(mean, options.size) : 0;
    made.responses[i] = inside ? kernel.draw(mean, options.size, random) : mean;
  }
  return made;
}

}  // namespace truecurve
