// absorb for processors with AVX2; compiled with -mavx2, called only after asking the processor.
#define TRUECURVE_ABSORB absorb_avx2
#define TRUECURVE_LANE_BYTES 32
#include "absorb_kernel.hpp"
