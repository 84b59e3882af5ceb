#!/bin/sh
# Installs what is needed, looks at the format, builds everything with warnings as errors, and runs every test: with
# sanitizers, under the fuzzer, and as released. Closes with ctest's summary.
#   --browser    a browser is installed and the report must pass in it; without, it is tried where there is one
#   --thorough   also clang-tidy and the thread sanitizer, which take half as long again: before a stop
#   --minutes=N  the same where N minutes have room for it; where not, that is said
set -eu
cd "$(dirname "$0")"
begun=$(date +%s)
browser=""
thorough=""
minutes=0
for option in "$@"; do
  case $option in
    --browser) browser=--browser; export TRUECURVE_BROWSER=required ;;
    --thorough) thorough=yes ;;
    --minutes=*[!0-9]* | --minutes=) echo "check.sh --minutes=N: N is a whole number, and '${option#*=}' is none"; exit 2 ;;
    --minutes=*) minutes=${option#*=} ;;
    *) echo "check.sh [--browser] [--thorough] [--minutes=N]"; exit 2 ;;
  esac
done
./setup.sh $browser
fuzz_seconds=${FUZZ_SECONDS:-12}

echo "== format"
if git rev-parse --is-inside-work-tree > /dev/null 2>&1; then
  git ls-files '*.cpp' '*.hpp' | xargs clang-format --dry-run -Werror
fi

# The tests are compiled once, by clang; libraries as released by GCC, as sanitized and counted by clang.
echo "== build, sanitized"
cmake --preset sanitize > /dev/null
cmake --build --preset sanitize

echo "== build, as released"
cmake --preset check -DTRUECURVE_TESTS_FROM="$PWD/build/sanitize" > /dev/null
cmake --build --preset check
cmake --build --preset check --target reference

echo "== sanitizers: address, undefined behaviour"
# In a few processes, as starting one costs more than most tests; what they run is counted. Tests that count how often
# something happens, set all the documentation, run a whole study, call compilers, fill a disk or try another order and other units run
# the same code over and over: as released only.
rates='Claims.*:CleanData.*:Suggestion.FindsTheTruth*:ResidualChecks.KeepTheirLevel*:Levels.TestsErr*:OpenEnd.HoldsTheTruth'
rates="$rates:Metamorphic.Headers*:Command.ExplainsItself:ReadRecords.EveryField*:Documentation.*:Terminal.SetsEveryPage*:Report.FitsPhone*"
rates="$rates:Study.RunsTheFoundry*:Command.LosesNothingOnAFullDisk:CompareCommand.PutsCandidatesSideBySide:ReadCsv.TakesAMillion*"
rates="$rates:DemoData.HoldTheRecord*:OpenEnd.IsToldByEveryPage:Terminal.AddsColour*:Powers/*:Metamorphic.Order*:CountedCommand.IsNotStopped*"
rates="$rates:CurvedShape.FindsItsTruth*:ResidualChecks.HavePower:NonlinearCoverage.*:CountedChecks.CallClean*:CheckWords.SayWhichWay*"
rates="$rates:CountedCommand.FindsTheDemos*:Equation.Compiled*"
rm -rf build/sanitize/coverage
mkdir -p build/sanitize/coverage
shards=8
export LSAN_OPTIONS="suppressions=$PWD/tests/leaks.supp:print_suppressions=0"
seq 0 $((shards - 1)) | GTEST_TOTAL_SHARDS=$shards LLVM_PROFILE_FILE="$PWD/build/sanitize/coverage/%m.profraw" xargs -P "$(nproc)" -I{} \
  env GTEST_SHARD_INDEX={} build/sanitize/tests/truecurve_tests --gtest_brief=1 --gtest_filter="-$rates"

echo "== coverage: lines that the tests ran"
llvm-profdata merge --sparse build/sanitize/coverage/*.profraw -o build/sanitize/coverage/all.profdata
counted=$(for library in build/sanitize/libtruecurve*.so; do echo "--object $library"; done)
# shellcheck disable=SC2086
llvm-cov report build/sanitize/tests/truecurve_tests $counted --instr-profile build/sanitize/coverage/all.profdata \
  --ignore-filename-regex='(^/usr/|/tests/|/generated/)' > build/sanitize/coverage/report.txt 2> /dev/null
awk -v here="$PWD/" '
  /^-/ || NF < 10 { next }
  $1 == "TOTAL" { printf "%-16s %5.1f %% of %d\n", "all", 100 * ($8 - $9) / $8, $8; next }
  $8 + 0 > 0 { name = $1; sub(here, "", name); split(name, part, "/")
    room = part[1] == "src" || part[1] == "include" ? part[1] "/" part[part[1] == "src" ? 2 : 3] : part[1]
    lines[room] += $8; missed[room] += $9 }
  END { for (room in lines) printf "%-16s %5.1f %% of %d\n", room, 100 * (lines[room] - missed[room]) / lines[room], lines[room] }
' build/sanitize/coverage/report.txt | LC_ALL=C sort

echo "== fuzzers side by side, $fuzz_seconds s each"
fuzzers=""
for corpus in fuzz/corpus/*; do
  name=$(basename "$corpus")
  mkdir -p "build/sanitize/found/$name"
  LLVM_PROFILE_FILE=/dev/null "build/sanitize/fuzz/fuzz_$name" -max_total_time="$fuzz_seconds" -timeout=20 -rss_limit_mb=2048 -verbosity=0 -print_final_stats=1 \
    -artifact_prefix="build/sanitize/found/$name/" "build/sanitize/found/$name" "$corpus" > "build/sanitize/found/$name.log" 2>&1 &
  fuzzers="$fuzzers $name:$!"
done
for fuzzer in $fuzzers; do
  wait "${fuzzer#*:}" || { cat "build/sanitize/found/${fuzzer%:*}.log"; echo "the fuzzer ${fuzzer%:*} found something"; exit 1; }
  echo "${fuzzer%:*}: $(sed -n 's/stat::number_of_executed_units: *//p' "build/sanitize/found/${fuzzer%:*}.log") inputs"
done

so_far=$(($(date +%s) - begun))
if [ -z "$thorough" ] && [ "$minutes" -gt 0 ]; then
  # What is left, with these two parts, takes about as long as what was done.
  if [ $((so_far * 21 / 10)) -le $((minutes * 60)) ]; then
    thorough=yes
  else
    echo "== thread sanitizer and clang-tidy are left out: $so_far s have gone, which leaves them no room"
  fi
fi
if [ -n "$thorough" ]; then
  echo "== thread sanitizer"
  cmake --preset threads > /dev/null
  cmake --build --preset threads
  build/threads/tests/truecurve_threads --gtest_brief=1

  echo "== clang-tidy"
  ./tidy.sh
fi

echo "== tests"
ctest --preset check
