#!/bin/sh
# The library, records, pages, figures and the command where numbers are written with a comma: comma_locale.sh TESTS
set -eu
place=$(mktemp -d)
trap 'rm -rf "$place"' EXIT
localedef -i de_DE -f UTF-8 "$place/de_DE.UTF-8" || [ -d "$place/de_DE.UTF-8" ]
read_and_written='*Command*:Spreadsheet*:Units*:Published*:*Record*:*Figure*:Ticks*:ReadCsv*:Table*:Doc*:Manual*:Report*:*Text*'
# What a locale can't change, and takes long.
slow='ReadRecords.EveryField*:ReadRecords.Whole*:ReadCsv.TakesAMillion*:ReadCsv.TakesLines*:*FullDisk*:Command.ExplainsItself:DemoData.*'
slow="$slow:CompareCommand.PutsCandidates*:FitFigure.CutsTexts*:*FromEveryStart*:*Coverage*:*AnyNumberOfRows*:CountedCommand.IsNotStopped*"
computed='HeaderExample*:*Model*:Polynomial*:CensoredFit*:Numeric*:*Shape*.Is*'
LOCPATH=$place TRUECURVE_TEST_LOCALE=de_DE.UTF-8 "$1" --gtest_brief=1 --gtest_filter="$read_and_written:$computed-*Browser*:*Stops*:$slow"
