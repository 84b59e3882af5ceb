// What was concluded from a fit, computed once: its page, its record and its figure ask for the same things.
#pragma once

#include <truecurve/fit/fit.hpp>

#include <memory>
#include <mutex>
#include <typeindex>
#include <unordered_map>
#include <utility>

namespace truecurve::detail {

/// Conclusions by their type. Shared by the copies of a fit; safe to ask from several threads.
class Conclusions {
 public:
  [[nodiscard]] std::shared_ptr<const void> found(std::type_index type) const {
    const std::scoped_lock lock(mutex_);
    const auto at = known_.find(type);
    return at == known_.end() ? nullptr : at->second;
  }
  void keep(std::type_index type, std::shared_ptr<const void> value) {
    const std::scoped_lock lock(mutex_);
    known_.emplace(type, std::move(value));
  }

 private:
  mutable std::mutex mutex_;
  std::unordered_map<std::type_index, std::shared_ptr<const void>> known_;
};

struct FitAccess {
  static Conclusions& conclusions(const Fit& fit);
};

/// compute(), or what it returned before for this fit. Result is a type of its own for each conclusion, small against
/// the rows. Two threads that ask for the first time at once both compute the same.
template <typename Result, typename Compute>
Result remembered(const Fit& fit, Compute compute) {
  Conclusions& conclusions = FitAccess::conclusions(fit);
  if (const auto known = conclusions.found(typeid(Result))) return *std::static_pointer_cast<const Result>(known);
  const auto made = std::make_shared<const Result>(compute());
  conclusions.keep(typeid(Result), made);
  return *made;
}

}  // namespace truecurve::detail
