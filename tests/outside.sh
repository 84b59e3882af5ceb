#!/bin/sh
# Installs the build and uses it from outside, through CMake and through pkg-config: outside.sh BUILD SOURCE
set -eu
build=$1
source=$2
work=$(mktemp -d)
trap 'rm -rf "$work"' EXIT
cmake --install "$build" --prefix "$work/usr" > /dev/null
cmake -S "$source/tests/outside" -B "$work/build" -DCMAKE_PREFIX_PATH="$work/usr" -DCMAKE_CXX_COMPILER="${CXX:-c++}" > /dev/null
cmake --build "$work/build" > /dev/null
test "$("$work/build/outside")" = 2
PKG_CONFIG_PATH=$(dirname "$(find "$work/usr" -name truecurve.pc)")
export PKG_CONFIG_PATH
${CXX:-c++} -std=c++20 "$source/tests/outside/outside.cpp" $(pkg-config --define-prefix --cflags --libs truecurve) -o "$work/outside"
test "$("$work/outside")" = 2
"$work/usr/bin/truecurve" --version
# The core alone must not need what only its companions use.
core=$(find "$work/usr" -name 'libtruecurve.a')
if nm -C --undefined-only "$core" | grep -E 'nlohmann|CLI::|\bpl(init|end|sdev)\b|csv_parse|std::(cout|cerr|basic_ofstream|basic_ifstream)'; then
  echo "the core library reaches for files, JSON, the command line or the plotter"
  exit 1
fi
