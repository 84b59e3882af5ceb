#!/bin/sh
# Links the library as packages have it (exporting its public face alone) and as archives, makes the Debian packages,
# installs them into an empty root, and uses what is there as a user would: package.sh BUILD SOURCE. What was compiled in
# BUILD is linked again, not compiled.
set -eu
build=$1
source=$2
work=$(mktemp -d)
trap 'rm -rf "$work"' EXIT
fail() {
  echo "$*"
  exit 1
}

again() {
  cmake -S "$source" -B "$work/$1" -G Ninja -DCMAKE_BUILD_TYPE=Release -DTRUECURVE_TESTS=OFF -DTRUECURVE_OBJECTS_FROM="$build" \
    -DBUILD_SHARED_LIBS="$2" -DCMAKE_INSTALL_PREFIX=/usr > "$work/log" 2>&1 &&
    cmake --build "$work/$1" --target truecurve_app >> "$work/log" 2>&1 || fail "$(cat "$work/log")"
}
again sealed ON
again archives OFF
cpack --config "$work/sealed/CPackConfig.cmake" -G DEB -B "$work/packages" > "$work/log" 2>&1 || fail "$(cat "$work/log")"
DESTDIR=$work/static cmake --install "$work/archives" > "$work/log" 2>&1 || fail "$(cat "$work/log")"

# Nothing of other libraries and nothing of the inside is exported.
for library in "$work"/sealed/libtruecurve*.so; do
  nm -DC --defined-only "$library" | cut -d ' ' -f 3- > "$work/exported"
  foreign=$(grep -vE '^((vtable|VTT|typeinfo|typeinfo name) for )?truecurve::' "$work/exported" | grep -vE '^(TRUECURVE|_init|_fini)' || true)
  test -z "$foreign" || fail "$library exports what is not its own: $foreign"
  if grep -E '^((vtable|VTT|typeinfo|typeinfo name) for )?truecurve::detail::' "$work/exported"; then fail "$library exports its inside"; fi
done

root=$work/root
mkdir "$root"
if test "$(id -u)" = 0; then
  # Installed, with what this machine has as the packages they may depend on.
  mkdir -p "$root/var/lib/dpkg/info" "$root/var/lib/dpkg/updates" "$root/var/log"
  cp /var/lib/dpkg/status "$root/var/lib/dpkg/"
  dpkg_into_root() {
    dpkg --root="$root" --no-triggers --force-script-chrootless --force-unsafe-io "$@" > "$work/log" 2>&1 ||
      fail "$(grep -v 'files list file' "$work/log")"
  }
  dpkg_into_root --install "$work"/packages/*.deb
  for package in truecurve libtruecurve0.2 libtruecurve-dev; do
    test "$(dpkg-query --admindir="$root/var/lib/dpkg" -W -f '${db:Status-Abbrev}' $package)" = "ii " || fail "$package is not installed"
  done
else
  for package in "$work"/packages/*.deb; do dpkg-deb -x "$package" "$root"; done
fi
dpkg-deb -f "$work"/packages/truecurve_*.deb Depends | grep -q 'libtruecurve0.2 (= ' || fail "the command does not name its library"
dpkg-deb -f "$work"/packages/libtruecurve0.2_*.deb Depends | grep -q libplplot || fail "the library does not name PLplot"
dpkg-deb -f "$work"/packages/libtruecurve0.2_*.deb Depends | grep -q plplot-driver-cairo || fail "the library does not name its driver"
for package in truecurve libtruecurve0.2 libtruecurve-dev; do
  for file in copyright changelog.gz; do test -s "$root/usr/share/doc/$package/$file" || fail "$package has no $file"; done
done
test -s "$root/usr/share/doc/truecurve/demo/thermometers.csv" || fail "the guide's data are not installed"

# The command, in a folder without the sources.
LD_LIBRARY_PATH=$(dirname "$(find "$root" -name 'libtruecurve.so.0.2')")
export LD_LIBRARY_PATH
PATH=$root/usr/bin:$PATH
cd "$work"
truecurve --version
truecurve demo bells > /dev/null
test -s bells/results/report.html
truecurve predict "$source/demo/density.json" --at w_Sn=18,20 --output prediction.json > /dev/null
truecurve solve "$source/demo/density.json" --for rho=8.8 --output solution.json > /dev/null
truecurve derive "$source/demo/density.json" "q = b1/b2" --output derivation.json > /dev/null
truecurve preview "$source/demo/pour_cooling.csv" newton-cooling --x t --y T --output preview.json > /dev/null
truecurve quantify "$source/demo/lead_calibration.json" "$source/demo/lead_unknowns.csv" --output quantities.json > /dev/null
truecurve fit "$source/demo/castings_trial.csv" 'ln(p/(1-p)) = a + b*T_pour' --y cracked --event 1 --penalised --output penalised.json > /dev/null
printf 'added,reading\n0,1.01\n0,0.99\n1,2.02\n2,2.99\n3,4.01\n' > added.csv
truecurve calibrate added.csv --x added --y reading --additions --output additions.json > /dev/null
python3 -W ignore "$source/tests/schemas.py" "$source/docs/schema" bells/results/*.json "$source"/demo/*.json ./*.json
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
for kilobytes in $(seq 18000 100 23000) 40000 60000 100000; do
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
ctest --test-dir examples --output-on-failure -j "$(nproc)" > log || fail "$(cat log)"
PKG_CONFIG_PATH=$(dirname "$(find "$root" -name truecurve.pc)")
export PKG_CONFIG_PATH
all="truecurve-io truecurve-report truecurve-figure"
pkg-config --print-requires --print-requires-private $all | grep -vx 'truecurve = 0.2.0' | grep . && fail "a .pc file asks for more than the package has"
${CXX:-c++} -std=c++20 "$source/examples/straight_line.cpp" $(pkg-config --cflags --libs $all fmt) -o line
./line "$source/demo/thermometers.csv" line.png | grep -q 'b = 1'

# The README's lines of installation, as they stand, in a copy of the sources; what is compiled already is linked.
mkdir tree
(cd "$source" && tar -c --exclude=./build --exclude=./.git .) | tar -x -C tree
awk '/^## /{inside = ($2 == "Install")} inside && /^    /{print}' "$source/README.md" > install.sh
test "$(wc -l < install.sh)" -ge 3 || fail "the README does not say how to install"
(cd tree && HOME=$work/home CMAKE_BUILD_TYPE=Release sh -eu -c "cmake() { case \$1 in -B) command cmake -DTRUECURVE_OBJECTS_FROM='$build' \"\$@\" ;; *) command cmake \"\$@\" ;; esac; }
  . ../install.sh") > log 2>&1 || fail "the README's lines of installation: $(cat log)"
test -x "$work/home/truecurve/bin/truecurve" || fail "the README's lines install no command"

# The guide's programs: whole files in its chapter on embedding.
awk -v into="$work/guide" '/^## /{inside = ($2 == "Embed")} inside && /^```cpp/{++n; file = into n ".cpp"; next} /^```/{file = ""} file{print > file}' "$source/docs/guide.md"
for program in "$work"/guide?.cpp; do
  ${CXX:-c++} -std=c++20 -Wall -Wextra -Werror "$program" $(pkg-config --cflags --libs truecurve) -pthread -o guide || fail "$program does not compile"
  ./guide > said 2> log || fail "$program stops: $(cat log)"
  test -s said || fail "$program says nothing"
done

# A line through borrowed rows takes no memory that grows with them: after a first fit ten million rows add less than 1 MB.
cat > borrowed.cpp <<'PROGRAM'
#include <truecurve/truecurve.hpp>

#include <fstream>
#include <iostream>

// The most memory that this process has had, in kB.
long peak() {
  std::ifstream status("/proc/self/status");
  for (std::string line; std::getline(status, line);)
    if (line.starts_with("VmHWM:")) return std::stol(line.substr(6));
  return -1;
}

int main() {
  std::vector<double> x(10'000'000), y(x.size());
  for (std::size_t i = 0; i < x.size(); ++i) {
    x[i] = 1e-6 * static_cast<double>(i);
    y[i] = 1 + 2 * x[i] + static_cast<double>(i * 2654435761u % 1000) / 1000;
  }
  const auto slope = [&](std::size_t rows) {
    const auto lent = truecurve::Observations::borrowed({"y", "", {y.data(), rows}}, {{"x", "", {x.data(), rows}}});
    return truecurve::fit(truecurve::shape_model("line"), lent).estimate().parameters()[1];
  };
  (void)slope(200'000);
  const long before = peak();
  std::cout << slope(x.size()) << '\n' << peak() - before << '\n';
}
PROGRAM
${CXX:-c++} -std=c++20 -O1 borrowed.cpp $(pkg-config --cflags --libs truecurve) -o borrowed
./borrowed > said
test "$(sed -n 2p said)" -ge 0 && test "$(sed -n 2p said)" -lt 1024 || fail "borrowed rows take $(sed -n 2p said) kB"

# Components that are not there are said to be missing, quietly where that is asked for.
mkdir -p asks
cat > asks/CMakeLists.txt <<'PROJECT'
cmake_minimum_required(VERSION 3.25)
project(Asks LANGUAGES CXX)
find_package(TrueCurve QUIET COMPONENTS io mirrors)
if(TrueCurve_FOUND)
  message(FATAL_ERROR "found what is not there")
endif()
PROJECT
cmake -S asks -B asks/build -DCMAKE_PREFIX_PATH="$root/usr" > log 2>&1 || fail "$(cat log)"
grep -q 'mirrors' log && fail "find_package(QUIET) speaks: $(cat log)"

# A caller may use other vector instructions and another compiler than the library: nothing that depends on them crosses
# the boundary, and all print the same digits.
cat > consumer.cpp <<'PROGRAM'
#include <truecurve/figure/fit_figure.hpp>
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
  const truecurve::Fit fits[] = {truecurve::fit(truecurve::shape_model("line"), points), decay};
  std::cout << truecurve::compare(fits).suggestion.name << '\n';
  const auto table = truecurve::Table::from_columns(
      {{"c", "mg/g", {0, 0, 1, 1, 2, 2, 4, 4}}, {"I", "kcps", {1.8, 2.0, 8.1, 8.3, 14.4, 14.7, 27.2, 26.8}}});
  const auto calibration = truecurve::calibrate(truecurve::readings_of(table, {.amount = "c", .signals = {"I"}}));
  std::cout << truecurve::shortest(truecurve::amount_of(calibration.curve, {.signals = {14.4, 14.8}}).amount) << '\n';
  truecurve::draw_fit(decay, "consumer.svg");
}
PROGRAM
same_digits() {
  ./consumer > "printed by" || fail "$1 stops"
  if [ ! -e printed ]; then cp "printed by" printed; cp consumer.svg drawn.svg; fi
  cmp printed "printed by" || fail "$1 prints other digits"
  cmp drawn.svg consumer.svg || fail "$1 draws another picture"
}
for how in "${CXX:-c++} -O3 -mavx2 -mfma" "${CXX:-c++} -O2 -march=native -std=c++23" \
    "clang++ -O3 -mavx2 -ffast-math" "clang++ -march=native -std=c++2b"; do
  command -v "${how%% *}" > /dev/null || continue
  ${how%% *} -std=c++20 -Wall -Wextra -Werror ${how#"${how%% *}"} -c consumer.cpp $(pkg-config --cflags $all) -o consumer.o || fail "$how does not compile"
  ${how%% *} consumer.o $(pkg-config --libs $all) -o consumer || fail "$how does not link"
  same_digits "compiled with $how it"
  # The same with archives.
  archives=$(find "$work/static" -name libtruecurve.a)
  ${how%% *} consumer.o $(PKG_CONFIG_PATH=$(dirname "$archives")/pkgconfig pkg-config --static --libs $all) -o consumer || fail "$how does not link archives"
  same_digits "with archives and $how it"
done

# find_package and add_subdirectory: a project of one program, as the guide has it, with no flags.
mkdir -p own
cp consumer.cpp own/
cat > own/CMakeLists.txt <<'PROJECT'
cmake_minimum_required(VERSION 3.25)
project(Own LANGUAGES C CXX)
set(CMAKE_CXX_STANDARD 23)
if(TRUECURVE_SOURCE)
  set(TRUECURVE_REPORT ON)
  set(TRUECURVE_FIGURE ON)
  add_subdirectory(${TRUECURVE_SOURCE} truecurve)
  get_property(targets DIRECTORY ${TRUECURVE_SOURCE} PROPERTY BUILDSYSTEM_TARGETS)
  foreach(target ${targets})
    if(NOT target MATCHES "^truecurve")
      message(FATAL_ERROR "the target ${target} leaks")
    endif()
  endforeach()
  get_cmake_property(names CACHE_VARIABLES)
  foreach(name ${names})
    if(name MATCHES "^CPACK_")
      message(FATAL_ERROR "the setting ${name} leaks")
    endif()
  endforeach()
else()
  find_package(TrueCurve REQUIRED COMPONENTS io report figure)
endif()
add_executable(consumer consumer.cpp)
target_link_libraries(consumer PRIVATE TrueCurve::io TrueCurve::report TrueCurve::figure)
PROJECT
cmake_like() {
  name=$1
  shift
  rm -rf "own/$name"
  cmake -S own -B "own/$name" -G Ninja "$@" > log 2>&1 && cmake --build "own/$name" --target consumer >> log 2>&1 || fail "$name: $(cat log)"
  cp "own/$name/consumer" consumer
  same_digits "by $name it"
}
cmake_like shared -DCMAKE_PREFIX_PATH="$root/usr"
cmake_like static -DCMAKE_PREFIX_PATH="$work/static/usr"
cmake_like subdirectory -DTRUECURVE_SOURCE="$source" -DTRUECURVE_OBJECTS_FROM="$build"
test -e own/subdirectory/truecurve/truecurve && fail "the command is built within another project"

# The core alone asks for nothing that draws, reads files or parses arguments.
cmake -S "$source" -B core -G Ninja -DTRUECURVE_IO=OFF -DTRUECURVE_REPORT=OFF -DTRUECURVE_FIGURE=OFF -DTRUECURVE_APP=OFF -DTRUECURVE_TESTS=OFF \
  -DTRUECURVE_OBJECTS_FROM="$build" --trace-expand --trace-redirect=trace > log 2>&1 || fail "$(cat log)"
if grep -E '(plplot|CLI11|nlohmann_json|pugixml|libzip|xlsxwriter|utf8proc)[^/ ]*(Config|Targets)?\.cmake|pkg_check_modules' trace | grep -v '^/usr' | grep -v 'macro(' | head -3 | grep .; then
  fail "the core alone asks for what only the parts use"
fi
cmake --build core > log 2>&1 || fail "$(cat log)"
DESTDIR=$work/alone cmake --install core > log 2>&1 || fail "$(cat log)"
test -e "$work/alone/usr/local/include/truecurve/io" && fail "headers of parts that were not built are installed"

# The core alone must not need what only its companions use.
if nm -DC --undefined-only "$LD_LIBRARY_PATH/libtruecurve.so.0.2" |
  grep -E 'nlohmann|CLI::|\bpl(init|end|sdev)\b|csv_parse|std::(cout|cerr|basic_ofstream|basic_ifstream)'; then
  fail "the core library reaches for files, JSON, the command line or the plotter"
fi

# Taken away again, the packages leave nothing.
if test "$(id -u)" = 0; then
  dpkg_into_root --purge truecurve libtruecurve-dev libtruecurve0.2
  left=$(find "$root" -name '*truecurve*' -not -path "$root/var/*" | head -3)
  test -z "$left" || fail "the packages leave $left"
fi
