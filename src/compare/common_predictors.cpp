// Widens the observations of candidates.
#include "common_predictors.hpp"

#include "../base/matrices.hpp"
#include "../model/model_data.hpp"

#include <algorithm>
#include <map>

namespace truecurve::detail {
namespace {

using Eigen::Index;

bool has_all_predictors_of(const Observations& wide, const Observations& narrow) {
  return std::all_of(narrow.predictors().begin(), narrow.predictors().end(), [&wide](const Quantity& wanted) {
    return std::any_of(wide.predictors().begin(), wide.predictors().end(),
                       [&wanted](const Quantity& p) { return p.name == wanted.name; });
  });
}

// Whether every reading of the first, with its uncertainty, is one of the second.
bool are_readings_of(const Observations& some, const Observations& all) {
  if (some.has_uncertainties() != all.has_uncertainties() ||
      some.relative_uncertainty() != all.relative_uncertainty() || some.response().name != all.response().name)
    return false;
  std::map<std::size_t, Index> place;
  for (std::size_t i = 0; i < all.source_rows().size(); ++i) place[all.source_rows()[i]] = static_cast<Index>(i);
  for (std::size_t i = 0; i < some.source_rows().size(); ++i) {
    const auto at = place.find(some.source_rows()[i]);
    const auto row = static_cast<Index>(i);
    if (at == place.end() || some.responses()[row] != all.responses()[at->second]) return false;
    if (some.has_uncertainties() && some.uncertainties()[row] != all.uncertainties()[at->second]) return false;
  }
  return true;
}

}  // namespace

std::vector<CandidateModel> with_common_predictors(std::span<const CandidateModel> candidates) {
  std::vector<CandidateModel> widened(candidates.begin(), candidates.end());
  for (CandidateModel& candidate : widened) {
    if (data_of(candidate.model).function) continue;
    for (const CandidateModel& other : candidates) {
      const Observations& wide = other.observations;
      if (wide.predictors().size() > candidate.observations.predictors().size() &&
          has_all_predictors_of(wide, candidate.observations) && are_readings_of(wide, candidate.observations))
        candidate.observations = wide;
    }
  }
  return widened;
}

}  // namespace truecurve::detail
