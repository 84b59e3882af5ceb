#!/bin/sh
# Installs what is needed, looks at the format, builds everything with warnings as errors, and runs every test: with
# sanitizers, under the fuzzer, and as released. Closes with ctest's summary. With --browser a browser is installed and
# the report must pass in it; without, it is tried where there is one. tidy.sh looks at what was built with clang-tidy.
set -eu
cd "$(dirname "$0")"
if [ "${1:-}" = --browser ]; then
  ./setup.sh --browser
  export TRUECURVE_BROWSER=required
elif [ $# -gt 0 ]; then
  echo "check.sh [--browser]"
  exit 2
else
  ./setup.sh
fi
fuzz_seconds=${FUZZ_SECONDS:-20}

echo "== format"
if git rev-parse --is-inside-work-tree > /dev/null 2>&1; then
  git ls-files '*.cpp' '*.hpp' | xargs clang-format --dry-run -Werror
fi

echo "== build"
cmake --preset check > /dev/null
cmake --build --preset check
cmake --build --preset check --target reference

echo "== sanitizers: address, undefined behaviour"
cmake --preset sanitize > /dev/null
cmake --build --preset sanitize
ctest --preset sanitize --progress

echo "== fuzzers side by side, $fuzz_seconds s each"
fuzzers=""
for corpus in fuzz/corpus/*; do
  name=$(basename "$corpus")
  mkdir -p "build/sanitize/found/$name"
  "build/sanitize/fuzz/fuzz_$name" -max_total_time="$fuzz_seconds" -timeout=20 -rss_limit_mb=2048 -verbosity=0 -print_final_stats=1 \
    -artifact_prefix="build/sanitize/found/$name/" "build/sanitize/found/$name" "$corpus" > "build/sanitize/found/$name.log" 2>&1 &
  fuzzers="$fuzzers $name:$!"
done
for fuzzer in $fuzzers; do
  wait "${fuzzer#*:}" || { cat "build/sanitize/found/${fuzzer%:*}.log"; echo "the fuzzer ${fuzzer%:*} found something"; exit 1; }
  echo "${fuzzer%:*}: $(sed -n 's/stat::number_of_executed_units: *//p' "build/sanitize/found/${fuzzer%:*}.log") inputs"
done

echo "== tests"
ctest --preset check
