// The core of True Curve: everything that computes. Files, reports and figures have headers of their own.
//
// Example:
//     const auto points = truecurve::Observations::of(Eigen::Vector3d(0, 1, 2), Eigen::Vector3d(1, 3, 5));
//     EXPECT_NEAR(truecurve::fit(truecurve::shape_model("line"), points).parameter("b").value, 2, 1e-15);
#pragma once

#include <truecurve/assess/bands.hpp>
#include <truecurve/assess/checks.hpp>
#include <truecurve/assess/counted.hpp>
#include <truecurve/assess/curvature.hpp>
#include <truecurve/assess/derived.hpp>
#include <truecurve/assess/intervals.hpp>
#include <truecurve/assess/means.hpp>
#include <truecurve/assess/polynomial.hpp>
#include <truecurve/assess/profile.hpp>
#include <truecurve/assess/quality.hpp>
#include <truecurve/assess/simulate.hpp>
#include <truecurve/assess/smooth.hpp>
#include <truecurve/assess/solve.hpp>
#include <truecurve/assess/straighten.hpp>
#include <truecurve/assess/trust.hpp>
#include <truecurve/assess/variance.hpp>
#include <truecurve/base/distributions.hpp>
#include <truecurve/base/error.hpp>
#include <truecurve/base/numeric.hpp>
#include <truecurve/base/random.hpp>
#include <truecurve/base/version.hpp>
#include <truecurve/base/warning.hpp>
#include <truecurve/calibrate/additions.hpp>
#include <truecurve/calibrate/amount.hpp>
#include <truecurve/calibrate/calibration.hpp>
#include <truecurve/calibrate/levels.hpp>
#include <truecurve/calibrate/limits.hpp>
#include <truecurve/calibrate/quantify.hpp>
#include <truecurve/calibrate/readings.hpp>
#include <truecurve/calibrate/uncertain_standards.hpp>
#include <truecurve/compare/average.hpp>
#include <truecurve/compare/candidates.hpp>
#include <truecurve/compare/compare.hpp>
#include <truecurve/compare/nested.hpp>
#include <truecurve/compare/prediction_error.hpp>
#include <truecurve/compare/routes.hpp>
#include <truecurve/data/observation_model.hpp>
#include <truecurve/data/observations.hpp>
#include <truecurve/data/summary.hpp>
#include <truecurve/data/table.hpp>
#include <truecurve/data/units.hpp>
#include <truecurve/fit/estimate.hpp>
#include <truecurve/fit/fit.hpp>
#include <truecurve/fit/invalid_rows.hpp>
#include <truecurve/fit/options.hpp>
#include <truecurve/fit/preview.hpp>
#include <truecurve/fit/separation.hpp>
#include <truecurve/model/condition.hpp>
#include <truecurve/model/model.hpp>
#include <truecurve/model/shapes.hpp>
