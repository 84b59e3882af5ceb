#!/bin/sh
# Installs what is needed, builds everything with warnings as errors, and runs every test: with sanitizers, under the
# fuzzer, and as released. Closes with ctest's summary.
set -eu
cd "$(dirname "$0")"
./setup.sh
fuzz_seconds=${FUZZ_SECONDS:-20}

echo "== build"
cmake --preset dev > /dev/null
cmake --build --preset dev

echo "== sanitizers: address, undefined behaviour"
cmake --preset sanitize > /dev/null
cmake --build --preset sanitize
ctest --preset sanitize --progress

echo "== fuzzers, $fuzz_seconds s each"
for corpus in fuzz/corpus/*; do
  name=$(basename "$corpus")
  mkdir -p "build/sanitize/found/$name"
  "build/sanitize/fuzz/fuzz_$name" -max_total_time="$fuzz_seconds" -timeout=5 -rss_limit_mb=2048 -verbosity=0 -print_final_stats=1 \
    -artifact_prefix="build/sanitize/found/$name/" "build/sanitize/found/$name" "$corpus"
done

echo "== tests"
ctest --preset dev
