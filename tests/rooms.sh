#!/bin/sh
# The rooms of the house: each includes only rooms before it in the list, and the core holds no interface code.
set -eu
cd "$1"
order="base data model fit assess compare calibrate"
bad=0
earlier=""
for room in $order; do
  earlier="$earlier $room"
  for file in $(find "include/truecurve/$room" "src/$room" -name '*.?pp' 2>/dev/null); do
    for included in $(sed -n 's|^#include [<"]truecurve/\([a-z]*\)/.*|\1|p; s|^#include "\.\./\([a-z]*\)/.*|\1|p' "$file"); do
      case " $earlier " in
        *" $included "*) ;;
        *) echo "$file includes the room '$included', which comes after '$room'"; bad=1 ;;
      esac
    done
    if grep -nE '#include <(iostream|fstream|cstdio|CLI/|nlohmann/|plplot/|csv\.h|toml|kainjow|truecurve/(io|report|figure)/)' "$file"; then
      echo "$file: the core computes only; it reads, prints and draws nothing"
      bad=1
    fi
  done
done
exit $bad
