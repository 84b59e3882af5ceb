// Fits candidates to the rows that all of them can take.
#include <truecurve/base/error.hpp>
#include <truecurve/compare/candidates.hpp>
#include <truecurve/fit/invalid_rows.hpp>

#include "common_predictors.hpp"

#include <algorithm>
#include <map>
#include <optional>

#include <fmt/format.h>

namespace truecurve {
namespace {

void require_one_response(std::span<const CandidateModel> candidates) {
  if (candidates.empty()) {
    throw Error({.code = ErrorCode::bad_argument,
                 .message = "there is no candidate to compare",
                 .subject = "candidates",
                 .remedy = "give at least two"});
  }
  const std::string& response = candidates.front().observations.response().name;
  for (const CandidateModel& candidate : candidates) {
    if (candidate.model.response() == response && candidate.observations.response().name == response) continue;
    throw Error(
        {.code = ErrorCode::bad_argument,
         .message = fmt::format("'{}' is a curve of '{}', and '{}' one of '{}'", candidate.name,
                                candidate.model.response(), candidates.front().name, response),
         .subject = candidate.name,
         .remedy = "compare curves of the same response; a transform of it goes to the left side: ln(y) = ..."});
  }
}

std::vector<std::size_t> rows_of(const Observations& observations) {
  return {observations.source_rows().begin(), observations.source_rows().end()};
}

// The observations without the rows that someone can't use, each with its reason.
Observations without_unusable(const Observations& all, const std::map<std::size_t, std::string>& unusable) {
  std::map<std::string, std::vector<std::size_t>> by_reason;
  for (const std::size_t row : rows_of(all)) {
    if (const auto at = unusable.find(row); at != unusable.end()) by_reason[at->second].push_back(row);
  }
  Observations left = all;
  for (const auto& [reason, rows] : by_reason) left = left.without(rows, reason);
  return left;
}

// What is known of a candidate before it is fitted.
struct Entry {
  const CandidateModel* candidate = nullptr;
  std::vector<LeftOut> invalid{};
  std::string failed{};
};

Entry entry_of(const CandidateModel& candidate, UnsuitableRows unsuitable) {
  Entry entry{.candidate = &candidate};
  try {
    entry.invalid = invalid_rows(candidate.model, candidate.observations);
  } catch (const Error& error) {
    entry.failed = error.message();
    return entry;
  }
  if (entry.invalid.empty()) return entry;
  const bool too_many = 2 * entry.invalid.size() >= candidate.observations.size();
  if (too_many || unsuitable == UnsuitableRows::candidate_dropped) {
    entry.failed = fmt::format("it can't take {} of {} rows (row {}: {})", entry.invalid.size(),
                               candidate.observations.size(), entry.invalid.front().row, entry.invalid.front().reason);
  }
  return entry;
}

}  // namespace

FittedCandidates fit_candidates(std::span<const CandidateModel> given, UnsuitableRows unsuitable) {
  require_one_response(given);
  const std::vector<CandidateModel> candidates = detail::with_common_predictors(given);
  std::vector<Entry> entries;
  for (const CandidateModel& candidate : candidates) entries.push_back(entry_of(candidate, unsuitable));

  // A row counts where every candidate that is still there has it and can take it.
  std::map<std::size_t, std::string> unusable;
  std::map<std::size_t, std::size_t> holders;
  std::size_t alive = 0;
  for (const Entry& entry : entries) {
    if (!entry.failed.empty()) continue;
    ++alive;
    for (const std::size_t row : rows_of(entry.candidate->observations)) ++holders[row];
    for (const LeftOut& invalid : entry.invalid)
      unusable.try_emplace(invalid.row, fmt::format("{} (candidate '{}')", invalid.reason, entry.candidate->name));
  }
  FittedCandidates result;
  for (const auto& [row, count] : holders) {
    if (count < alive) unusable.try_emplace(row, "not every candidate has a value there");
  }
  for (const auto& [row, reason] : unusable) result.not_common.push_back({row, reason});

  std::optional<Error> first;
  for (const Entry& entry : entries) {
    if (!entry.failed.empty()) {
      result.failed.push_back({entry.candidate->name, entry.failed});
      continue;
    }
    try {
      const Observations observations = without_unusable(entry.candidate->observations, unusable);
      result.fits.push_back(fit(entry.candidate->model, observations, entry.candidate->options));
      result.names.push_back(entry.candidate->name);
    } catch (const Error& error) {
      if (!first) first = error;
      result.failed.push_back({entry.candidate->name, error.message()});
    }
  }
  if (!result.fits.empty()) return result;
  if (first) throw *first;
  throw Error({.code = ErrorCode::unsuitable_row,
               .message = fmt::format("no candidate can be fitted; '{}': {}", result.failed.front().name,
                                      result.failed.front().reason),
               .subject = result.failed.front().name,
               .remedy = "choose candidates that are defined at the rows"});
}

}  // namespace truecurve
