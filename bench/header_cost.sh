#!/bin/sh
# What the public headers cost who includes them: compile time at -O0 by that of Eigen/Dense, each the least of runs
# that alternate: header_cost.sh [RUNS], with CXX for another compiler.
set -eu
runs=${1:-9}
source=$(cd "$(dirname "$0")/.." && pwd)
work=$(mktemp -d)
trap 'rm -rf "$work"' EXIT
echo '#include <Eigen/Dense>' > "$work/eigen.cpp"
for header in truecurve fit/fit; do
  echo "#include <truecurve/$header.hpp>" > "$work/$(basename $header).cpp"
done
# The version is made when the library is configured.
mkdir -p "$work/truecurve/base"
touch "$work/truecurve/base/version.hpp"
milliseconds() {
  begun=$(date +%s%N)
  ${CXX:-c++} -std=c++20 -O0 -c -I"$source/include" -I"$work" -isystem /usr/include/eigen3 "$work/$1.cpp" -o "$work/$1.o"
  echo $((($(date +%s%N) - begun) / 1000000))
}
for _ in $(seq "$runs"); do
  for unit in eigen truecurve fit; do
    echo "$unit $(milliseconds $unit)"
  done
done | awk '
  !($1 in least) || $2 < least[$1] { least[$1] = $2 }
  END { for (unit in least) if (unit != "eigen") printf "%-10s %.2f of Eigen/Dense\n", unit, least[unit] / least["eigen"] }'
