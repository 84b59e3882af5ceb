// The truth behind the bell foundry's demo data. Everything is made up; the tests hold the fits against these numbers.
#pragma once

#include <array>
#include <cstdint>

namespace truecurve::demo {

/// A new thermometer compared with the laboratory's reference in a stirred bath and a tube furnace, each reading with
/// its own stated standard uncertainty: t_test = offset + slope * t_ref.
struct ThermometerTruth {
  static constexpr std::uint64_t seed = 1501;
  static constexpr double offset = 0.42;   // degC
  static constexpr double slope = 1.0031;  // degC/degC
  static constexpr std::array<double, 13> reference = {20,  40,  60,  80,  100, 120, 140,
                                                       160, 180, 200, 220, 240, 260};  // degC
  /// Standard uncertainty of a reading, degC: the bath up to 140 degC, the furnace above.
  static constexpr double bath = 0.08;
  static constexpr double furnace = 0.20;
};

/// Lead standards in bronze, measured by spark emission: intensity = blank + sensitivity * mass fraction, four sparks a
/// standard with equal scatter.
struct LeadStandardsTruth {
  static constexpr std::uint64_t seed = 1502;
  static constexpr double blank = 1.85;                                         // kcps
  static constexpr double sensitivity = 6.314;                                  // kcps per mg/g
  static constexpr double scatter = 0.55;                                       // kcps
  static constexpr std::array<double, 8> levels = {0, 0.5, 1, 2, 4, 6, 8, 10};  // mg/g
  static constexpr int replicates = 4;
};

// Lead in bronze by spark emission, the whole calibration: standards, blanks, fortified blanks, and unknowns. The
// scatter of a spark grows from a constant with the signal above the blank; one replicate was mistyped.
struct LeadCalibrationTruth {
  static constexpr std::uint64_t seed = 1514;
  static constexpr double blank = 1.85;                                            // kcps
  static constexpr double sensitivity = 6.314;                                     // kcps per mg/g
  static constexpr double constant = 0.15;                                         // kcps
  static constexpr double relative = 0.018;                                        // of the signal above the blank
  static constexpr std::array<double, 8> levels = {0.25, 0.5, 1, 2, 4, 6, 8, 10};  // mg/g
  static constexpr int replicates = 4;
  static constexpr int blanks = 10;
  static constexpr int fortified = 7;
  static constexpr double fortified_at = 0.15;  // mg/g
  static constexpr std::size_t mistyped_level = 4;
  static constexpr int mistyped_replicate = 2;
  static constexpr double mistyped_by = -6;  // kcps: 27 typed as 21
};

struct LeadUnknown {
  const char* kind;
  const char* sample;
  double dilution;
  double amount;  // mg/g in the sample
  int readings;
};
struct LeadUnknownsTruth {
  static constexpr std::uint64_t seed = 1511;
  static constexpr std::array<LeadUnknown, 7> samples = {
      LeadUnknown{"control", "check 5", 1, 5, 3},   LeadUnknown{"sample", "bell 71", 1, 3.42, 3},
      LeadUnknown{"sample", "bell 72", 1, 0.87, 3}, LeadUnknown{"sample", "sprue", 1, 0.03, 3},
      LeadUnknown{"sample", "gate", 10, 24.6, 2},   LeadUnknown{"sample", "dross", 1, 12.3, 2},
      LeadUnknown{"control", "check 1", 1, 1, 3}};
};

/// Density of cast bronze against its tin content, hydrostatic weighing: rho = b0 + b1 w + b2 w², equal scatter.
struct DensityTruth {
  static constexpr std::uint64_t seed = 1503;
  static constexpr double b0 = 8.893;                                              // g/cm3
  static constexpr double b1 = -0.0142;                                            // g/cm3 per percent
  static constexpr double b2 = 0.000215;                                           // g/cm3 per percent squared
  static constexpr double scatter = 0.004;                                         // g/cm3
  static constexpr std::array<double, 9> tin = {0, 4, 8, 12, 16, 18, 20, 22, 24};  // percent by mass
  static constexpr int castings = 2;
};

/// Viscosity of the melt against absolute temperature, oscillating crucible: eta = A exp(E/(R T)), stated uncertainty 2
/// %.
struct ViscosityTruth {
  static constexpr std::uint64_t seed = 1504;
  static constexpr double a = 0.62;        // mPa s
  static constexpr double energy = 20100;  // J/mol
  static constexpr double relative = 0.02;
  static constexpr double lowest = 1300;  // K
  static constexpr double step = 25;      // K
  static constexpr int points = 13;
};

/// Strike tone of a family of bells against wall thickness and diameter: f = C t^p D^q. Plate physics says p = 1 and q
/// = -2, so p + q = -1. Scatter proportional to the tone.
struct ToneTruth {
  static constexpr std::uint64_t seed = 1505;
  static constexpr double c = 5.17e6;  // Hz mm^(-p-q)
  static constexpr double p = 1;
  static constexpr double q = -2;
  static constexpr double relative = 0.015;
  static constexpr int bells = 24;
};

/// Strike tone against wall thickness, of bells of one diameter, as a spreadsheet keeps it: a line.
struct StrikeTonesTruth {
  static constexpr std::uint64_t seed = 20261130;
  static constexpr double constant = 118;                                                            // Hz
  static constexpr double slope = 11.2;                                                              // Hz/mm
  static constexpr double scatter = 2.4;                                                             // Hz
  static constexpr double thicknesses[] = {42.5, 38, 55, 47.5, 61, 40, 58.5, 50, 44, 63, 53, 36.5};  // mm
};

/// A casting cools in its pit, pyrometer readings with a stated uncertainty that grows with temperature:
/// T = T_s + (T_0 - T_s) exp(-t/tau).
struct CoolingTruth {
  static constexpr std::uint64_t seed = 1506;
  static constexpr double surroundings = 24;  // degC
  static constexpr double poured = 1030;      // degC
  static constexpr double tau = 41;           // min
  static constexpr double fixed = 2;          // degC, standard uncertainty of a reading ...
  static constexpr double relative = 0.004;   // ... and its share of the reading, added in squares
  static constexpr int points = 25;
  static constexpr double step = 6;  // min
};

/// Ring-down of a bell: velocity of the lip by laser, equal scatter: v = c + a exp(-t/tau) sin(2 pi f t + phi).
struct RingDownTruth {
  static constexpr std::uint64_t seed = 1507;
  static constexpr double offset = 0.6;     // mm/s
  static constexpr double amplitude = 14;   // mm/s
  static constexpr double tau = 0.021;      // s: a damped trial casting
  static constexpr double frequency = 412;  // Hz
  static constexpr double phase = 0.8;      // rad
  static constexpr double scatter = 0.5;    // mm/s
  static constexpr int points = 160;
  static constexpr double step = 0.00025;  // s
};

/// Resonance of the same bell under a shaker, power of the response against frequency on a sloping background, counts
/// of the analyser taken as normal with stated uncertainty: P = b0 + b1 f + h/(1 + ((f - f_0)/w)^2).
struct ResonanceTruth {
  static constexpr std::uint64_t seed = 1508;
  static constexpr double b0 = -7.0;       // mW
  static constexpr double b1 = 0.02;       // mW/Hz
  static constexpr double height = 9;      // mW
  static constexpr double f0 = 412;        // Hz
  static constexpr double width = 7.5;     // Hz, half width at half height
  static constexpr double scatter = 0.12;  // mW
  static constexpr double lowest = 370;    // Hz
  static constexpr double step = 1.5;      // Hz
  static constexpr int points = 57;
};

/// Patina on bronze plates in the yard, thickness against years of exposure: d = m/(1 + exp(-k (y - y_0))), equal
/// scatter. The plates of the first twelve years look like a pure exponential.
struct PatinaTruth {
  static constexpr std::uint64_t seed = 1509;
  static constexpr double limit = 32;     // um
  static constexpr double rate = 0.31;    // 1/a
  static constexpr double middle = 13;    // a
  static constexpr double scatter = 0.6;  // um
  static constexpr std::array<double, 18> years = {1, 2, 3, 4, 5, 6, 7, 8, 9, 10, 11, 12, 14, 16, 18, 20, 23, 26};  // a
};

/// Cracked or sound: castings of one bell poured at different temperatures; the probability of a hot tear is
/// 1/(1 + exp(-(T - middle)/width)).
struct CastingsTruth {
  static constexpr std::uint64_t seed = 1521;
  static constexpr double middle = 1148;  // degC
  static constexpr double width = 13;     // degC
  static constexpr double lowest = 1090;  // degC
  static constexpr double highest = 1210;
  static constexpr int castings = 60;
  /// Of a trial of twelve, poured in steps: no crack up to the sixth, all from the seventh on.
  static constexpr double first_of_trial = 1095;
  static constexpr double step_of_trial = 10;
  static constexpr int sound_in_trial = 6;
  static constexpr int trial = 12;
};

/// Flaws found by ultrasound of flaws there, by their depth: the share found is 1/(1 + (middle/depth)^(1/width)).
struct FlawsTruth {
  static constexpr std::uint64_t seed = 1522;
  static constexpr double middle = 1.15;  // mm
  static constexpr double width = 0.3;
  static constexpr std::array<double, 9> depths = {0.4, 0.6, 0.8, 1.0, 1.3, 1.7, 2.2, 3.0, 4.0};  // mm
  static constexpr std::array<int, 9> there = {30, 32, 36, 40, 40, 38, 34, 30, 24};
};

/// Counted decays of a tracer in the dross, each count with its own time: rate = background + initial exp(-t/tau).
struct DecaysTruth {
  static constexpr std::uint64_t seed = 1523;
  static constexpr double initial = 9;       // per minute
  static constexpr double tau = 21;          // min
  static constexpr double background = 0.4;  // per minute
  static constexpr int early = 12;           // counts of 2 minutes
  static constexpr int late = 6;             // counts of 5 minutes
};

/// A tracer in the dross, its pulses counted: rate = background + efficiency * activity, blanks, standards and samples.
struct TracerTruth {
  static constexpr std::uint64_t seed = 1524;
  static constexpr double background = 1.3;                              // pulses per minute
  static constexpr double efficiency = 0.38;                             // pulses per minute and Bq/kg
  static constexpr int blanks = 3;                                       // counted for 20 minutes each
  static constexpr std::array<double, 5> levels = {5, 10, 20, 40, 80};   // Bq/kg
  static constexpr std::array<double, 5> minutes = {20, 20, 10, 10, 5};  // for which each of two counts lasts
};
struct TracerSample {
  const char* sample;
  double activity;  // Bq/kg
  double minutes;
  int counts;
};
struct TracerSamplesTruth {
  static constexpr std::uint64_t seed = 1525;
  static constexpr std::array<TracerSample, 5> samples = {
      TracerSample{"skimmings", 31, 10, 2}, TracerSample{"ladle", 6.5, 20, 1}, TracerSample{"sand", 0, 20, 1},
      TracerSample{"sweepings", 2.2, 20, 1}, TracerSample{"crucible", 140, 5, 1}};
};

/// Strokes that a clapper of forged bronze lasts against the stress amplitude, lognormal about a power of it; what has
/// not broken after ten million strokes is taken off the rig.
struct ClappersTruth {
  static constexpr std::uint64_t seed = 1526;
  static constexpr double at_100 = 4.0e6;  // strokes at 100 MPa, the median
  static constexpr double exponent = 7.5;
  static constexpr double scatter = 0.45;  // standard deviation of the natural logarithm
  static constexpr double run_out = 1e7;   // strokes
  static constexpr std::array<double, 6> stresses = {80, 90, 105, 120, 140, 165};  // MPa
  static constexpr int clappers = 5;                                               // at each
};

/// Lead in the rinse water of the pattern shop, lognormal from day to day, with a reporting limit that changed once.
struct RinseTruth {
  static constexpr std::uint64_t seed = 1527;
  static constexpr double median = 0.062;  // mg/L
  static constexpr double scatter = 0.8;   // standard deviation of the natural logarithm
  static constexpr int days = 36;
  static constexpr double first_limit = 0.05;  // mg/L, for the first 18 days
  static constexpr double later_limit = 0.02;  // mg/L
};

}  // namespace truecurve::demo
