// absorb for the baseline instruction set, and the choice at run time.
#define TRUECURVE_ABSORB absorb_portable
#define TRUECURVE_LANE_BYTES 16
#include "absorb_kernel.hpp"

namespace truecurve::detail {

Absorb best_absorb() {
#if defined(TRUECURVE_HAS_AVX2)
  static const bool has_avx2 = __builtin_cpu_supports("avx2") != 0;
  if (has_avx2) return absorb_avx2;
#endif
  return absorb_portable;
}

}  // namespace truecurve::detail
