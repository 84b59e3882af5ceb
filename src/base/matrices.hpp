// What is computed with inside the library: Eigen's vectors and matrices, and what crosses the public face seen as
// these.
#pragma once

#include <truecurve/base/eigen.hpp>
#include <truecurve/base/numeric.hpp>

namespace truecurve {

using Eigen::MatrixXd;
using Eigen::VectorXd;

}  // namespace truecurve
