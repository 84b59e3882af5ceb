#!/bin/sh
# clang-tidy, as .clang-tidy says, over everything that is compiled but the tests: tidy.sh BUILD, a build of the preset
# check, whose folders are one file each.
set -eu
cd "$(dirname "$0")"
build=${1:-build/check}
mkdir -p "$build/tidy"
# GCC's precompiled headers are not clang's.
sed -E 's/-Winvalid-pch -include [^ ]*cmake_pch\.hxx//g' "$build/compile_commands.json" > "$build/tidy/compile_commands.json"
find "$build/CMakeFiles" -path '*/Unity/*' -name '*.cxx' | LC_ALL=C sort |
  xargs -n 1 -P "$(nproc)" clang-tidy -p "$build/tidy" --quiet --checks=-bugprone-suspicious-include \
    --extra-arg=-Wno-unknown-warning-option --extra-arg=-Wno-sign-conversion 2>&1 | grep -vE '^[0-9]+ warnings? generated|^Suppressed|^$' > "$build/tidy/found.txt" || true
if grep -qE ' (error|warning): ' "$build/tidy/found.txt"; then
  cat "$build/tidy/found.txt"
  exit 1
fi
