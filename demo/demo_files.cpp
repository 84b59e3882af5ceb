// Draws the demo data from their truth.
#include <truecurve/base/random.hpp>

#include "make_demo_data.hpp"
#include "truth.hpp"

#include <algorithm>
#include <cmath>
#include <numbers>
#include <string_view>

#include <fmt/format.h>

namespace truecurve::demo {
namespace {

DemoFile thermometers() {
  using Truth = ThermometerTruth;
  RandomNumbers random(Truth::seed);
  std::string text =
      "# Comparison of a new thermometer with the laboratory's reference\n"
      "# (made-up data; truth and seed in demo/truth.hpp)\n"
      "t_ref (°C),t_test (°C),u(t_test) (°C)\n";
  for (const double reference : Truth::reference) {
    const double u = reference <= 140 ? Truth::bath : Truth::furnace;
    text += fmt::format("{:.0f},{:.2f},{:.2f}\n", reference,
                        Truth::offset + Truth::slope * reference + u * random.normal(), u);
  }
  return {"thermometers.csv", text};
}

DemoFile lead_standards() {
  using Truth = LeadStandardsTruth;
  RandomNumbers random(Truth::seed);
  std::string text =
      "# Lead in bronze by spark emission: standards, four sparks each\n"
      "# (made-up data; truth and seed in demo/truth.hpp)\n"
      "standard;c_Pb (mg/g);I (kcps)\n";
  for (std::size_t level = 0; level < Truth::levels.size(); ++level) {
    for (int spark = 0; spark < Truth::replicates; ++spark) {
      const double intensity =
          Truth::blank + Truth::sensitivity * Truth::levels[level] + Truth::scatter * random.normal();
      std::string row = fmt::format("B{};{:.1f};{:.2f}\n", level, Truth::levels[level], intensity);
      // The spectrometer's software writes decimal commas.
      for (char& c : row) c = c == '.' ? ',' : c;
      text += row;
    }
  }
  return {"lead_standards.csv", text};
}

double spark(double amount, RandomNumbers& random) {
  using Truth = LeadCalibrationTruth;
  const double net = Truth::sensitivity * amount;
  return Truth::blank + net + std::hypot(Truth::constant, Truth::relative * net) * random.normal();
}

DemoFile lead_calibration() {
  using Truth = LeadCalibrationTruth;
  RandomNumbers random(Truth::seed);
  std::string text =
      "# Lead in bronze by spark emission: standards, blanks and fortified blanks; one spark a row\n"
      "# (made-up data; truth and seed in demo/truth.hpp)\n"
      "kind,c_Pb (mg/g),I (kcps)\n";
  for (int i = 0; i < Truth::blanks; ++i) text += fmt::format("blank,,{:.2f}\n", spark(0, random));
  for (int i = 0; i < Truth::fortified; ++i)
    text += fmt::format("fortified,{},{:.2f}\n", Truth::fortified_at, spark(Truth::fortified_at, random));
  for (std::size_t level = 0; level < Truth::levels.size(); ++level) {
    for (int replicate = 0; replicate < Truth::replicates; ++replicate) {
      const bool mistyped = level == Truth::mistyped_level && replicate == Truth::mistyped_replicate;
      text += fmt::format("standard,{},{:.2f}\n", Truth::levels[level],
                          spark(Truth::levels[level], random) + (mistyped ? Truth::mistyped_by : 0));
    }
  }
  return {"lead_calibration.csv", text};
}

DemoFile lead_unknowns() {
  RandomNumbers random(LeadUnknownsTruth::seed);
  std::string text =
      "# Unknown castings and two control samples of known content, read on the day of lead_calibration.csv\n"
      "# (made-up data; truth and seed in demo/truth.hpp)\n"
      "kind,sample,dilution,c_Pb (mg/g),I (kcps)\n";
  for (const LeadUnknown& unknown : LeadUnknownsTruth::samples) {
    const bool control = std::string_view(unknown.kind) == "control";
    for (int i = 0; i < unknown.readings; ++i) {
      text += fmt::format("{},{},{},{},{:.2f}\n", unknown.kind, unknown.sample, unknown.dilution,
                          control ? fmt::format("{}", unknown.amount) : "",
                          spark(unknown.amount / unknown.dilution, random));
    }
  }
  return {"lead_unknowns.csv", text};
}

DemoFile density() {
  using Truth = DensityTruth;
  RandomNumbers random(Truth::seed);
  std::string text =
      "# Density of cast bronze against tin content, two castings each\n"
      "# (made-up data; truth and seed in demo/truth.hpp)\n"
      "w_Sn (%),rho (g/cm3)\n";
  for (const double w : Truth::tin) {
    for (int casting = 0; casting < Truth::castings; ++casting) {
      text += fmt::format("{:.0f},{:.4f}\n", w,
                          Truth::b0 + Truth::b1 * w + Truth::b2 * w * w + Truth::scatter * random.normal());
    }
  }
  return {"density.csv", text};
}

DemoFile viscosity() {
  using Truth = ViscosityTruth;
  constexpr double gas_constant = 8.31446261815324;  // J/(mol K)
  RandomNumbers random(Truth::seed);
  std::string text =
      "# Viscosity of the bronze melt, oscillating crucible\n"
      "# (made-up data; truth and seed in demo/truth.hpp)\n"
      "T (K),eta (mPa s),u(eta) (mPa s)\n";
  for (int i = 0; i < Truth::points; ++i) {
    const double temperature = Truth::lowest + Truth::step * i;
    const double truth = Truth::a * std::exp(Truth::energy / (gas_constant * temperature));
    const double measured = truth * (1 + Truth::relative * random.normal());
    text += fmt::format("{:.0f},{:.3f},{:.3f}\n", temperature, measured, Truth::relative * measured);
  }
  return {"viscosity.csv", text};
}

DemoFile tone() {
  using Truth = ToneTruth;
  RandomNumbers random(Truth::seed);
  std::string text =
      "# Strike tone of bells of one profile against wall thickness and diameter\n"
      "# (made-up data; truth and seed in demo/truth.hpp)\n"
      "t (mm),D (mm),f (Hz)\n";
  for (int i = 0; i < Truth::bells; ++i) {
    const double diameter = 300 + 1100 * random.uniform();
    const double thickness = diameter * (0.05 + 0.05 * random.uniform());
    const double t = std::round(10 * thickness) / 10;
    const double d = std::round(diameter);
    const double f = Truth::c * std::pow(t, Truth::p) * std::pow(d, Truth::q) * (1 + Truth::relative * random.normal());
    text += fmt::format("{:.1f},{:.0f},{:.1f}\n", t, d, f);
  }
  return {"tone.csv", text};
}

DemoFile pour_cooling() {
  using Truth = CoolingTruth;
  RandomNumbers random(Truth::seed);
  std::string text =
      "# Cooling of a casting in its pit, by pyrometer\n"
      "# (made-up data; truth and seed in demo/truth.hpp)\n"
      "t (min),T (°C),u(T) (°C)\n";
  for (int i = 0; i < Truth::points; ++i) {
    const double t = Truth::step * i;
    const double truth = Truth::surroundings + (Truth::poured - Truth::surroundings) * std::exp(-t / Truth::tau);
    const double u = std::hypot(Truth::fixed, Truth::relative * truth);
    text += fmt::format("{:.0f},{:.1f},{:.1f}\n", t, truth + u * random.normal(), u);
  }
  return {"pour_cooling.csv", text};
}

// As a spreadsheet saves it: a title, headers of several words, their units beneath, decimal commas.
DemoFile strike_tones() {
  using Truth = StrikeTonesTruth;
  RandomNumbers random(Truth::seed);
  std::string text =
      "Strike tones of the spring series (made-up data, truth and seed in demo/truth.hpp)\n"
      "\n"
      "Wall thickness;Strike tone\n"
      "mm;Hz\n";
  for (const double t : Truth::thicknesses) {
    std::string row =
        fmt::format("{};{:.1f}\n", t, Truth::constant + Truth::slope * t + Truth::scatter * random.normal());
    std::replace(row.begin(), row.end(), '.', ',');
    text += row;
  }
  return {"strike_tones.csv", text};
}

DemoFile ring_down() {
  using Truth = RingDownTruth;
  RandomNumbers random(Truth::seed);
  std::string text =
      "# Ring-down of a trial bell: velocity of the lip by laser\n"
      "# (made-up data; truth and seed in demo/truth.hpp)\n"
      "t (s),v (mm/s)\n";
  for (int i = 0; i < Truth::points; ++i) {
    const double t = Truth::step * i;
    const double v = Truth::offset + Truth::amplitude * std::exp(-t / Truth::tau) *
                                         std::sin(2 * std::numbers::pi * Truth::frequency * t + Truth::phase);
    text += fmt::format("{:.5f},{:.2f}\n", t, v + Truth::scatter * random.normal());
  }
  return {"ring_down.csv", text};
}

DemoFile resonance() {
  using Truth = ResonanceTruth;
  RandomNumbers random(Truth::seed);
  std::string text =
      "# Resonance of the trial bell under a shaker\n"
      "# (made-up data; truth and seed in demo/truth.hpp)\n"
      "f (Hz),P (mW),u(P) (mW)\n";
  for (int i = 0; i < Truth::points; ++i) {
    const double f = Truth::lowest + Truth::step * i;
    const double z = (f - Truth::f0) / Truth::width;
    const double p = Truth::b0 + Truth::b1 * f + Truth::height / (1 + z * z);
    text += fmt::format("{:.1f},{:.3f},{:.2f}\n", f, p + Truth::scatter * random.normal(), Truth::scatter);
  }
  return {"resonance.csv", text};
}

DemoFile patina() {
  using Truth = PatinaTruth;
  RandomNumbers random(Truth::seed);
  std::string text =
      "# Thickness of the patina on bronze plates against years in the yard\n"
      "# (made-up data; truth and seed in demo/truth.hpp)\n"
      "years (a),d (um)\n";
  for (const double year : Truth::years) {
    const double d = Truth::limit / (1 + std::exp(-Truth::rate * (year - Truth::middle)));
    text += fmt::format("{:.0f},{:.2f}\n", year, d + Truth::scatter * random.normal());
  }
  return {"patina.csv", text};
}

DemoFile castings() {
  using Truth = CastingsTruth;
  RandomNumbers random(Truth::seed);
  std::string text =
      "# Castings of one bell: cracked or sound against the pouring temperature\n"
      "# (made-up data; truth and seed in demo/truth.hpp)\n"
      "T_pour (°C),state\n";
  for (int i = 0; i < Truth::castings; ++i) {
    const double t = std::round(Truth::lowest + (Truth::highest - Truth::lowest) * random.uniform());
    const double share = 1 / (1 + std::exp(-(t - Truth::middle) / Truth::width));
    text += fmt::format("{:.0f},{}\n", t, random.uniform() < share ? "cracked" : "sound");
  }
  return {"castings.csv", text};
}

DemoFile castings_trial() {
  using Truth = CastingsTruth;
  std::string text =
      "# A trial of twelve castings, one for each temperature\n"
      "# (made-up data; truth in demo/truth.hpp)\n"
      "T_pour (°C),cracked\n";
  for (int i = 0; i < Truth::trial; ++i)
    text +=
        fmt::format("{:.0f},{}\n", Truth::first_of_trial + Truth::step_of_trial * i, i < Truth::sound_in_trial ? 0 : 1);
  return {"castings_trial.csv", text};
}

DemoFile flaws() {
  using Truth = FlawsTruth;
  RandomNumbers random(Truth::seed);
  std::string text =
      "# Flaws found by ultrasound, of flaws cut into test pieces, by their depth\n"
      "# (made-up data; truth and seed in demo/truth.hpp)\n"
      "depth (mm),there,found\n";
  for (std::size_t i = 0; i < Truth::depths.size(); ++i) {
    const double share = 1 / (1 + std::pow(Truth::middle / Truth::depths[i], 1 / Truth::width));
    int found = 0;
    for (int k = 0; k < Truth::there[i]; ++k) found += random.uniform() < share ? 1 : 0;
    text += fmt::format("{:.1f},{},{}\n", Truth::depths[i], Truth::there[i], found);
  }
  return {"flaws.csv", text};
}

// Poisson: how many uniform numbers multiply to less than exp(-mean), of up to 300.
int counts_of(double mean, RandomNumbers& random) {
  int count = 0;
  for (double product = random.uniform(); product > std::exp(-mean); product *= random.uniform()) ++count;
  return count;
}

double tracer_rate(double activity) { return TracerTruth::background + TracerTruth::efficiency * activity; }

DemoFile tracer_standards() {
  using Truth = TracerTruth;
  RandomNumbers random(Truth::seed);
  std::string text =
      "# A tracer in the dross: pulses N counted for t, of blanks and of standards\n"
      "# (made-up data; truth and seed in demo/truth.hpp)\n"
      "kind,A (Bq/kg),t (min),N\n";
  for (int i = 0; i < Truth::blanks; ++i) text += fmt::format("blank,,20,{}\n", counts_of(20 * tracer_rate(0), random));
  for (std::size_t level = 0; level < Truth::levels.size(); ++level) {
    for (int k = 0; k < 2; ++k)
      text += fmt::format("standard,{:.0f},{:.0f},{}\n", Truth::levels[level], Truth::minutes[level],
                          counts_of(Truth::minutes[level] * tracer_rate(Truth::levels[level]), random));
  }
  return {"tracer_standards.csv", text};
}

DemoFile tracer_samples() {
  RandomNumbers random(TracerSamplesTruth::seed);
  std::string text =
      "# Dross whose tracer is wanted: pulses N counted for t\n"
      "# (made-up data; truth and seed in demo/truth.hpp)\n"
      "sample,t (min),N\n";
  for (const TracerSample& s : TracerSamplesTruth::samples) {
    for (int k = 0; k < s.counts; ++k)
      text +=
          fmt::format("{},{:.0f},{}\n", s.sample, s.minutes, counts_of(s.minutes * tracer_rate(s.activity), random));
  }
  return {"tracer_samples.csv", text};
}

DemoFile decays() {
  using Truth = DecaysTruth;
  RandomNumbers random(Truth::seed);
  std::string text =
      "# Decays of a tracer in the dross, counted for dt from t on\n"
      "# (made-up data; truth and seed in demo/truth.hpp)\n"
      "t (min),dt (min),N\n";
  double t = 0;
  for (int i = 0; i < Truth::early + Truth::late; ++i) {
    const double dt = i < Truth::early ? 2 : 5;
    const double mean = dt * (Truth::background + Truth::initial * std::exp(-t / Truth::tau));
    text += fmt::format("{:.0f},{:.0f},{}\n", t, dt, counts_of(mean, random));
    t += i + 1 < Truth::early ? 4 : 8;
  }
  return {"decays.csv", text};
}

DemoFile clappers() {
  using Truth = ClappersTruth;
  RandomNumbers random(Truth::seed);
  std::string text =
      "# Clappers on the rig: strokes until they broke, against the stress amplitude\n"
      "# (made-up data; truth and seed in demo/truth.hpp)\n"
      "S (MPa),N (strokes)\n";
  for (const double stress : Truth::stresses) {
    for (int k = 0; k < Truth::clappers; ++k) {
      const double life =
          Truth::at_100 * std::pow(stress / 100, -Truth::exponent) * std::exp(Truth::scatter * random.normal());
      text += fmt::format("{:.0f},{}\n", stress, life > Truth::run_out ? ">1e7" : fmt::format("{:.3g}", life));
    }
  }
  return {"clappers.csv", text};
}

DemoFile rinse() {
  using Truth = RinseTruth;
  RandomNumbers random(Truth::seed);
  std::string text =
      "# Lead in the rinse water of the pattern shop, day by day\n"
      "# (made-up data; truth and seed in demo/truth.hpp)\n"
      "day,c_Pb (mg/L)\n";
  for (int day = 1; day <= Truth::days; ++day) {
    const double c = Truth::median * std::exp(Truth::scatter * random.normal());
    const double limit = 2 * day <= Truth::days ? Truth::first_limit : Truth::later_limit;
    text += fmt::format("{},{}\n", day, c < limit ? fmt::format("<{}", limit) : fmt::format("{:.3f}", c));
  }
  return {"rinse.csv", text};
}

}  // namespace

std::vector<DemoFile> demo_files() {
  return {thermometers(),     lead_standards(), lead_calibration(), lead_unknowns(), density(),
          viscosity(),        tone(),           pour_cooling(),     ring_down(),     resonance(),
          patina(),           castings(),       castings_trial(),   flaws(),         decays(),
          tracer_standards(), tracer_samples(), clappers(),         rinse(),         strike_tones()};
}

}  // namespace truecurve::demo
