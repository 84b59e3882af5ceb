#!/bin/sh
# clang-tidy, as .clang-tidy says, over everything that is compiled but tests and benchmarks: tidy.sh BUILD, a build of the
# preset check, in which most files are compiled together and read once.
set -eu
cd "$(dirname "$0")"
build=${1:-build/check}
command -v clang-tidy > /dev/null || { echo "clang-tidy is not installed: ./setup.sh does that"; exit 2; }
[ -f "$build/compile_commands.json" ] || { echo "there is no build in $build: cmake --preset check && cmake --build --preset check"; exit 2; }
# What takes longest begins first.
files=$(sed -n 's/^ *"file": "\(.*\)",*$/\1/p' "$build/compile_commands.json" |
  grep -vE "^$PWD/(build/[^/]*/)?(tests|bench|fuzz)/" |
  awk '{print (/Unity/ ? 0 : 1), $0}' | sort -s -k 1,1n | cut -d ' ' -f 2-)
[ -n "$files" ] || { echo "$build/compile_commands.json names no file: build the preset check"; exit 2; }
if ! echo "$files" | xargs -n 1 -P "$(nproc)" clang-tidy -p "$build" --quiet --checks=-bugprone-suspicious-include \
  --extra-arg=-Wno-unknown-warning-option --extra-arg=-Wno-sign-conversion > "$build/tidy.txt" 2>&1; then
  grep -vE '^[0-9]+ warnings? |^Suppressed|^$' "$build/tidy.txt"
  exit 1
fi
