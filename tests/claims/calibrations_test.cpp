// What a calibration prints, held against the laboratory that the readings were simulated from.

#include "../support.hpp"
#include "claims.hpp"

#include <array>

namespace truecurve {
namespace {

using Kind = SignalScatter::Kind;
using test::Claims;
using test::holds;

// Signals are blank + 6 amount, amounts from 0.5 or 0 up to 8.
struct Laboratory {
  std::string name{};
  Kind kind = Kind::constant;
  double power = 1;
  double constant = 0.3;  // scatter of a reading: sqrt(constant² + (relative net signal)²), or by counting
  double relative = 0;
  bool counts = false;
  int blanks = 0;
  BlankUse use = BlankUse::none;
  bool through_origin = false;
  double lowest = 0.5;
  double standards = 0;  // standard uncertainty of each amount, common to its readings
  double within = 0;     // points by which intervals may be off
  double errors_within = 0;
  bool is_cautious = false;          // intervals hold at least as often
  bool is_cautious_at_zero = false;  // errors happen at most as often
};

constexpr double blank_signal = 2;
constexpr double sensitivity = 6;
constexpr double highest = 8;

double reading(const Laboratory& lab, double amount, RandomNumbers& random) {
  const double net = sensitivity * amount;
  if (lab.counts) return blank_signal + net + lab.constant * std::sqrt(blank_signal + net) * random.normal();
  return blank_signal + net + std::hypot(lab.constant, lab.relative * net) * random.normal();
}

Readings readings_of(const Laboratory& lab, int levels, int replicates, RandomNumbers& random) {
  Readings all{.amount = {"c", ""}, .signal = {"I", ""}};
  for (int l = 0; l < levels; ++l) {
    const double amount = lab.lowest + (highest - lab.lowest) * l / (levels - 1);
    const double held = lab.standards > 0 ? amount + lab.standards * random.normal() : amount;
    for (int i = 0; i < replicates; ++i)
      add_to(all, {.amount = amount,
                   .signal = reading(lab, held, random),
                   .amount_uncertainty = lab.standards > 0 ? lab.standards : not_a_number});
  }
  for (int i = 0; i < lab.blanks; ++i) add_to(all, {.kind = ReadingKind::blank, .signal = reading(lab, 0, random)});
  if (lab.kind == Kind::stated) {
    for (Reading& r : all.all) r.signal_uncertainty = std::hypot(lab.constant, lab.relative * sensitivity * r.amount);
  }
  return all;
}

void judge(const Laboratory& lab, int levels, int replicates, RandomNumbers& random, Claims& claims) {
  CalibrationOptions options{.blank = lab.use, .scatter = {lab.kind, lab.power}, .limits = {.simulations = 0}};
  if (lab.through_origin) options.model = shape_model("line-through-origin", "c", "I");
  const Calibration c = calibrate(readings_of(lab, levels, replicates, random), options);
  const int size = levels * replicates;
  const auto count = [&](const std::string& what, double rate, bool held, double within) {
    const bool is_cautious = rate < 0.5 ? lab.is_cautious_at_zero : lab.is_cautious;
    claims.count(lab.name, size, {what, rate, within, is_cautious}, held);
  };
  const double constant = lab.use == BlankUse::subtract ? 0 : blank_signal;
  for (const ParameterInterval& p : c.parameters)
    count("interval of " + p.name, 0.95, holds({p.low, p.high}, p.name == "a" ? constant : sensitivity), lab.within);
  for (const int m : {1, 3}) {
    for (const auto& [place, amount] : {std::pair{"low end", 0.6}, {"middle", 4.2}, {"high end", 7.8}}) {
      Unknown unknown;
      for (int i = 0; i < m; ++i) unknown.signals.push_back(reading(lab, amount, random));
      count(fmt::format("amount near the {}, {} reading{}", place, m, m == 1 ? "" : "s"), 0.95,
            holds(amount_of(c.curve, unknown).interval, amount), lab.within);
    }
  }
  const SignalBand band = signal_at(c.curve, 4.2);
  // The net signal of the curve is that above the blank that was subtracted.
  const double taken_off = lab.use == BlankUse::subtract ? c.blank.mean : 0;
  const double expected = sensitivity * 4.2 + blank_signal - taken_off;
  count("confidence band, middle", 0.95, holds(band.confidence, expected), lab.within);
  count("prediction band, middle", 0.95, holds(band.prediction, reading(lab, 4.2, random) - taken_off), lab.within);
  if (lab.kind == Kind::constant) {
    const bool bent = std::any_of(c.remarks.begin(), c.remarks.end(),
                                  [](const std::string& r) { return r.find("do not lie on") != std::string::npos; });
    count("any caution of a clean calibration", 0.05, bent || !c.equal_scatter.is_equal || !c.suspicious.empty(), 1.5);
  }
  // Two samples of three readings each: their own scatter, and all intervals at once.
  Readings samples;
  const std::array<std::pair<const char*, double>, 2> held = {{{"A", 2.0}, {"B", 6.5}}};
  for (const auto& [name, amount] : held) {
    for (int i = 0; i < 3; ++i)
      add_to(samples, {.kind = ReadingKind::sample, .signal = reading(lab, amount, random), .sample = name});
  }
  const Quantities read = quantify(c.curve, samples);
  count("a sample whose readings are said to disagree", 0.05, read.unknowns[0].sd_p < 0.05, lab.errors_within + 1);
  CalibrationCurve at_once = c.curve;
  at_once.level = read.level_of_each;
  bool all = true;
  for (std::size_t i = 0; i < held.size(); ++i)
    all = all && holds(amount_of(at_once, read.unknowns[i].unknown).interval, held[i].second);
  claims.count(lab.name, size, {"all amounts at once (Bonferroni)", 0.95, lab.within + 1, lab.is_cautious}, all);
  const LimitRoute& route = c.limits.back();
  const auto found = [&](double amount) {
    return amount_of(c.curve, {.signals = {reading(lab, amount, random)}}).amount;
  };
  count("blanks above the critical value", 0.05, found(0) > route.critical, lab.errors_within);
  count("amounts at the detection limit not above it", 0.05, found(route.detection) <= route.critical,
        lab.errors_within + 2);
}

// A sample of amount 3 with four additions, read twice each, and three blanks.
void judge_additions(RandomNumbers& random, Claims& claims) {
  constexpr double held = 3;
  Laboratory lab{.blanks = 3};
  Readings readings{.amount = {"c", ""}, .signal = {"I", ""}};
  for (const double added : {0.0, 2.0, 4.0, 6.0}) {
    for (int i = 0; i < 2; ++i) add_to(readings, {.amount = added, .signal = reading(lab, held + added, random)});
  }
  for (int i = 0; i < lab.blanks; ++i)
    readings.all.push_back({.kind = ReadingKind::blank, .signal = reading(lab, 0, random)});
  const StandardAdditions found = standard_additions(readings, {.blank = BlankUse::subtract})[0];
  claims.count("standard additions, 3 blanks subtracted", 8, {"amount of the sample", 0.95, 1.5},
               holds(found.interval, held));
}

std::vector<Laboratory> laboratories() {
  return {{.name = "equal scatter"},
          {.name = "equal scatter, 3 blanks subtracted", .blanks = 3, .use = BlankUse::subtract, .within = 1},
          {.name = "equal scatter, 3 blanks subtracted, through the origin",
           .blanks = 3,
           .use = BlankUse::subtract,
           .through_origin = true,
           .within = 3,
           .errors_within = 2},
          {.name = "stated scatter", .kind = Kind::stated, .relative = 0.04},
          {.name = "stated scatter, uncertain standards", .kind = Kind::stated, .standards = 0.1, .within = 1},
          {.name = "counts, 10 blanks subtracted",
           .kind = Kind::power,
           .power = 0.5,
           .constant = 0.2,
           .counts = true,
           .blanks = 10,
           .use = BlankUse::subtract,
           .within = 1.5,
           .errors_within = 2},
          {.name = "rising scatter, weights by --spread both",
           .kind = Kind::both,
           .relative = 0.04,
           .within = 3,
           .is_cautious_at_zero = true},
          {.name = "the same with 10 blanks",
           .kind = Kind::both,
           .relative = 0.04,
           .blanks = 10,
           .use = BlankUse::subtract,
           .within = 2.5,
           .errors_within = 1.5},
          {.name = "equal scatter, weights by --spread both",
           .kind = Kind::both,
           .within = 4,
           .errors_within = 3,
           .is_cautious_at_zero = true},
          {.name = "the same with 5 blanks",
           .kind = Kind::both,
           .blanks = 5,
           .use = BlankUse::subtract,
           .within = 4,
           .errors_within = 3},
          // Without blanks no reading tells how little there may be at amount 0.
          {.name = "steep scatter, weights by --spread both",
           .kind = Kind::both,
           .constant = 0.05,
           .relative = 0.04,
           .within = 3,
           .is_cautious = true,
           .is_cautious_at_zero = true},
          {.name = "the same with 10 blanks of its own",
           .kind = Kind::both,
           .constant = 0.05,
           .relative = 0.04,
           .blanks = 10,
           .use = BlankUse::subtract,
           .within = 2.5,
           .errors_within = 1.5}};
}

// Counts of blanks and of standards at six amounts, few or many: what is read from a count of 10, and the limits.
void judge_counts(const std::string& name, double scale, bool blanks_in, int replicates, RandomNumbers& random,
                  Claims& claims) {
  const auto rate = [scale](double amount) { return scale * (1.3 + 0.38 * amount); };
  const ObservationModel counts = ObservationModel::counts();
  const auto drawn = [&](double amount) { return counts.kernel().draw(rate(amount), 10, random); };
  Readings readings{.amount = {"A", ""}, .signal = {"N", ""}, .are_counts = true};
  const auto add = [&](ReadingKind kind, double amount) {
    readings.all.push_back({.kind = kind, .amount = amount, .signal = drawn(amount), .exposure = 10});
  };
  for (int k = 0; k < replicates; ++k) {
    add(ReadingKind::blank, 0);
    for (const double amount : {5.0, 10.0, 20.0, 40.0, 80.0}) add(ReadingKind::standard, amount);
  }
  const int size = 6 * replicates;
  const Calibration c = calibrate(readings, {.blank = blanks_in ? BlankUse::include : BlankUse::none,
                                             .limits = {.exposure = 10, .simulations = 0}});
  const auto count = [&](const std::string& what, double at, bool held, bool cautious) {
    claims.count(name, size, {what, at, scale < 0.5 ? 5.0 : 2.0, cautious}, held);
  };
  for (const double amount : {0.0, 4.0, 60.0}) {
    const Amount found = amount_of(c.curve, {.signals = {drawn(amount)}, .exposures = {10}});
    count(fmt::format("amount of {}", amount), 0.95, holds(found.interval, amount), true);
  }
  const SignalBand band = signal_at(c.curve, 4, 10);
  count("confidence band at 4", 0.95, holds(band.confidence, rate(4)), false);
  count("interval of a new count at 4", 0.95, holds(band.prediction, drawn(4)), true);
  const DecisionLimits limits = decision_limits(c.curve, {.exposure = 10});
  count("blanks declared", 0.05, std::round(10 * drawn(0)) > limits.largest_count, true);
  count("amounts at the detection limit missed", 0.05, std::round(10 * drawn(limits.detection)) <= limits.largest_count,
        false);
  if (!std::isnan(c.counted_scatter.p)) count("p of scatter beyond counts", 0.05, c.counted_scatter.p < 0.05, false);
  if (!std::isnan(c.linearity.lack_of_fit_p))
    count("p of the lack of fit", 0.05, c.linearity.lack_of_fit_p < 0.05, false);
  count("p of Mandel's test", 0.05, c.linearity.mandel_p < 0.05, false);
}

TEST(Claims, OfCalibrationsOfCounts) {
  Claims claims;
  const int sets = test::simulated_sets(40, 2000);
  for (const auto& [name, scale, blanks_in] : {std::tuple{"2.6 counts of a blank", 0.2, true},
                                               {"13 counts of a blank", 1.0, true},
                                               {"130 counts of a blank", 10.0, true},
                                               {"13 counts of a blank, not part of the line", 1.0, false}}) {
    for (const int replicates : {1, 2, 5}) {
      RandomNumbers random(20'261'128 + static_cast<std::uint64_t>(replicates));
      for (int set = 0; set < sets; ++set) judge_counts(name, scale, blanks_in, replicates, random, claims);
    }
  }
  claims.expect();
  test::update_docs_table("<!-- claims of calibrations of counts -->", claims.table({6, 12, 30}));
}

TEST(Claims, OfCalibrations) {
  Claims claims;
  const std::vector<std::pair<int, int>> designs = {{4, 2}, {6, 2}, {6, 3}, {8, 4}};
  const int sets = test::simulated_sets(20, 600);
  std::vector<int> sizes;
  for (const auto& [levels, replicates] : designs) sizes.push_back(levels * replicates);
  for (const Laboratory& lab : laboratories()) {
    for (const auto& [levels, replicates] : designs) {
      // Too few readings to tell the weights from: refused.
      if (lab.kind == Kind::both && levels * replicates - 2 + std::max(0, lab.blanks - 1) < (lab.blanks < 5 ? 16 : 10))
        continue;
      RandomNumbers random(20'261'127 + static_cast<std::uint64_t>(levels * replicates));
      for (int set = 0; set < sets; ++set) judge(lab, levels, replicates, random, claims);
    }
  }
  RandomNumbers random(5);
  for (int set = 0; set < 4 * sets; ++set) judge_additions(random, claims);
  claims.expect();
  test::update_docs_table("<!-- claims of calibrations -->", claims.table(sizes));
}

}  // namespace
}  // namespace truecurve
