// Watches a search: how much it has cost, and whether it may go on.
#pragma once

#include <truecurve/fit/options.hpp>
#include <truecurve/fit/solver_report.hpp>

#include <chrono>
#include <optional>

namespace truecurve::detail {

/// Leaves an evaluation that is no longer wanted. Thrown by curves that are watched, never past the search.
struct SearchEnded {};

/// One for each fit. What the caller's progress throws passes through.
class SearchWatch {
 public:
  explicit SearchWatch(const FitOptions& options);

  /// One more evaluation of the model over the rows.
  void count();
  /// What is done now, and how much of it: shares from 0 to 1, NaN where none is known.
  void tell(FitStage stage, double share = not_a_number);
  /// Whether the search has to end. From then on evaluations run to their end: those that are left are few.
  [[nodiscard]] bool is_over();
  /// Why, where it is.
  [[nodiscard]] StopReason reason() const { return reason_.value_or(StopReason::evaluations); }
  /// Within an evaluation, from any thread: throws SearchEnded where the search has to end and nobody knows yet.
  void look() const;

 private:
  using Clock = std::chrono::steady_clock;
  [[nodiscard]] std::optional<StopReason> seen() const;
  void report();

  const FitOptions& options_;
  Clock::time_point begun_;
  Clock::time_point told_;
  FitProgress progress_{};
  std::optional<StopReason> reason_{};
};

}  // namespace truecurve::detail
