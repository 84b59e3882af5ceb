// Whether the fields of a record agree with each other.
#include "agreement.hpp"

#include "../src/base/matrices.hpp"
#include "../src/fit/restoring.hpp"
#include "../src/model/model_data.hpp"
#include "fit_json.hpp"

#include <cmath>
#include <set>

namespace truecurve::detail {
namespace {

using Eigen::Index;

// What rounding leaves of numbers that were computed in two ways, against the sizes of the terms they are made of.
constexpr double rounding_share = 1e-6;

void require_ranges(const RecordReader& reader, const EstimateParts& parts) {
  std::set<std::string> names;
  for (std::size_t k = 0; k < parts.ranges.size(); ++k) {
    const std::string at = fmt::format("/data/predictors/{}", k);
    if (!names.insert(parts.predictors[k].name).second)
      reader.fail(at + "/name", fmt::format("there are two predictors '{}'", parts.predictors[k].name));
    if (parts.ranges[k].low > parts.ranges[k].high) reader.fail(at + "/low", "the low end lies above the high end");
  }
}

void require_limits(const RecordReader& reader, const EstimateParts& parts) {
  const std::vector<std::size_t> places = places_of(parts.model);
  for (std::size_t j = 0; j < parts.limits.size(); ++j) {
    const std::string at = fmt::format("/parameters/{}", places[j]);
    const Range& within = parts.limits[j];
    if (within.low > within.high) reader.fail(at + "/within/low", "the lower limit lies above the upper one");
    if (parts.parameters[j] < within.low || parts.parameters[j] > within.high)
      reader.fail(at + "/value", fmt::format("{} lies outside the limits of the parameter", parts.parameters[j]));
  }
}

void require_correlation(const RecordReader& reader, const EstimateParts& parts, const Matrix& covariance) {
  const std::vector<std::size_t> places = places_of(parts.model);
  const MatrixXd& r = parts.correlation;
  const VectorXd u = as_eigen(parts.standard_uncertainties);
  std::vector<Index> known;
  for (Index i = 0; i < r.rows(); ++i) {
    for (Index j = 0; j < r.cols(); ++j) {
      const std::string at =
          fmt::format("{}/{}", places[static_cast<std::size_t>(i)], places[static_cast<std::size_t>(j)]);
      if (std::isnan(r(i, j)) != std::isnan(r(j, i)) || std::abs(r(i, j) - r(j, i)) > rounding_share)
        reader.fail("/correlation/" + at, "the matrix must be symmetric");
      if (std::abs(r(i, j)) > 1 + rounding_share)
        reader.fail("/correlation/" + at, fmt::format("a correlation lies between -1 and 1, but this is {}", r(i, j)));
      if (i == j && r(i, i) != 0 && std::abs(r(i, i) - 1) > rounding_share)
        reader.fail("/correlation/" + at, "the correlation of a parameter with itself is 1");
      // Squares beyond the range of doubles say nothing.
      const double made = r(i, j) * u[i] * u[j];
      const double size = u[i] * u[j];
      if (std::isnormal(size) &&
          std::abs(covariance(static_cast<std::size_t>(i), static_cast<std::size_t>(j)) - made) > rounding_share * size)
        reader.fail("/covariance/" + at,
                    "this is not the product of the correlation and the two standard uncertainties");
    }
    if (!r.row(i).hasNaN()) known.push_back(i);
  }
  const MatrixXd among = r(known, known);
  if (among.size() == 0) return;
  const double least = restoring::smallest_eigenvalue(among);
  if (least < -rounding_share * static_cast<double>(among.rows()))
    reader.fail("/correlation",
                "these correlations are impossible: a combination of the parameters would have a negative variance");
}

// The curve and its variance at a place, and the sizes of the terms they are made of.
struct AtPlace {
  double value = 0;
  double variance = 0;
  double value_size = 0;
  double variance_size = 0;
};

class Place {
 public:
  Place(const EstimateParts& parts, double share) : parts_(parts) {
    for (const Range& range : parts.ranges) x_.push_back(range.low * (1 - share) + range.high * share);
  }

  [[nodiscard]] AtPlace of_working_form() const {
    const WorkingForm& working = parts_.working;
    const VectorXd columns = columns_of(working);
    const Index p = working.parameters.size();
    const VectorXd g = columns.head(p) - working.centre;
    const VectorXd spread = working.inverse_factor.transpose() * g;
    const VectorXd terms =
        working.inverse_factor.cwiseAbs().transpose() * (columns.head(p).cwiseAbs() + working.centre.cwiseAbs());
    const double scale = parts_.scale * parts_.scale;
    return {.value = columns[p] + working.parameters.dot(g),
            .variance = scale * spread.squaredNorm(),
            .value_size = std::abs(columns[p]) + working.parameters.cwiseAbs().dot(g.cwiseAbs()),
            .variance_size = scale * terms.squaredNorm()};
  }

  [[nodiscard]] AtPlace of_parameters() const {
    const VectorXd theta = as_eigen(parts_.parameters);
    const Index p = theta.size();
    const VectorXd columns = columns_of({.centre = VectorXd::Zero(p), .parameters = theta});
    const VectorXd scaled = columns.head(p).cwiseProduct(as_eigen(parts_.standard_uncertainties));
    return {.value = columns[p] + theta.dot(columns.head(p)),
            .variance = scaled.dot(parts_.correlation * scaled),
            .value_size = std::abs(columns[p]) + theta.cwiseAbs().dot(columns.head(p).cwiseAbs()),
            .variance_size = scaled.cwiseAbs().dot(parts_.correlation.cwiseAbs() * scaled.cwiseAbs())};
  }

 private:
  // Those of the parameters, and the offset.
  [[nodiscard]] VectorXd columns_of(const WorkingForm& working) const {
    std::vector<const double*> at;
    for (const double& x : x_) at.push_back(&x);
    VectorXd columns(working.centre.size() + 1);
    restoring::evaluate_columns(*data_of(parts_.model).bound, working, at, columns.data());
    return columns;
  }

  const EstimateParts& parts_;
  std::vector<double> x_;
};

void require_one_curve(const RecordReader& reader, const EstimateParts& parts) {
  for (const double share : {0.25, 0.5, 0.875}) {
    const Place place(parts, share);
    const AtPlace working = place.of_working_form();
    const AtPlace given = place.of_parameters();
    // Where one is not known, or beyond the range of doubles, nothing is compared.
    if (std::abs(working.value - given.value) > rounding_share * (working.value_size + given.value_size))
      reader.fail("/working/parameters", "this does not give the curve of the parameters");
    if (std::abs(working.variance - given.variance) > rounding_share * (working.variance_size + given.variance_size))
      reader.fail("/working/inverse_factor",
                  "this does not give the uncertainty of the curve that follows from the parameters");
  }
}

}  // namespace

void require_agreement(const RecordReader& reader, const EstimateParts& parts, const Matrix& covariance) {
  require_ranges(reader, parts);
  if (parts.working.half_width > 0 && data_of(parts.model).bound->powers.empty())
    reader.fail("/working/half_width", "0 is needed here, as the model is not a polynomial of degree 2 or more");
  require_limits(reader, parts);
  require_correlation(reader, parts, covariance);
  require_one_curve(reader, parts);
}

}  // namespace truecurve::detail
