// Lead in bronze: a calibration from standards and blanks, and two sparks of an unknown casting read through it.
//
//     lead_calibration demo/lead_calibration.csv
#include <truecurve/io/csv.hpp>
#include <truecurve/truecurve.hpp>

#include <iostream>

#include <fmt/format.h>

namespace tc = truecurve;

int main(int count, char** arguments) {
  if (count != 2) {
    std::cerr << "usage: lead_calibration TABLE.csv\n";
    return 2;
  }
  try {
    const auto table = tc::read_csv(std::filesystem::path(arguments[1]));
    const auto readings = tc::readings_of(table, {.amount = "c_Pb", .signals = {"I"}, .kind = "kind"});
    const tc::CalibrationOptions options{.blank = tc::BlankUse::subtract, .scatter = {tc::SignalScatter::Kind::both}};
    const auto calibration = tc::calibrate(readings, options);
    for (const auto& suspicion : calibration.suspicious)
      std::cout << fmt::format("row {} at level {} is an {} (p = {})\n", suspicion.reading.row, suspicion.amount,
                               tc::name(suspicion.grade), tc::probability_text(suspicion.p));
    for (const auto& route : calibration.limits)
      std::cout << fmt::format("{:<26} detection limit {} mg/g\n", tc::name(route.route),
                               tc::rounded(route.detection, 3));
    const auto found = tc::amount_of(calibration.curve, {.signals = {23.6, 24.1}});
    std::cout << fmt::format("the casting holds {} mg/g, {}\n",
                             tc::with_uncertainty(found.amount, found.standard_uncertainty),
                             tc::interval_text(found.interval.low, found.interval.high, found.standard_uncertainty));
  } catch (const tc::Error& error) {
    std::cerr << error.what() << '\n';
    return 1;
  }
  return 0;
}
