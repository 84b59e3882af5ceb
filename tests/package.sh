#!/bin/sh
# Makes the Debian packages, unpacks them into an empty root, and uses what is there as a user would: package.sh BUILD SOURCE
set -eu
build=$1
source=$2
work=$(mktemp -d)
trap 'rm -rf "$work"' EXIT
fail() {
  echo "$*"
  exit 1
}

cpack --config "$build/CPackConfig.cmake" -G DEB -B "$work/packages" > "$work/log" 2>&1 || fail "$(cat "$work/log")"
root=$work/root
mkdir "$root"
for package in "$work"/packages/*.deb; do dpkg-deb -x "$package" "$root"; done
dpkg-deb -f "$work"/packages/truecurve_*.deb Depends | grep -q 'libtruecurve0.2 (= ' || fail "the command does not name its library"
dpkg-deb -f "$work"/packages/libtruecurve0.2_*.deb Depends | grep -q libplplot || fail "the library does not name PLplot"

# The command, in a folder without the sources.
LD_LIBRARY_PATH=$(dirname "$(find "$root" -name 'libtruecurve.so.0.2')")
export LD_LIBRARY_PATH
PATH=$root/usr/bin:$PATH
cd "$work"
truecurve --version
truecurve demo bells > /dev/null
test -s bells/results/report.html
for page in truecurve.1 truecurve-fit.1 truecurve-uncertainty.7; do
  find "$root/usr/share/man" -name "$page*" | grep -q . || fail "there is no $page"
done

# Told to stop, it leaves nothing half-written.
rm -r bells
truecurve demo bells > /dev/null &
while kill -0 $! && ! ls bells/.results.*.part/lead.json > /dev/null 2>&1; do sleep 0.01; done
kill -TERM $!
wait $! && fail "it went on"
test -z "$(find bells -name '*.part')" || fail "half-written: $(find bells -name '*.part')"

# Little stack and little memory end in a result or in a sentence.
for kilobytes in 64 256; do
  for figure in small.png small.pdf small.svg; do
    (ulimit -s $kilobytes && truecurve fit "$source/demo/density.csv" 'rho = a*exp(-k*w_Sn) + c' --figure $figure > /dev/null) ||
      fail "a stack of $kilobytes kB is too small for $figure"
  done
done
for kilobytes in 20000 40000 60000 100000; do
  code=0
  (ulimit -v $kilobytes && truecurve fit "$source/demo/density.csv" line --x w_Sn --y rho) > result.txt 2>&1 || code=$?
  case $code in
    0 | 1 | 3) ;;
    127) continue ;;  # not even its libraries have room
    *) fail "with $kilobytes kB of memory it ended with $code: $(cat result.txt)" ;;
  esac
done

# Completion, in the shells that are here.
bash -c ". '$root/usr/share/bash-completion/completions/truecurve'
  COMP_WORDS=(truecurve fit --uncertainty s); COMP_CWORD=3; _truecurve; echo \"\${COMPREPLY[@]}\"" | grep -qx 'stated scatter' ||
  fail "bash completes nothing"
if command -v fish > /dev/null; then
  fish -c "source '$root/usr/share/fish/vendor_completions.d/truecurve.fish'; complete -C 'truecurve cal'; complete -C 'truecurve fit $source/demo/tone.csv --x '" |
    tr '\n' ' ' | grep -q '^calibrate.* D f t' || fail "fish completes nothing"
fi

# The libraries, through CMake and through pkg-config.
cmake -S "$source/examples" -B examples -G Ninja -DCMAKE_PREFIX_PATH="$root/usr" -DCMAKE_CXX_COMPILER="${CXX:-c++}" > /dev/null
cmake --build examples > log || fail "$(cat log)"
ctest --test-dir examples --output-on-failure > log || fail "$(cat log)"
# The root is no real one: its prefix is said instead.
sed "s|^prefix=.*|prefix=$root/usr|" "$(find "$root" -name truecurve.pc)" > truecurve.pc
PKG_CONFIG_PATH=$work
export PKG_CONFIG_PATH
${CXX:-c++} -std=c++20 "$source/examples/straight_line.cpp" $(pkg-config --cflags --libs truecurve fmt) -o line
./line "$source/demo/thermometers.csv" line.png | grep -q 'b = 1'

# A caller may use other vector instructions and another compiler than the library: nothing that depends on them crosses
# the boundary, and all print the same digits.
cat > consumer.cpp <<'PROGRAM'
#include <truecurve/io/record.hpp>
#include <truecurve/report/fit_page.hpp>
#include <truecurve/report/renderers.hpp>
#include <truecurve/truecurve.hpp>

#include <iostream>

int main() {
  std::vector<double> x, y;
  for (int i = 0; i < 40; ++i) {
    x.push_back(i / 4.0);
    y.push_back((1 << (39 - i) / 4) / 16.0 + i * i % 5 / 32.0);  // exact, whatever the compiler makes of it
  }
  const auto points = truecurve::Observations::of(x, y);
  const auto line = truecurve::fit(truecurve::shape_model("polynomial(3)"), points);
  const auto decay = truecurve::fit(truecurve::Model::written("y = a*exp(-x/tau) + c"), points);
  const auto again = truecurve::read_fit_record(truecurve::fit_record(decay, 0.95), "memory");
  const truecurve::Matrix covariance = again.covariance();
  std::cout << truecurve::text_of(truecurve::fit_page(decay)) << truecurve::text_of(truecurve::fit_page(line)) << truecurve::shortest(truecurve::row_measures(line).standardized[7]) << '\n'
            << truecurve::shortest(covariance(1, 2)) << ' ' << truecurve::shortest(decay.residuals()[3]) << '\n'
            << truecurve::parameter_text(line.parameter("b3")) << '\n'
            << truecurve::band_at(again, {2.5, 30}, 0.99)[1].prediction.high << '\n';
}
PROGRAM
for how in "${CXX:-c++}" "${CXX:-c++} -O3 -mavx2 -mfma" "${CXX:-c++} -O2 -march=native -std=c++23" \
    "clang++ -O3 -mavx2 -ffast-math" "clang++ -march=native"; do
  command -v "${how%% *}" > /dev/null || continue
  ${how%% *} -std=c++20 -Wall -Wextra -Werror ${how#"${how%% *}"} consumer.cpp $(pkg-config --cflags --libs truecurve) -o consumer || fail "$how does not compile"
  ./consumer > "printed by" || fail "compiled with $how it stops"
  [ -e printed ] || cp "printed by" printed
  cmp printed "printed by" || fail "compiled with $how it prints other digits"
done

# The core alone must not need what only its companions use.
if nm -DC --undefined-only "$LD_LIBRARY_PATH/libtruecurve.so.0.2" |
  grep -E 'nlohmann|CLI::|\bpl(init|end|sdev)\b|csv_parse|std::(cout|cerr|basic_ofstream|basic_ifstream)'; then
  fail "the core library reaches for files, JSON, the command line or the plotter"
fi
