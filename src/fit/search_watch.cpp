// Counts, looks at the clock and tells.
#include "search_watch.hpp"

#include <truecurve/base/error.hpp>

#include <cmath>

#include <fmt/format.h>

namespace truecurve {

std::string_view name(FitStage stage) noexcept {
  switch (stage) {
    case FitStage::looking: return "looking for starts";
    case FitStage::beginning: return "beginning descents";
    case FitStage::descending: return "descending";
    case FitStage::checking: return "checking the minimum";
  }
  return "";
}

}  // namespace truecurve

namespace truecurve::detail {
namespace {

constexpr std::chrono::milliseconds between_reports{20};

}  // namespace

SearchWatch::SearchWatch(const FitOptions& options) : options_(options), begun_(Clock::now()), told_(begun_) {
  if (options.most_evaluations < 1 || !(options.time_limit > 0)) {
    const bool is_time = options.most_evaluations >= 1;
    throw Error({.code = ErrorCode::bad_argument,
                 .message = is_time ? fmt::format("a time limit of {} s leaves no time to search", options.time_limit)
                                    : fmt::format("{} evaluations are too few to search", options.most_evaluations),
                 .subject = is_time ? "time_limit" : "most_evaluations",
                 .remedy = is_time ? "give a number of seconds above 0" : "give 1 or more"});
  }
}

void SearchWatch::count() {
  ++progress_.evaluations;
  if (options_.progress && Clock::now() - told_ >= between_reports) report();
}

void SearchWatch::tell(FitStage stage, double share) {
  const bool is_new = stage != progress_.stage || progress_.evaluations == 0;
  progress_.stage = stage;
  progress_.share = share;
  if (options_.progress && (is_new || Clock::now() - told_ >= between_reports)) report();
}

void SearchWatch::report() {
  told_ = Clock::now();
  options_.progress(progress_);
}

std::optional<StopReason> SearchWatch::seen() const {
  if (options_.stop.stop_requested()) return StopReason::stopped;
  if (progress_.evaluations >= options_.most_evaluations) return StopReason::evaluations;
  if (std::isfinite(options_.time_limit) &&
      std::chrono::duration<double>(Clock::now() - begun_).count() >= options_.time_limit)
    return StopReason::time_limit;
  return std::nullopt;
}

bool SearchWatch::is_over() {
  if (!reason_) reason_ = seen();
  return reason_.has_value();
}

void SearchWatch::look() const {
  if (reason_) return;
  // The evaluation that uses up the last one allowed runs to its end.
  const std::optional<StopReason> why = seen();
  if (why && *why != StopReason::evaluations) throw SearchEnded{};
}

}  // namespace truecurve::detail
