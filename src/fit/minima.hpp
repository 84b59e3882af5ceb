// The minima that searches and descents end in.
#pragma once

#include <truecurve/fit/preview.hpp>

#include "descend.hpp"

#include <vector>

namespace truecurve::detail {

inline constexpr std::size_t minima_kept = 6;  // the best and those that are reported beside it

/// Descents that ended in one minimum.
struct Minimum {
  Descent best;
  int met = 1;
  bool built_up = false;  // among them the one that was built up term by term
};

struct FoundMinima {
  std::vector<Minimum> minima;
  int descents = 0;
  int evaluations = 0;
};

/// By how much the chi-squared of one minimum may differ between two descents: a share of it, and what the rounding of
/// responses of this sum of squares does to residuals of that size.
[[nodiscard]] double slack(double a, double b, double size);

/// Points that the shape itself suggests, with the starts that are given in their place.
[[nodiscard]] std::vector<SmallVector> proposals(const Model& model, const Curve& curve, const SmallVector& given);

/// Starts are sought on some of the rows, descended from there, and the minima met are followed on all rows.
[[nodiscard]] FoundMinima search_minima(const Model& model, const Observations& observations, Curve& curve,
                                        const SmallVector& given, const Box& box);

/// From starts that are all given, or solved for.
[[nodiscard]] FoundMinima descend_from_starts(Curve& curve, const Observations& observations, const SmallVector& given,
                                              const Box& box);

/// A counted response as measured readings with about the uncertainties it has, from whose fit the search for the
/// greatest likelihood begins. Shares and rates are drawn towards their mean, all the way at `kept` = 0, where the
/// curve through them would leave the means there are.
[[nodiscard]] Observations about_measured(const BoundModel& bound, const Observations& observations, double kept);

/// The greatest likelihood, from the minima of the least squares of about the same readings.
[[nodiscard]] FoundMinima search_likelihood(const Model& model, const Observations& observations, Curve& curve,
                                            const Box& box, const FitOptions& options);

}  // namespace truecurve::detail
