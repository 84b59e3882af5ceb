// Blocks of rows are absorbed one after another; tasks of many rows side by side, their factors merged in order.
#include "triangular_factor.hpp"

#include "../base/parallel.hpp"
#include "absorb.hpp"

#include <algorithm>
#include <cstring>
#include <memory>
#include <memory_resource>
#include <new>
#include <vector>

namespace truecurve::detail {
namespace {

using Eigen::Index;

// Rows handed to one task: large enough to hide its cost, fixed so that the merge order, and with it the result, does
// not depend on the number of threads.
constexpr std::size_t rows_of_design_per_task = 1 << 16;
struct AlignedFree {
  void operator()(double* p) const { ::operator delete[](p, std::align_val_t(64)); }
};
using AlignedBlock = std::unique_ptr<double[], AlignedFree>;

AlignedBlock aligned_block(std::size_t count) {
  return AlignedBlock(static_cast<double*>(::operator new[](count * sizeof(double), std::align_val_t(64))));
}

void absorb_rows(const Problem& problem, std::size_t start, std::size_t end, double* r, Scratch& scratch) {
  const Absorb absorb = best_absorb();
  for (std::size_t at = start; at < end; at += block_rows) {
    const std::size_t padded = problem.prepared_block(at, std::min(block_rows, end - at), scratch);
    absorb(r, problem.parameters() + 1, scratch.block(0), padded, scratch.stride);
  }
}

}  // namespace

MatrixXd triangular_factor(const Problem& problem, Scratch& scratch) {
  const std::size_t columns = problem.parameters() + 1;
  const auto size = static_cast<Index>(columns);
  MatrixXd r = MatrixXd::Zero(size, size);
  if (problem.rows() <= 2 * rows_of_design_per_task) {
    absorb_rows(problem, 0, problem.rows(), r.data(), scratch);
    return r;
  }
  const std::size_t tasks = (problem.rows() + rows_of_design_per_task - 1) / rows_of_design_per_task;
  std::vector<MatrixXd> parts(tasks, r);
  in_parallel(tasks, [&](std::size_t task) {
    const std::size_t start = task * rows_of_design_per_task;
    Scratch own(problem.bound(), problem.middle(), problem.half_width(), rows_of_design_per_task,
                std::pmr::new_delete_resource());
    absorb_rows(problem, start, std::min(start + rows_of_design_per_task, problem.rows()), parts[task].data(), own);
  });
  const std::size_t stride = (columns + 7) / 8 * 8;
  const AlignedBlock block = aligned_block(columns * stride);
  for (const MatrixXd& part : parts) {
    std::fill_n(block.get(), columns * stride, 0.0);
    for (std::size_t k = 0; k < columns; ++k)
      std::memcpy(block.get() + k * stride, part.data() + k * columns, (k + 1) * sizeof(double));
    best_absorb()(r.data(), columns, block.get(), stride, stride);
  }
  return r;
}

}  // namespace truecurve::detail
