// What the fields of a record say of each other: a curve is restored only from parts that agree.
#pragma once

#include "../src/fit/estimate_parts.hpp"
#include "json.hpp"

namespace truecurve::detail {

/// The covariance of the fitted parameters as the record has it, p x p, is that of the uncertainties and correlations;
/// these are symmetric and of a distribution (no variance below 0); values lie within their limits, and ends are in
/// order; and the working form gives the curve of the parameters and its uncertainty, at three places among the data.
/// Throws Error (bad_record) that names the field.
void require_agreement(const RecordReader& reader, const EstimateParts& parts, const Matrix& covariance);

}  // namespace truecurve::detail
