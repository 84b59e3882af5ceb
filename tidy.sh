#!/bin/sh
# clang-tidy, as .clang-tidy says, over everything that is compiled but the tests: tidy.sh BUILD, a build of the preset
# check, whose folders are one file each.
set -eu
cd "$(dirname "$0")"
build=${1:-build/check}
command -v clang-tidy > /dev/null || { echo "clang-tidy is not installed: ./setup.sh does that"; exit 2; }
[ -f "$build/compile_commands.json" ] || { echo "there is no build in $build: cmake --preset check && cmake --build --preset check"; exit 2; }
mkdir -p "$build/tidy"
# GCC's precompiled headers are not clang's.
sed -E 's/-Winvalid-pch -include [^ ]*cmake_pch\.hxx//g' "$build/compile_commands.json" > "$build/tidy/compile_commands.json"
files=$(find "$build/CMakeFiles" -path '*/Unity/*' -name '*.cxx' | LC_ALL=C sort)
[ -n "$files" ] || { echo "the folders are not one file each in $build: build the preset check"; exit 2; }
if ! echo "$files" | xargs -n 1 -P "$(nproc)" clang-tidy -p "$build/tidy" --quiet --checks=-bugprone-suspicious-include \
  --extra-arg=-Wno-unknown-warning-option --extra-arg=-Wno-sign-conversion > "$build/tidy/found.txt" 2>&1; then
  grep -vE '^[0-9]+ warnings? |^Suppressed|^$' "$build/tidy/found.txt"
  exit 1
fi
