// Candidates side by side: one table on the scale of the measured response, and a suggestion with its reason.
//
// Example:
//     const auto points = truecurve::Observations::of({1, 2, 3, 4, 5, 6, 7, 8},
//         {1.1, 3.9, 9.2, 15.8, 25.1, 36.2, 48.9, 63.8});
//     std::vector<truecurve::Fit> fits;
//     for (const char* shape : {"line", "polynomial(2)", "polynomial(3)"})
//       fits.push_back(truecurve::fit(truecurve::shape_model(shape), points));
//     const truecurve::Comparison ladder = truecurve::compare(fits);
//     EXPECT_EQ(ladder.candidates[0].name, "polynomial(2)");
//     EXPECT_EQ(ladder.suggestion.name, "polynomial(2)");
#pragma once

#include <truecurve/assess/checks.hpp>
#include <truecurve/base/level.hpp>
#include <truecurve/compare/candidates.hpp>
#include <truecurve/compare/nested.hpp>
#include <truecurve/compare/prediction_error.hpp>
#include <truecurve/compare/routes.hpp>
#include <truecurve/fit/fit.hpp>

#include <cstdint>
#include <optional>
#include <span>
#include <string>
#include <vector>

namespace truecurve {

/// Options of compare().
struct CompareOptions {
  /// What each candidate is called; empty: the shape's name or the model's text, with its route and spread.
  std::vector<std::string> names{};
  Level level = 0.95;  ///< of the curvature that is remarked on
  int folds = 0;       ///< of a cross-validation; 0 for none
  Seed seed = 1;       ///< of the way in which rows are dealt into folds
};

/// What a remark on a candidate is about.
enum class RemarkCode {
  not_converged,       ///< the search ended before it had arrived
  at_limit,            ///< a parameter ended at a limit that was set for it
  open_end,            ///< the rows give a parameter one end only
  place_outside_data,  ///< a parameter is a place beyond the rows
  curvature,           ///< it is nonlinear over its uncertainty
  not_told_apart,      ///< two of its parameters are hardly determined separately
  exact,               ///< it passes through every row to rounding
  few_rows,            ///< too few for its AICc
  same_curve,          ///< as an earlier candidate
  check,               ///< a check of its residuals
};
/// Its name as records write it: "not_converged".
[[nodiscard]] std::string_view name(RemarkCode code) noexcept;

/// Something to know about a candidate before it is believed.
struct CandidateRemark {
  RemarkCode code = RemarkCode::check;
  std::string text{};
};

/// One line of the table. NaN marks what does not apply.
struct Candidate {
  std::string name{};
  Fit fit;
  std::size_t parameters = 0;  ///< those the rows determine
  /// On the scale of the measured response, whatever was fitted: r = y - curve, unweighted, R² about the mean.
  double residual_sd = not_a_number;  ///< S = sqrt(sum r²/dof)
  double r_squared = not_a_number;    ///< 1 - sum r²/sum (y - mean)²
  double adjusted_r_squared = not_a_number;
  double reduced_chi_squared = not_a_number;  ///< sum (r/u)²/dof, with given uncertainties
  double deviance = not_a_number;             ///< of a counted response, which has none of the four before
  /// Of the density of the measured response (see quality_of).
  double log_likelihood = not_a_number;
  double aicc = not_a_number;
  double delta_aicc = not_a_number;  ///< behind the best
  /// exp(-delta/2), scaled to add up to 1 over the candidates that count: those that converged, have an AICc and are
  /// not the same curve as an earlier one. NaN for the others. Burnham and Anderson (2002), 2.9.
  double weight = not_a_number;
  double bic = not_a_number;
  LeaveOneOut leave_one_out{};
  ErrorSize cross_validation{};
  /// Is the term beyond the next smaller candidate called for? p of the nested test against `added_to`; without such a
  /// candidate the p of the highest power of a polynomial, and `added_to` is empty.
  double added_p = not_a_number;
  std::string added_to{};
  double largest_residual = not_a_number;  ///< standardized
  std::size_t largest_residual_row = 0;    ///< number in the table
  std::vector<Check> checks{};             ///< of its residuals
  std::vector<CandidateRemark> remarks{};
  [[nodiscard]] bool has(RemarkCode code) const noexcept;
};

/// A pair of candidates of which one is a special case of the other; places in `candidates`.
struct NestedPair {
  std::size_t smaller = 0;
  std::size_t larger = 0;
  NestedTest test{};
};

/// Direct and linearized fit of one curve; places in `candidates`.
struct ExplainedRoutes {
  std::size_t direct = 0;
  std::size_t linearized = 0;
  RoutePair pair{};
};

/// Where a further measurement would tell the suggested candidate from a rival best.
struct Separation {
  std::string rival{};
  double at = not_a_number;                ///< of the one predictor
  double difference = not_a_number;        ///< suggested less rival, in the unit of the response
  double in_uncertainties = not_a_number;  ///< |difference| / sqrt(u_1² + u_2² + u_reading²)
  bool outside_data = false;
};

/// Which candidate to take, and why; the rule is in docs/methods.md.
struct Suggestion {
  std::string name{};      ///< empty where none can be suggested
  std::string reason{};    ///< all sentences
  std::string headline{};  ///< the first of them
  /// Candidates that these data can't tell from the suggested one.
  std::vector<std::string> indistinguishable{};
  std::vector<Separation> separations{};  ///< one a rival, where there is one predictor
};

/// What a candidate says of the rows that were held out.
struct HeldOutRows {
  std::string name{};
  std::vector<HeldOutRow> rows{};
};

/// The whole comparison.
struct Comparison {
  std::vector<Candidate> candidates{};  ///< best first
  std::vector<NestedPair> nested_tests{};
  std::vector<ExplainedRoutes> routes{};
  Suggestion suggestion{};
  /// By what they are ordered: "AICc", or "leave-one-out" where the rows are too few for any AICc.
  std::string_view ordered_by{};
  std::vector<std::string> remarks{};  ///< on the comparison as a whole
  int folds = 0;                       ///< of the cross-validation, 0 where none was asked for
  Seed seed = 1;

  // of compare_candidates
  std::vector<FailedCandidate> failed{};
  std::vector<LeftOut> not_common{};    ///< rows that nobody got, as one candidate can't take them
  std::string hold_out{};               ///< why rows were held out: the condition
  std::vector<HeldOutRows> held_out{};  ///< one a candidate, in their order; empty where none were held out
};

/// Within this of the lowest AICc a candidate is within the best's reach; Burnham and Anderson (2002), 2.6.
inline constexpr double aicc_reach = 2;

/// Compares fits of the same observations: same rows of the same table, same response. Weights, transforms and
/// predictors may differ. Throws Error: bad_argument (no fits, other rows, other responses, names that do not match or
/// stand twice). Cost: for fits that are not linear one refit a row up to 500 rows.
[[nodiscard]] Comparison compare(std::span<const Fit> fits, const CompareOptions& options = {});

/// Rows that are not fitted but predicted.
struct HoldOut {
  std::vector<std::size_t> rows{};  ///< numbers in the table; empty for none
  std::string reason{};             ///< "t > 100"
};

/// Fits the candidates to their common rows, without those held out, compares them, and predicts the rows held out.
/// The candidates' names replace those of the options. Throws Error as fit_candidates() and compare(), and bad_argument
/// where no held-out row has values or no row is left to fit.
[[nodiscard]] Comparison compare_candidates(std::span<const CandidateModel> candidates,
                                            const CompareOptions& options = {}, const HoldOut& hold_out = {},
                                            UnsuitableRows unsuitable = UnsuitableRows::left_out_for_all);

}  // namespace truecurve
