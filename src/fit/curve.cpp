// Evaluates a curve over its rows.
#include "curve.hpp"

#include <truecurve/base/error.hpp>
#include <truecurve/base/one_of_each.hpp>

#include "../base/matrices.hpp"
#include "../base/parallel.hpp"

#include <algorithm>
#include <cmath>
#include <cstring>
#include <numeric>

#include <fmt/format.h>

namespace truecurve::detail {
namespace {

using Eigen::Index;

constexpr std::size_t rows_per_task = 16384;

std::size_t padded(std::size_t rows) { return (rows + 7) / 8 * 8; }

double* aligned(std::vector<double>& memory) {
  // NOLINTNEXTLINE(performance-no-int-to-ptr): within the same memory
  return reinterpret_cast<double*>((reinterpret_cast<std::uintptr_t>(memory.data()) + 63) / 64 * 64);
}

}  // namespace

Roles roles_of(const BoundModel& bound) { return {bound.separable, bound.entangled}; }

Roles joint_roles(const BoundModel& bound) {
  Roles roles;
  roles.entangled.resize(bound.parameters.size());
  std::iota(roles.entangled.begin(), roles.entangled.end(), 0);
  return roles;
}

Roles without(Roles roles, const std::vector<int>& held) {
  for (std::vector<int>* list : {&roles.separable, &roles.entangled})
    std::erase_if(*list, [&held](int j) { return std::find(held.begin(), held.end(), j) != held.end(); });
  return roles;
}

Curve::Curve(const BoundModel& bound, const Observations& observations, Roles roles, std::size_t stride,
             SearchWatch* watch)
    : bound_(bound),
      observations_(observations),
      roles_(std::move(roles)),
      stride_(stride),
      kernel_(observations.observation_model().kernel()),
      watch_(watch) {
  const auto n = observations.size();
  rows_ = (n + stride - 1) / stride;
  const auto taken = [&](const Vector& all) -> const double* {
    if (stride_ == 1) return all.data();
    std::vector<double>& copy = copies_.emplace_back();
    for (std::size_t i = 0; i < rows_; ++i) copy.push_back(all[row_of(i)]);
    return copy.data();
  };
  y_ = taken(observations.responses());
  for (std::size_t k = 0; k < observations.predictors().size(); ++k)
    predictors_.push_back(taken(observations.predictor(k)));
  const Vector& sizes = kernel_.has_fixed_weights() ? observations.row_scatter() : observations.sizes();
  if (sizes.size() != 0) sizes_ = taken(sizes);
  if (is_scored()) {
    // Weights that follow from the curve let no parameter be projected out.
    roles_.entangled.insert(roles_.entangled.end(), roles_.separable.begin(), roles_.separable.end());
    std::sort(roles_.entangled.begin(), roles_.entangled.end());
    roles_.separable.clear();
  }
  order_ = roles_.separable;
  order_.insert(order_.end(), roles_.entangled.begin(), roles_.entangled.end());
  for (std::size_t i = 0; i < rows_; ++i) {
    const double z = is_scored() || sizes_ == nullptr ? y_[i] : y_[i] * (1 / sizes_[i]);
    size_ += z * z;
  }
  scratch_.resize(1);
}

std::size_t Curve::row_of(std::size_t place) const { return one_of_each(place, stride_, observations_.size()); }

double Curve::project(SmallVector& theta) {
  SmallVector trial = theta;
  for (const int j : roles_.separable) trial[j] = 0;
  const SmallMatrix r = factor(Columns::separable, trial);
  const auto q = static_cast<Index>(roles_.separable.size());
  if (!r.allFinite()) return infinity;
  if (is_scored()) return std::isfinite(objective_) ? objective_ : infinity;
  double rest = r(q, q) * r(q, q);
  for (Index i = q; i-- > 0;) {
    double sum = r(i, q);
    for (Index k = i + 1; k < q; ++k) sum -= r(i, k) * trial[roles_.separable[static_cast<std::size_t>(k)]];
    // A column that the others span already gets no share: its parameter can't be told at this point.
    const bool told = std::abs(r(i, i)) > negligible_pivot * r.col(i).head(i + 1).stableNorm();
    const double share = told ? sum / r(i, i) : 0;
    trial[roles_.separable[static_cast<std::size_t>(i)]] = share;
    const double missed = sum - r(i, i) * share;
    rest += told ? 0 : missed * missed;
  }
  if (!trial.allFinite() || !std::isfinite(rest)) return infinity;
  theta = trial;
  return rest;
}

double Curve::project_ahead(SmallVector& theta) {
  if (!is_scored() || !roles_.separable.empty()) return project(theta);
  with_objective_ = true;
  count_evaluation();  // the curve and its derivatives count as they do one after the other
  factor_ahead_ = factor(Columns::all, theta);
  with_objective_ = false;
  ahead_ = theta;
  // A derivative may be infinite where the deviance is not: at the end of what a mean can be.
  if (!factor_ahead_.allFinite()) return project(theta);
  return std::isfinite(objective_) ? objective_ : infinity;
}

SmallMatrix Curve::full_factor(const SmallVector& theta) {
  if (ahead_.size() == theta.size() && ahead_.size() > 0 && ahead_ == theta) return factor_ahead_;
  return factor(Columns::all, theta);
}

void Curve::count_evaluation() {
  ++evaluations_;
  if (watch_ != nullptr) watch_->count();
}

double Curve::total() const { return kernel_.objective_of_one_mean({y_, sizes_, rows_}); }

const double* Curve::standardize(std::size_t from, std::size_t rows, double* rest, bool with_objective,
                                 Scratch& scratch) const {
  const bool has_way_back = bound_.transformed && is_scored();
  double* mean = rest;
  double* slope = nullptr;
  double* root = nullptr;
  if (sizes_ != nullptr) {
    if (scratch.means.size() < 3 * rows) scratch.means.resize(3 * rows);
    root = scratch.means.data();
  }
  if (has_way_back) {
    mean = root + rows;
    slope = mean + rows;
    std::vector<const double*> at = {rest};
    for (const double* predictor : predictors_) at.push_back(predictor + from);
    double* outputs[] = {mean, slope};
    bound_.inverse.run(at, rows, {}, outputs, scratch.inverse_work);
  }
  const ResponseBlock block{y_ + from, sizes_ == nullptr ? nullptr : sizes_ + from, rows};
  scratch.objective += kernel_.linearize(block, mean, rest, root, with_objective);
  if (has_way_back) {
    for (std::size_t i = 0; i < rows; ++i) root[i] *= root[i] == 0 ? 0 : slope[i];
  }
  return root;
}

template <typename Use>
void Curve::for_each_block(Columns columns, const SmallVector& theta, std::size_t start, std::size_t end,
                           Scratch& scratch, Use use) const {
  const std::vector<int>& wanted = moving(columns);
  const std::size_t count = wanted.size();
  const std::size_t stride = std::min(block_rows, padded(end - start));
  // What is wanted, the residuals, and one column for the derivatives that nobody asked for.
  if (scratch.memory.size() < (count + 2) * stride + 8) scratch.memory.resize((count + 2) * stride + 8);
  double* const base = aligned(scratch.memory);
  double* const rest = base + count * stride;
  double* const unwanted = rest + stride;
  const bool all = columns == Columns::all;
  scratch.outputs.assign((all ? bound_.parameters.size() : bound_.separable.size()) + 1, unwanted);
  scratch.outputs[0] = rest;
  for (std::size_t k = 0; k < count; ++k) {
    const auto place =
        all ? static_cast<std::size_t>(wanted[k])
            : static_cast<std::size_t>(std::find(bound_.separable.begin(), bound_.separable.end(), wanted[k]) -
                                       bound_.separable.begin());
    scratch.outputs[place + 1] = base + k * stride;
  }
  scratch.at.resize(predictors_.size());
  const std::span<const double> parameters(theta.data(), static_cast<std::size_t>(theta.size()));
  for (std::size_t from = start; from < end; from += stride) {
    const std::size_t rows = std::min(stride, end - from);
    if (watch_ != nullptr) watch_->look();
    for (std::size_t k = 0; k < predictors_.size(); ++k) scratch.at[k] = predictors_[k] + from;
    try {
      if (all) {
        bound_.run_jacobian(scratch.at, rows, parameters, scratch.outputs, scratch.work);
      } else if (count == 0) {
        bound_.run_value(scratch.at, rows, parameters, scratch.outputs, scratch.work);
      } else {
        bound_.run_projection(scratch.at, rows, parameters, scratch.outputs, scratch.work);
      }
    } catch (const FunctionFailure& failure) {
      const auto row = observations_.source_rows()[row_of(from + failure.row)];
      throw Error({.code = ErrorCode::unsuitable_row,
                   .message = fmt::format("row {}: the model's function can't be evaluated: {}", row, failure.what),
                   .subject = fmt::format("row {}", row),
                   .remedy =
                       "leave the row out, keep the parameters within limits, or return NaN where the function is "
                       "not defined"});
    }
    const double* const root = standardize(from, rows, rest, !all || with_objective_, scratch);
    for (std::size_t k = 0; k <= count; ++k) {
      double* const column = base + k * stride;
      if (root != nullptr && k < count) {
        for (std::size_t i = 0; i < rows; ++i) column[i] *= root[i];
      }
      std::fill(column + rows, column + padded(rows), 0.0);
    }
    use(base, padded(rows), stride);
  }
}

namespace {

// Whether squares and products of a factor's entries may have left the range of a double: a column that overflowed, or
// one so small that what is left of it may be no more than underflow.
bool is_doubtful(const SmallMatrix& r) {
  constexpr double least = 1e-120;
  constexpr double most = 1e120;
  for (Index k = 0; k < r.cols(); ++k) {
    const double largest = r.col(k).head(k + 1).cwiseAbs().maxCoeff();
    if (!(largest > least && largest < most)) return true;
  }
  return false;
}

}  // namespace

// Columns of the moving parameters, then y - value.
SmallMatrix Curve::factor(Columns columns, const SmallVector& theta) {
  const auto size = static_cast<Index>(moving(columns).size()) + 1;
  const SmallVector plain = SmallVector::Ones(size);
  SmallMatrix r = scaled_factor(columns, theta, plain);
  if (!is_doubtful(r)) return r;
  const SmallVector scales = scales_at(columns, theta);
  if (scales == plain) return r;
  r = scaled_factor(columns, theta, scales);
  for (Index k = 0; k < size; ++k) r.col(k) /= scales[k];
  return r;
}

SmallVector Curve::scales_at(Columns columns, const SmallVector& theta) {
  const auto size = static_cast<Index>(moving(columns).size()) + 1;
  SmallVector largest = SmallVector::Zero(size);
  for_each_block(columns, theta, 0, rows_, scratch_[0], [&](const double* base, std::size_t rows, std::size_t stride) {
    for (Index k = 0; k < size; ++k) {
      const double* const column = base + static_cast<std::size_t>(k) * stride;
      for (std::size_t i = 0; i < rows; ++i) largest[k] = std::max(largest[k], std::abs(column[i]));
    }
  });
  SmallVector scales = SmallVector::Ones(size);
  for (Index k = 0; k < size; ++k) {
    if (largest[k] > 0 && std::isfinite(largest[k])) scales[k] = std::ldexp(1.0, -std::ilogb(largest[k]));
  }
  return scales;
}

SmallMatrix Curve::scaled_factor(Columns columns, const SmallVector& theta, const SmallVector& scales) {
  count_evaluation();
  const std::size_t count = moving(columns).size() + 1;
  const auto size = static_cast<Index>(count);
  SmallMatrix r = SmallMatrix::Zero(size, size);
  if (rows_ <= 2 * rows_per_task) {
    scratch_[0].objective = 0;
    absorb_rows(columns, theta, scales, 0, rows_, r.data(), scratch_[0]);
    objective_ = scratch_[0].objective;
    return r;
  }
  const std::size_t tasks = (rows_ + rows_per_task - 1) / rows_per_task;
  scratch_.resize(std::max(scratch_.size(), tasks));
  for (Scratch& scratch : scratch_) scratch.objective = 0;
  std::vector<SmallMatrix> parts(tasks, r);
  in_parallel(tasks, [&](std::size_t task) {
    const std::size_t start = task * rows_per_task;
    absorb_rows(columns, theta, scales, start, std::min(start + rows_per_task, rows_), parts[task].data(),
                scratch_[task]);
  });
  // In the order of the rows, whichever thread was first.
  const std::size_t stride = padded(count);
  std::vector<double> memory(count * stride + 8);
  double* const block = aligned(memory);
  objective_ = 0;
  for (std::size_t task = 0; task < tasks; ++task) objective_ += scratch_[task].objective;
  for (const SmallMatrix& part : parts) {
    std::fill_n(block, count * stride, 0.0);
    for (std::size_t k = 0; k < count; ++k)
      std::memcpy(block + k * stride, part.data() + k * count, (k + 1) * sizeof(double));
    best_absorb()(r.data(), count, block, stride, stride);
  }
  return r;
}

void Curve::absorb_rows(Columns columns, const SmallVector& theta, const SmallVector& scales, std::size_t start,
                        std::size_t end, double* r, Scratch& scratch) const {
  const std::size_t count = moving(columns).size() + 1;
  const Absorb absorb = best_absorb();
  for_each_block(columns, theta, start, end, scratch, [&](double* base, std::size_t rows, std::size_t stride) {
    for (std::size_t k = 0; k < count; ++k) {
      const double scale = scales[static_cast<Index>(k)];
      if (scale == 1) continue;
      for (std::size_t i = 0; i < rows; ++i) base[k * stride + i] *= scale;
    }
    absorb(r, count, base, rows, stride);
  });
}

}  // namespace truecurve::detail
