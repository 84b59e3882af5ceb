// AICc of candidates with limits.
#include <truecurve/base/error.hpp>
#include <truecurve/compare/censored_candidates.hpp>

#include "../base/matrices.hpp"

#include <algorithm>
#include <cmath>

#include <fmt/format.h>

namespace truecurve {

std::vector<CensoredCandidate> ranked_by_aicc(std::vector<CensoredCandidate> candidates) {
  const auto fail = [](const std::string& message, const Advice& remedy) {
    throw Error({.code = ErrorCode::bad_argument, .message = message, .subject = "candidates", .remedy = remedy});
  };
  if (candidates.empty()) fail("there is no candidate to compare", "give one or more");
  const CensoredRows& first = candidates.front().fit.data;
  for (const CensoredCandidate& c : candidates) {
    const CensoredRows& other = c.fit.data;
    if (other.of != first.of || other.rows.responses() != first.rows.responses())
      fail(fmt::format("'{}' and '{}' were fitted to different rows: their likelihoods can't be compared",
                       candidates.front().name, c.name),
           "leave the same rows out for all");
  }
  std::stable_sort(candidates.begin(), candidates.end(), [](const CensoredCandidate& a, const CensoredCandidate& b) {
    if (std::isnan(a.fit.aicc) || std::isnan(b.fit.aicc)) return std::isnan(b.fit.aicc) && !std::isnan(a.fit.aicc);
    return a.fit.aicc < b.fit.aicc;
  });
  double sum = 0;
  for (CensoredCandidate& c : candidates) {
    c.difference = c.fit.aicc - candidates.front().fit.aicc;
    c.weight = std::exp(-c.difference / 2);
    if (std::isfinite(c.weight)) sum += c.weight;
  }
  for (CensoredCandidate& c : candidates) c.weight /= sum;
  return candidates;
}

}  // namespace truecurve
