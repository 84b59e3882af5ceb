// By sorting: a tree of places would be searched once a row.
#include "places.hpp"

#include "../base/matrices.hpp"
#include "../base/parallel.hpp"

#include <algorithm>
#include <numeric>
#include <utility>

namespace truecurve::detail {

using Eigen::Index;

// Keys beside their rows, as most tables have one predictor: no comparison reads elsewhere.
void Places::sort_by(const double* key) {
  std::vector<std::pair<double, Index>> keyed(rows_.size());
  for (std::size_t i = 0; i < keyed.size(); ++i) keyed[i] = {key[i], static_cast<Index>(i)};
  if (!std::is_sorted(keyed.begin(), keyed.end())) sort_in_parallel(keyed);
  for (std::size_t i = 0; i < keyed.size(); ++i) rows_[i] = keyed[i].second;
}

Places::Places(const Observations& rows, By by) : rows_(rows.size()) {
  std::vector<Vector> order;  // of measurement, where there is no predictor
  std::vector<const double*> keys;
  for (std::size_t k = 0; k < rows.predictors().size(); ++k) keys.push_back(rows.predictor(k).data());
  if (keys.empty()) {
    order.push_back(rows.order());
    keys.push_back(order.back().data());
  }
  if (by == By::first_predictor) keys.resize(1);
  const auto before = [&keys](Index a, Index b) {
    for (const double* key : keys) {
      if (key[a] != key[b]) return key[a] < key[b];
    }
    return false;
  };
  if (keys.size() == 1) {
    sort_by(keys[0]);
  } else {
    std::iota(rows_.begin(), rows_.end(), Index{0});
    std::stable_sort(rows_.begin(), rows_.end(), before);
  }
  for (std::size_t i = 0; i < rows_.size(); ++i) {
    if (i == 0 || before(rows_[i - 1], rows_[i])) starts_.push_back(i);
  }
  starts_.push_back(rows_.size());
}

}  // namespace truecurve::detail
