#!/bin/sh
# The rooms of the house: each includes only rooms before it in the list, the core holds no interface code, and the
# public face no insides, and says what it throws.
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
# What a caller compiles needs the standard library alone; Eigen is mapped to on request.
if grep -rnE '#include <(Eigen|fmt|boost|tbb|nlohmann)' include | grep -v '^include/truecurve/base/eigen.hpp:'; then
  echo "the public face includes another library"
  bad=1
fi
# ... and of that little, so that it costs a caller less than Eigen does (bench/header_cost.sh).
heavy='algorithm|any|chrono|complex|filesystem|format|functional|future|iomanip|ios|istream|locale|map|mutex|numeric|ostream|random|ranges|regex|set|sstream|streambuf|thread|tuple|unordered_map|unordered_set|variant'
if grep -rnE "#include <($heavy)>" include/truecurve/base include/truecurve/data include/truecurve/model include/truecurve/fit \
  include/truecurve/assess include/truecurve/compare include/truecurve/calibrate | grep -v '^include/truecurve/base/eigen.hpp:'; then
  echo "the core's face includes a heavy header"
  bad=1
fi
# Decompositions are compiled in one place (base/dense.hpp): their templates cost more than any file of ours.
if grep -rnE '#include <Eigen/(Cholesky|Dense|Eigenvalues|QR|SVD)>|EigenSolver|[pP]ivLu|Svd|SVD<|[hH]ouseholderQ[rR]|determinant\(\)|\.(ldlt|llt|lu)\(' src include io report figure app \
  | grep -vE '^src/base/dense\.(cpp|hpp):'; then
  echo "a decomposition outside base/dense"
  bad=1
fi
# Nor does the face show insides: detail:: stands in no signature but those of templates that need it.
if grep -rnE '\[\[nodiscard\]\].*detail::' include; then
  echo "the public face shows a detail"
  bad=1
fi
# The shell speaks through the public face; only records keep an estimate's insides.
if grep -rnE '#include "\.\./src/|Eigen' io report figure app --include='*.?pp' | grep -vE '^io/((read_)?record|agreement)\.[ch]pp:'; then
  echo "the shell reaches into the core"
  bad=1
fi
# And the library does not speak the command line: what can be done are steps (base/advice.hpp), which the command says.
if grep -rnE '"[^"]*(--[a-z]|truecurve [a-z])' include src io report figure --include='*.?pp' | grep -vE ':[0-9]+: *//'; then
  echo "the library names an option of the command"
  bad=1
fi
# One header brings the whole core but for Eigen.
for file in include/truecurve/base/*.hpp include/truecurve/data/*.hpp include/truecurve/model/*.hpp include/truecurve/fit/*.hpp \
  include/truecurve/assess/*.hpp include/truecurve/compare/*.hpp include/truecurve/calibrate/*.hpp; do
  case $file in */eigen.hpp) continue ;; esac
  if ! grep -q "<${file#include/}>" include/truecurve/truecurve.hpp; then
    echo "truecurve.hpp does not include ${file#include/}"
    bad=1
  fi
done
# Every public function says which errors it throws.
if ! awk -f tests/face.awk $(find include -name '*.hpp'); then
  echo "a public function does not say which errors it throws"
  bad=1
fi
exit $bad
