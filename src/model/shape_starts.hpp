// Where the search for a shape's parameters begins: rough guesses from the data, one list of all parameters each.

#include "../base/matrices.hpp"
#pragma once

#include <vector>

namespace truecurve::detail {

/// Guesses for the parameters of a shape in the order of its formula, from x and y as they stand. Parameters that enter
/// linearly are left at 1: the solver finds them at once.
using Propose = std::vector<VectorXd> (*)(const VectorXd& x, const VectorXd& y);

std::vector<VectorXd> propose_rate(const VectorXd& x, const VectorXd& y);                 // a, b of a*exp(b*x)
std::vector<VectorXd> propose_time(const VectorXd& x, const VectorXd& y);                 // a, tau
std::vector<VectorXd> propose_base(const VectorXd& x, const VectorXd& y);                 // a, b of a*b^x
std::vector<VectorXd> propose_offset_rate(const VectorXd& x, const VectorXd& y);          // c, a, b
std::vector<VectorXd> propose_offset_time(const VectorXd& x, const VectorXd& y);          // c, a, tau
std::vector<VectorXd> propose_offset_base(const VectorXd& x, const VectorXd& y);          // c, a, b
std::vector<VectorXd> propose_two_times(const VectorXd& x, const VectorXd& y);            // a1, tau1, a2, tau2
std::vector<VectorXd> propose_power(const VectorXd& x, const VectorXd& y);                // a, b
std::vector<VectorXd> propose_arrhenius(const VectorXd& x, const VectorXd& y);            // a, b
std::vector<VectorXd> propose_arrhenius_rate(const VectorXd& x, const VectorXd& y);       // a, b
std::vector<VectorXd> propose_saturation(const VectorXd& x, const VectorXd& y);           // m, k
std::vector<VectorXd> propose_hill(const VectorXd& x, const VectorXd& y);                 // m, n, k
std::vector<VectorXd> propose_approach(const VectorXd& x, const VectorXd& y);             // m, k
std::vector<VectorXd> propose_stretched(const VectorXd& x, const VectorXd& y);            // a, tau, beta
std::vector<VectorXd> propose_logistic(const VectorXd& x, const VectorXd& y);             // m, k, x0
std::vector<VectorXd> propose_offset_logistic(const VectorXd& x, const VectorXd& y);      // low, high, k, x0
std::vector<VectorXd> propose_asymmetric_logistic(const VectorXd& x, const VectorXd& y);  // low, high, k, x0, g
std::vector<VectorXd> propose_peak(const VectorXd& x, const VectorXd& y);                 // b0, b1, h, x0, w
std::vector<VectorXd> propose_two_peaks(const VectorXd& x, const VectorXd& y);  // b0, b1, h1, x1, w1, h2, x2, w2
std::vector<VectorXd> propose_sine(const VectorXd& x, const VectorXd& y);       // c, a, f, phi
std::vector<VectorXd> propose_damped(const VectorXd& x, const VectorXd& y);     // c, a, tau, f, phi

std::vector<VectorXd> propose_share(const VectorXd& x, const VectorXd& y);     // m, w of a share
std::vector<VectorXd> propose_share_ln(const VectorXd& x, const VectorXd& y);  // the same over ln(x)

}  // namespace truecurve::detail
