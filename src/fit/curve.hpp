// A curve bound to its rows: weighted residuals and derivatives, reduced block by block to a triangular factor.
#pragma once

#include <truecurve/data/observations.hpp>

#include "../base/matrices.hpp"
#include "../model/model_data.hpp"
#include "absorb.hpp"
#include "search_watch.hpp"

#include <cstdint>
#include <vector>

namespace truecurve::detail {

/// Share of a column's length that is left of it beside those before it, below which it is a combination of them.
inline constexpr double negligible_pivot = 1e-13;

/// Parameters and factors live on the stack: a small fit takes some tens of them at every step.
using SmallVector = Eigen::Matrix<double, Eigen::Dynamic, 1, 0, static_cast<int>(most_columns), 1>;
using SmallMatrix = Eigen::Matrix<double, Eigen::Dynamic, Eigen::Dynamic, 0, static_cast<int>(most_columns),
                                  static_cast<int>(most_columns)>;

/// Which parameters move: the separable ones are solved for at every point, the entangled ones are stepped. A parameter
/// in neither list stays where it is.
struct Roles {
  std::vector<int> separable;
  std::vector<int> entangled;
};

/// As the model's structure gives them.
[[nodiscard]] Roles roles_of(const BoundModel& bound);
/// Every parameter stepped.
[[nodiscard]] Roles joint_roles(const BoundModel& bound);
/// The same with some parameters held.
[[nodiscard]] Roles without(Roles roles, const std::vector<int>& held);

class Curve {
 public:
  /// Takes one of every `stride` rows. The observations must outlive the curve, and so must what watches it.
  Curve(const BoundModel& bound, const Observations& observations, Roles roles, std::size_t stride = 1,
        SearchWatch* watch = nullptr);

  [[nodiscard]] std::size_t rows() const { return rows_; }
  [[nodiscard]] const BoundModel& bound() const { return bound_; }
  [[nodiscard]] const Roles& roles() const { return roles_; }
  /// Parameters that move, in the order of the factor's columns: the separable ones first.
  [[nodiscard]] const std::vector<int>& order() const { return order_; }
  /// Sum of squares of the weighted data.
  [[nodiscard]] double size() const { return size_; }
  [[nodiscard]] int evaluations() const { return evaluations_; }
  [[nodiscard]] SearchWatch* watch() const { return watch_; }
  /// Whether a search has to end.
  [[nodiscard]] bool is_over() const { return watch_ != nullptr && watch_->is_over(); }
  [[nodiscard]] const double* predictor(std::size_t k) const { return predictors_[k]; }
  [[nodiscard]] std::size_t predictors() const { return predictors_.size(); }
  [[nodiscard]] const double* responses() const { return y_; }

  /// Solves for the separable parameters at the others as they stand in theta. Returns chi-squared (of a response that
  /// is counted the deviance), infinite where the model is not finite or no mean of such a response. Throws Error
  /// (unsuitable_row) where C++ code of the model throws std::domain_error, and SearchEnded where it is watched.
  double project(SmallVector& theta);
  /// The same where full_factor() is likely to be asked for next, at the same place: of a counted response both are
  /// made in one pass over the rows.
  double project_ahead(SmallVector& theta);

  /// Triangular factor of the derivatives by the moving parameters and the residuals at theta, both weighted. Of a
  /// response that is counted these are the derivatives of its mean and (y - mean), both over its standard deviation
  /// there: a step that solves them is one of Fisher's scoring.
  SmallMatrix full_factor(const SmallVector& theta);

  /// Weighted sum of squares about the weighted mean; of a counted response the deviance of one mean for all rows.
  [[nodiscard]] double total() const;
  /// Whether the weights follow from the curve, as those of counts do.
  [[nodiscard]] bool is_scored() const { return !kernel_.has_fixed_weights(); }

 private:
  enum class Columns { separable, all };
  struct Scratch {
    std::vector<double> memory;
    std::vector<double> means;  // mean, slope of the way back, weight root
    double objective = 0;       // of the rows seen, where it is no sum of squares
    std::vector<double*> outputs;
    std::vector<const double*> at;
    Program::Workspace work;
    Program::Workspace inverse_work;
  };

  /// In the columns as they are, scaled by powers of two on the way where their squares would leave the range of a
  /// double.
  SmallMatrix factor(Columns columns, const SmallVector& theta);
  SmallMatrix scaled_factor(Columns columns, const SmallVector& theta, const SmallVector& scales);
  /// One power of two for each column that brings its largest entry near 1.
  SmallVector scales_at(Columns columns, const SmallVector& theta);
  /// The values of the left side in `rest` become standardized residuals, and the roots by which derivatives are
  /// weighted are returned, null where all are 1. Adds to the objective.
  [[nodiscard]] const double* standardize(std::size_t from, std::size_t rows, double* rest, bool with_objective,
                                          Scratch& scratch) const;
  /// Which row of the observations stands at a place among those taken.
  [[nodiscard]] std::size_t row_of(std::size_t place) const;
  /// Calls use(columns, padded rows, stride) for each block: the weighted derivatives, then the weighted residuals.
  template <typename Use>
  void for_each_block(Columns columns, const SmallVector& theta, std::size_t start, std::size_t end, Scratch& scratch,
                      Use use) const;
  void count_evaluation();
  void absorb_rows(Columns columns, const SmallVector& theta, const SmallVector& scales, std::size_t start,
                   std::size_t end, double* r, Scratch& scratch) const;
  [[nodiscard]] const std::vector<int>& moving(Columns columns) const {
    return columns == Columns::all ? order_ : roles_.separable;
  }

  const BoundModel& bound_;
  const Observations& observations_;
  Roles roles_;
  std::size_t stride_;
  std::size_t rows_;
  std::vector<int> order_;
  std::vector<std::vector<double>> copies_;  // of the rows, where not every one is taken
  std::vector<const double*> predictors_;
  const double* y_ = nullptr;
  const ResponseKernel& kernel_;
  const double* sizes_ = nullptr;  // standard deviations, trials or exposures; null where all rows scatter alike
  double objective_ = 0;           // where the curve was last evaluated, of a response that is scored
  bool with_objective_ = false;    // whether the pass with all derivatives sums it up
  SmallVector ahead_;              // where a factor was made ahead, and that factor
  SmallMatrix factor_ahead_;
  double size_ = 0;
  int evaluations_ = 0;
  SearchWatch* watch_;
  std::vector<Scratch> scratch_;
};

}  // namespace truecurve::detail
