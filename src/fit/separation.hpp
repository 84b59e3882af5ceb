// Whether the likelihood of a model that is linear behind a link has a maximum at all.
#pragma once

#include <truecurve/data/observations.hpp>

#include "../base/matrices.hpp"

#include <optional>

namespace truecurve::detail {

/// A direction of the parameters (columns of the design, n x p) in which the likelihood never falls and rises for some
/// row: no row that lies between the ends changes along it, and every one at an end moves towards it or not at all.
/// Exact but for rounding; empty where there is none, and the maximum is one point. Albert and Anderson (1984).
[[nodiscard]] std::optional<VectorXd> separating_direction(const MatrixXd& columns, const Observations& observations);

}  // namespace truecurve::detail
