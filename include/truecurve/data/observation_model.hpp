// What the numbers of a response are, and how they scatter about their mean: readings that were measured, events of so
// many trials, counts.
//
// Example:
//     const truecurve::ObservationModel cracked = truecurve::ObservationModel::events();
//     EXPECT_EQ(cracked.kind(), truecurve::ResponseKind::events);
//     EXPECT_DOUBLE_EQ(cracked.kernel().variance(0.25, 3), 0.0625);
#pragma once

#include <truecurve/base/numeric.hpp>
#include <truecurve/base/random.hpp>
#include <truecurve/data/scatter.hpp>

#include <cstddef>
#include <memory>
#include <string_view>

namespace truecurve {

enum class ResponseKind {
  measured,  ///< readings: least squares, the weights from their uncertainties or an assumed spread
  events,    ///< the share of trials in which something happened: binomial
  counts,    ///< counts for one unit of the exposure (time, volume, area): Poisson
  other,     ///< a kernel of the user's own
};

[[nodiscard]] std::string_view name(ResponseKind kind) noexcept;

/// Rows of a response, column-wise.
struct ResponseBlock {
  const double* response = nullptr;  ///< the reading, the share of the trials, or the counts for one unit of exposure
  /// Trials or exposure, greater than 0; of a reading its standard deviation, or a number proportional to it. Null
  /// for readings that all scatter alike.
  const double* size = nullptr;
  std::size_t rows = 0;
};

/// The distribution of a response about its mean. A new kind of response is one class derived from this one; fits,
/// bands, profiles and comparisons ask it and nothing else. Those whose scatter follows from the mean have one
/// parameter (the mean) and a size for each row that divides the variance; they give the functions of a unit size, and
/// all others follow.
///
/// Source: McCullagh and Nelder (1989) Generalized Linear Models, 2nd ed., 2.2 and 2.3. Of our own kinds none throws an
/// Error; what one of the user's own throws leaves fit() as it is.
class ResponseKernel {
 public:
  virtual ~ResponseKernel() = default;

  [[nodiscard]] virtual ResponseKind kind() const noexcept { return ResponseKind::other; }

  /// Whether the scatter of a row is known before its mean is, at least relatively: then the objective is a weighted
  /// sum of squares, and parameters that enter linearly can be projected out.
  [[nodiscard]] virtual bool has_fixed_weights() const noexcept { return false; }

  /// What a mean may be: from `lowest_mean` to `highest_mean`, at an end only where the response is there, too.
  [[nodiscard]] virtual double lowest_mean() const noexcept { return 0; }
  [[nodiscard]] virtual double highest_mean() const noexcept { return infinity; }

  /// The variance of a response of size 1 at a mean strictly between the ends.
  [[nodiscard]] virtual double unit_variance(double mean) const = 0;
  /// Of a response of this size.
  [[nodiscard]] virtual double variance(double mean, double size) const { return unit_variance(mean) / size; }
  [[nodiscard]] virtual double standard_deviation(double mean, double size) const;

  /// Twice the log likelihood ratio of a response of size 1 to a mean against the mean that fits it exactly; of size s
  /// it is s times that. 0 where they agree, infinite where such a response can't be.
  [[nodiscard]] virtual double unit_deviance(double response, double mean) const = 0;
  /// Of a response of this size.
  [[nodiscard]] virtual double deviance(double response, double size, double mean) const {
    return size * unit_deviance(response, mean);
  }

  /// ln of the probability (or density) of a response of this size where its mean fits it exactly: with all constants.
  [[nodiscard]] virtual double saturated_log_likelihood(double response, double size) const = 0;

  /// The log likelihood of a row: that of the saturated one less half the deviance.
  [[nodiscard]] virtual double log_likelihood(double response, double size, double mean) const {
    return saturated_log_likelihood(response, size) - deviance(response, size, mean) / 2;
  }

  /// Of all rows where the objective is as small as it gets, with all constants. Of readings whose scale is not known
  /// it is that of the most likely scale, and NaN where that is 0; the scale of a scatter that follows from the mean
  /// is 1.
  [[nodiscard]] virtual double greatest_log_likelihood(const ResponseBlock& rows, double objective,
                                                       bool has_known_scale) const;

  /// The objective of one mean for all rows.
  [[nodiscard]] virtual double objective_of_one_mean(const ResponseBlock& rows) const;

  /// A response of this size made up with a mean between the ends.
  [[nodiscard]] virtual double draw(double mean, double size, RandomNumbers& random) const = 0;

  /// A mean between the ends near a response, from which a search may begin.
  [[nodiscard]] virtual double inner_mean(double response, double size) const = 0;

  /// A monotone scale without ends on which intervals about a mean are made, so that they stay between the ends:
  /// ln(mean/(1 - mean)) of a share, ln(mean) of a rate.
  [[nodiscard]] virtual double open_scale(double mean) const = 0;
  [[nodiscard]] virtual double open_scale_slope(double mean) const = 0;
  [[nodiscard]] virtual double from_open_scale(double value) const = 0;

  /// For each row of a block and its mean: (response - mean)/sd, 1/sd, and the sum of the deviances, infinite where a
  /// mean is none. The products of the first two with the derivatives of the mean make the score and the expected
  /// information (Fisher's scoring). Of a mean at an end that the response shares both are 0: there the likelihood is
  /// level. Without the objective, which costs two logarithms a row, it is 0 or infinite. The residual may take the
  /// place of the mean; where the block has no sizes, the weight roots of fixed weights are all 1 and not written.
  [[nodiscard]] virtual double linearize(const ResponseBlock& block, const double* mean, double* standardized_residual,
                                         double* weight_root, bool with_objective = true) const;
};

/// Immutable, cheap to copy. None of these throws an Error of its own but where it says so.
class ObservationModel {
 public:
  /// Measured readings that all scatter alike, by how much is not known.
  ObservationModel();
  /// Measured readings, normal about their mean: least squares. The scale of the scatter is believed where it is a
  /// number, and estimated from the scatter about the curve where it is NaN. Of the form `by_row` the rows say what
  /// their standard deviations are (Observations::row_scatter), times a scale of 1 or of one not known.
  [[nodiscard]] static ObservationModel normal(Scatter scatter = {});
  /// Shares of trials: 0 or 1, or k of n.
  [[nodiscard]] static ObservationModel events();
  /// Counts, each for an exposure.
  [[nodiscard]] static ObservationModel counts();
  /// A kind of the user's own. Throws Error (bad_argument) without a kernel.
  explicit ObservationModel(std::shared_ptr<const ResponseKernel> kernel);
  /// Measured readings that scatter alike, events or counts.
  [[nodiscard]] static ObservationModel of(ResponseKind kind);

  [[nodiscard]] ResponseKind kind() const noexcept { return kernel_->kind(); }
  [[nodiscard]] bool is_measured() const noexcept { return kind() == ResponseKind::measured; }
  [[nodiscard]] const ResponseKernel& kernel() const noexcept { return *kernel_; }
  /// Whether two responses are of the same distribution, whatever they scatter by.
  [[nodiscard]] bool is_like(const ObservationModel& other) const noexcept;

  /// Of measured readings; of other kinds it follows from the mean, and has no form here.
  [[nodiscard]] const Scatter& scatter() const noexcept { return scatter_; }
  /// Whether measured readings scatter as is stated for them, with no scale to estimate.
  [[nodiscard]] bool has_stated_scatter() const noexcept;

 private:
  std::shared_ptr<const ResponseKernel> kernel_;
  Scatter scatter_{.form = Scatter::Form::by_row};
};

}  // namespace truecurve
