// Fits several candidates to the same rows; one that fails does not lose the others.
//
// Example:
//     const auto points = truecurve::Observations::of({1, 2, 3, 4},
//     {3.1, 4.9, 0, 8.8}); const std::vector<truecurve::CandidateModel> wanted = {
//         {"line", truecurve::shape_model("line"), points},
//         {"straightened", truecurve::shape_model("exponential", "x", "y", truecurve::Route::linearized), points}};
//     const auto fitted = truecurve::fit_candidates(wanted);
//     EXPECT_EQ(fitted.fits[0].size(), 3u);  // the logarithm can't take row 3, so nobody gets it
//     EXPECT_EQ(fitted.not_common[0].row, 3u);
#pragma once

#include <truecurve/fit/fit.hpp>

#include <span>
#include <string>
#include <vector>

namespace truecurve {

/// What is to be fitted, and to what.
struct CandidateModel {
  std::string name{};
  Model model;
  Observations observations;
  FitOptions options{};
};

/// A candidate that could not be fitted, and why.
struct FailedCandidate {
  std::string name{};
  std::string reason{};
};

/// The candidates that could be fitted, all to the same rows.
struct FittedCandidates {
  std::vector<std::string> names{};
  std::vector<Fit> fits{};
  std::vector<FailedCandidate> failed{};
  /// Rows that one candidate or more can't take, or has no value for: nobody got them. With the reason.
  std::vector<LeftOut> not_common{};
};

/// What is done about rows that one candidate can't take.
enum class UnsuitableRows {
  left_out_for_all,   ///< all candidates are fitted to the rows that every one can take
  candidate_dropped,  ///< such a candidate fails, and the others keep the rows
};

/// Fits each candidate to the rows common to all. A candidate that can't take half of the rows fails in either case.
/// Throws Error: bad_argument (no candidates, responses that differ), and the first candidate's own error where every
/// one fails.
[[nodiscard]] FittedCandidates fit_candidates(std::span<const CandidateModel> candidates,
                                              UnsuitableRows unsuitable = UnsuitableRows::left_out_for_all);

}  // namespace truecurve
