// What a linear fit works on: memory for its blocks, and the order, centres and scales of its columns.
#pragma once

#include <truecurve/base/error.hpp>

#include "../base/double_double.hpp"
#include "../base/matrices.hpp"
#include "absorb.hpp"
#include "column_evaluator.hpp"

#include <algorithm>
#include <array>
#include <cmath>
#include <memory_resource>
#include <span>
#include <string>
#include <vector>

#include <fmt/format.h>

namespace truecurve::detail {

// Small vectors and blocks of one solution live on the stack while there is room: a fit of twenty rows takes about as
// long as a few dozen allocations.
using DoubleDoubles = std::pmr::vector<DoubleDouble>;
struct StackRoom {
  alignas(16) std::array<std::byte, 12288> bytes;  // NOLINT: left uninitialised on purpose
};
class StackMemory : private StackRoom, public std::pmr::monotonic_buffer_resource {
 public:
  StackMemory() : monotonic_buffer_resource(bytes.data(), bytes.size()) {}
};

// Memory and evaluator of one thread: blocks of at most block_rows rows, smaller where there are fewer rows.
class Scratch {
 public:
  Scratch(const BoundModel& model, double middle, double half_width, std::size_t rows,
          std::pmr::memory_resource* memory)
      : evaluator(model, middle, half_width),
        stride(std::min(block_rows, (rows + 7) / 8 * 8)),
        columns_(model.parameters.size() + 1),
        memory_(memory),
        room_(static_cast<double*>(memory->allocate(bytes(), 64))) {}
  ~Scratch() { memory_->deallocate(room_, bytes(), 64); }
  Scratch(const Scratch&) = delete;
  Scratch& operator=(const Scratch&) = delete;
  ColumnEvaluator evaluator;
  std::size_t stride;  ///< distance between columns
  [[nodiscard]] double* raw(std::size_t column) const { return room_ + column * stride; }
  [[nodiscard]] double* block(std::size_t column) const { return raw(columns_ + column); }
  [[nodiscard]] double* spare(std::size_t which) const { return raw(2 * columns_ + which); }

 private:
  [[nodiscard]] std::size_t bytes() const { return (2 * columns_ + 2) * stride * sizeof(double); }

  std::size_t columns_;
  std::pmr::memory_resource* memory_;
  double* room_;
};

// What is fixed before the pass: the order of elimination, centres and scales of the columns.
class Problem {
 public:
  Problem(const Model& model, const Observations& observations, Scratch& scratch, double middle, double half_width)
      : bound_(*data_of(model).bound),
        observations_(observations),
        n_(observations.size()),
        p_(bound_.parameters.size()),
        middle_(middle),
        half_width_(half_width) {
    variables_.reserve(observations.predictors().size());
    for (std::size_t k = 0; k < observations.predictors().size(); ++k)
      variables_.push_back(observations.predictor(k).data());
    y_ = observations.responses().data();
    u_ = as_eigen(observations.row_scatter()).size() != 0 ? observations.row_scatter().data() : nullptr;
    std::size_t position = 0;
    if (bound_.constant_term >= 0) order_[position++] = static_cast<std::size_t>(bound_.constant_term);
    for (std::size_t j = 0; j < p_; ++j) {
      if (static_cast<int>(j) != bound_.constant_term) order_[position++] = j;
    }
    if (is_polynomial()) {
      for (std::size_t j = 0; j < p_; ++j) order_[static_cast<std::size_t>(bound_.powers[j])] = j;
    }
    // A column that is a constant or a predictor as it stands needs no evaluation.
    needs_evaluation_ = bound_.has_offset || is_polynomial();
    for (std::size_t j = 0; j < p_; ++j) {
      const bool direct = bound_.columns.copies_variable(j) >= 0 || static_cast<int>(j) == bound_.constant_term;
      needs_evaluation_ = needs_evaluation_ || !direct;
    }
    std::fill_n(centre_.begin(), p_ + 1, 0.0);
    std::fill_n(scale_.begin(), p_ + 1, 1.0);
    choose_centres_and_scales(scratch);
  }

  [[nodiscard]] bool is_polynomial() const { return half_width_ > 0; }
  /// Whether the refinement sees a parameter's column with rounding: not a constant, nor a predictor as it stands, nor
  /// the columns of a polynomial, which it evaluates more precisely.
  [[nodiscard]] bool is_computed(std::size_t parameter) const {
    if (static_cast<int>(parameter) == bound_.constant_term || is_polynomial()) return false;
    return bound_.columns.copies_variable(parameter) < 0;
  }
  [[nodiscard]] const double* polynomial_predictor() const {
    return variables_[static_cast<std::size_t>(bound_.polynomial_predictor)];
  }
  [[nodiscard]] double middle() const { return middle_; }
  [[nodiscard]] double half_width() const { return half_width_; }
  [[nodiscard]] std::size_t rows() const { return n_; }
  [[nodiscard]] std::size_t parameters() const { return p_; }
  [[nodiscard]] const BoundModel& bound() const { return bound_; }
  [[nodiscard]] const std::array<std::size_t, most_columns>& order() const { return order_; }
  [[nodiscard]] bool has_constant() const { return bound_.constant_term >= 0; }
  [[nodiscard]] double centre(std::size_t parameter) const { return centre_[parameter]; }
  [[nodiscard]] double response_centre() const { return centre_[p_]; }
  /// Scale of the column at position k of the elimination order; k = p is the response.
  [[nodiscard]] double scale(std::size_t position) const { return scale_[position]; }
  [[nodiscard]] bool weighted() const { return u_ != nullptr; }
  [[nodiscard]] double weight_root(std::size_t row) const { return u_ == nullptr ? 1.0 : 1 / u_[row]; }
  [[nodiscard]] double response(std::size_t row) const { return y_[row]; }
  [[nodiscard]] const Observations& observations() const { return observations_; }

  /// Raw columns of the model (and its offset at index p) for a block of rows.
  void raw_columns(std::size_t start, std::size_t rows, Scratch& scratch) const {
    const double* at[16];
    std::vector<const double*> many;
    std::span<const double*> pointers(at);
    if (variables_.size() > 16) {
      many.resize(variables_.size());
      pointers = many;
    }
    for (std::size_t k = 0; k < variables_.size(); ++k) pointers[k] = variables_[k] + start;
    scratch.evaluator.run(pointers.first(variables_.size()), rows, scratch.raw(0), scratch.stride);
  }

  /// Weighted, centred and scaled columns in elimination order, the response last, padded with zero rows.
  std::size_t prepared_block(std::size_t start, std::size_t rows, Scratch& scratch) const {
    if (needs_evaluation_) raw_columns(start, rows, scratch);
    const std::size_t padded = (rows + 7) / 8 * 8;
    double* const roots = scratch.spare(0);
    if (u_ != nullptr) {
      for (std::size_t i = 0; i < rows; ++i) roots[i] = 1 / u_[start + i];
    }
    for (std::size_t k = 0; k <= p_; ++k) {
      double* const to = scratch.block(k);
      const double s = scale_[k];
      const std::size_t j = k < p_ ? order_[k] : p_;
      const double c = centre_[j];
      if (static_cast<int>(j) == bound_.constant_term) {
        std::fill(to, to + rows, bound_.constant_value * s);
      } else if (j == p_ && bound_.has_offset) {
        const double* const offset = scratch.raw(p_);
        for (std::size_t i = 0; i < rows; ++i) to[i] = ((y_[start + i] - offset[i]) - c) * s;
      } else {
        const int variable = j < p_ && !is_polynomial() ? bound_.columns.copies_variable(j) : -1;
        const double* const from = j == p_         ? y_ + start
                                   : variable >= 0 ? variables_[static_cast<std::size_t>(variable)] + start
                                                   : scratch.raw(j);
        for (std::size_t i = 0; i < rows; ++i) to[i] = (from[i] - c) * s;
      }
      if (u_ != nullptr) {
        for (std::size_t i = 0; i < rows; ++i) to[i] *= roots[i];
      }
      std::fill(to + rows, to + padded, 0.0);
    }
    return padded;
  }

  [[noreturn]] void fail_not_finite() const {
    Scratch scratch(bound_, middle_, half_width_, n_, std::pmr::new_delete_resource());
    for (std::size_t start = 0; start < n_; start += block_rows) {
      const std::size_t rows = std::min(block_rows, n_ - start);
      raw_columns(start, rows, scratch);
      for (std::size_t i = 0; i < rows; ++i) {
        for (std::size_t j = 0; j <= p_; ++j) {
          if (!std::isfinite(scratch.raw(j)[i])) fail_row(start + i, j);
        }
      }
    }
    throw Error({.code = ErrorCode::not_finite,
                 .message = "the sums of squares exceed the range of a double",
                 .subject = "data",
                 .remedy = "change the units of the columns so that the numbers are smaller"});
  }

 private:
  [[noreturn]] void fail_row(std::size_t row, std::size_t column) const {
    std::string at;
    for (std::size_t k = 0; k < variables_.size(); ++k) {
      at += fmt::format("{}{} = {}", k == 0 ? "" : ", ", observations_.predictors()[k].name, variables_[k][row]);
    }
    const auto number = observations_.source_rows()[row];
    throw Error(
        {.code = ErrorCode::not_finite,
         .message = fmt::format("row {}: the model's term {} is not finite at {}", number,
                                column < p_ ? "of '" + bound_.parameters[column] + "'" : "without parameters", at),
         .subject = fmt::format("row {}", number),
         .value = at,
         .remedy = {"leave the row out",
                    {Action::leave_row_out, fmt::format("{}", number)},
                    ", or write a model that is defined there"}});
  }

  void choose_centres_and_scales(Scratch& scratch) {
    const std::size_t count = std::min(n_, block_rows);
    const auto row_of = [this, count](std::size_t i) { return n_ <= block_rows ? i : i * (n_ - 1) / (count - 1); };
    if (n_ <= block_rows) {
      raw_columns(0, n_, scratch);
    } else {
      std::vector<double> sample(variables_.size() * count);
      std::vector<const double*> pointers;
      for (std::size_t k = 0; k < variables_.size(); ++k) {
        for (std::size_t i = 0; i < count; ++i) sample[k * count + i] = variables_[k][row_of(i)];
        pointers.push_back(sample.data() + k * count);
      }
      scratch.evaluator.run(pointers, count, scratch.raw(0), scratch.stride);
    }
    for (std::size_t i = 0; i < count; ++i) {
      double& last = scratch.raw(p_)[i];
      last = y_[row_of(i)] - last;
    }
    for (std::size_t k = 0; k <= p_; ++k) {
      const std::size_t j = k < p_ ? order_[k] : p_;
      const double* const column = scratch.raw(j);
      if (has_constant() && static_cast<int>(j) != bound_.constant_term) {
        double sum = 0;
        double weights = 0;
        const double share = 1 / static_cast<double>(count);  // keeps the sums in range
        for (std::size_t i = 0; i < count; ++i) {
          const double root = u_ == nullptr ? 1.0 : weight_root(row_of(i));
          sum += root * root * (column[i] * share);
          weights += root * root * share;
        }
        centre_[j] = std::isfinite(sum / weights) ? sum / weights : 0.0;
      }
      double largest = 0;
      for (std::size_t i = 0; i < count; ++i) {
        const double distance = std::abs(column[i] - centre_[j]);
        largest = std::max(largest, u_ == nullptr ? distance : distance * weight_root(row_of(i)));
      }
      // A power of two scales without rounding; squares then stay far from the ends of the range.
      scale_[k] = largest > 0 && std::isfinite(largest) ? std::ldexp(1.0, -std::ilogb(largest)) : 1.0;
    }
  }

  const BoundModel& bound_;
  const Observations& observations_;
  std::size_t n_;
  std::size_t p_;
  double middle_;
  double half_width_;
  std::vector<const double*> variables_;
  const double* y_ = nullptr;
  const double* u_ = nullptr;
  bool needs_evaluation_ = true;
  // Arrays and not vectors: a fit of twenty rows takes about as long as a few allocations.
  std::array<std::size_t, most_columns> order_;
  std::array<double, most_columns> centre_;  // by parameter, then the response
  std::array<double, most_columns> scale_;   // by position
};

}  // namespace truecurve::detail
