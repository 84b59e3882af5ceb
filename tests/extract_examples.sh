#!/bin/sh
# Turns the example at the head of every public header into a test: extract_examples.sh INCLUDE_FOLDER > header_examples.cpp
set -eu
cd "$1"
echo '// Made from the examples at the head of the public headers.'
find truecurve -name '*.hpp' | LC_ALL=C sort | sed 's/.*/#include <&>/'
cat <<'HEAD'
#include <filesystem>
#include <fmt/format.h>
#include <gtest/gtest.h>
#include <sstream>
namespace {
HEAD
for header in $(find truecurve -name '*.hpp' | LC_ALL=C sort); do
  case=$(echo "$header" | sed 's/[^A-Za-z0-9]/_/g')
  body=$(awk '/^\/\/ Example:/ { on = 1; next } on && /^\/\/     / { print substr($0, 8); next } on { exit }' "$header")
  if [ -z "$body" ]; then echo "$header has no example" >&2; exit 1; fi
  printf 'TEST(HeaderExample, %s) {\n%s\n}\n' "$case" "$body"
done
echo '}  // namespace'
