// Normal variates by inversion.
#include <truecurve/base/distributions.hpp>
#include <truecurve/base/random.hpp>

namespace truecurve {

double RandomNumbers::normal() { return normal_quantile(uniform()); }

}  // namespace truecurve
