// A graph compiled to a straight list of instructions that run over blocks of rows.
//
// What depends on no column is computed once a call; the rest runs column-wise over a block small enough for the first
// cache. The same list also runs row by row in double-double arithmetic.
#pragma once

#include "../base/double_double.hpp"
#include "graph.hpp"

#include <cstddef>
#include <span>
#include <vector>

namespace truecurve::detail {

/// Rows evaluated together: 2 kB a column, so that a dozen columns stay in a first-level cache.
inline constexpr std::size_t block_rows = 256;

/// What a name stands for: a column (index into the variables) or a parameter (index into the parameters).
struct NameRole {
  enum class Kind { variable, parameter } kind = Kind::variable;
  int index = 0;
};

class Program {
 public:
  Program() = default;
  Program(const Graph& graph, std::span<const NodeId> outputs, std::span<const NameRole> roles);

  /// Scratch memory, reused between calls; one a thread.
  struct Workspace {
    std::vector<double> uniform;
    std::vector<double> blocks;
    std::vector<double*> slots;
  };

  /// Evaluates `rows` <= block_rows rows: variables[k] points to that many values of column k, outputs[i] receives
  /// them.
  void run(std::span<const double* const> variables, std::size_t rows, std::span<const double> parameters,
           std::span<double* const> outputs, Workspace& work) const;

  /// Evaluates one row in double-double arithmetic; functions other than + - * / sqrt and whole powers are evaluated in
  /// double precision with a first-order correction.
  void run_precise(std::span<const DoubleDouble> variables, std::span<const DoubleDouble> parameters,
                   std::span<DoubleDouble> outputs) const;

  [[nodiscard]] std::size_t outputs() const noexcept { return output_nodes_.size(); }
  /// Whether an output is the same in every row.
  [[nodiscard]] bool is_uniform(std::size_t output) const {
    return operands_[static_cast<std::size_t>(output_nodes_[output])].uniform;
  }
  /// The variable an output simply repeats, or -1.
  [[nodiscard]] int copies_variable(std::size_t output) const;

 private:
  void place_blocks();

  struct Operand {
    bool uniform = true;
    int at = -1;  // slot of a block, or node of a uniform value
  };

  std::vector<Node> nodes_;        // only those needed, children first
  std::vector<Operand> operands_;  // one a node
  std::vector<NameRole> roles_;    // one a node (for names)
  std::vector<NodeId> output_nodes_;
  std::vector<int> output_slot_of_;  // node -> output whose memory it writes to, or -1
  int slots_ = 0;
  int variables_ = 0;
};

}  // namespace truecurve::detail
