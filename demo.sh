#!/bin/sh
# Installs what is needed, builds True Curve, and runs it on the bell foundry's demo data.
set -eu
cd "$(dirname "$0")"
./setup.sh
cmake --preset release -DTRUECURVE_TESTS=OFF > /dev/null
cmake --build --preset release --target truecurve_app
export PATH="$PWD/build/release:$PATH"
mkdir -p build/demo

show() {
  printf '\n$ truecurve'
  for word in "$@"; do case $word in *[\ \(\)\>\;]*) printf " '%s'" "$word" ;; *) printf ' %s' "$word" ;; esac; done
  printf '\n\n'
  truecurve "$@"
}

show look demo/thermometers.csv
show fit demo/thermometers.csv line --x t_ref --y t_test --output build/demo/thermometers.json --figure build/demo/thermometers.png
show fit demo/lead_standards.csv line --x c_Pb --y I --output build/demo/lead_standards.json --figure build/demo/lead_standards.png
show look demo/viscosity.csv --x T --y eta --figure build/demo/look_viscosity.png
show fit demo/viscosity.csv arrhenius --route linearized --x T --y eta --output build/demo/viscosity.json --figure build/demo/viscosity.png
show fit demo/density.csv 'polynomial(2)' --x w_Sn --y rho --output build/demo/density.json --figure build/demo/density.png --figure-checks build/demo/density_checks.png
show solve build/demo/density.json --for rho=8.75 --reading-uncertainty 0.004
show fit demo/tone.csv product-of-powers --route linearized --x t --x D --y f --hypothesis 'p1 + p2 = -1' --output build/demo/tone.json
show fit demo/pour_cooling.csv 'T = T_s + (T_0 - T_s)*exp(-t/tau)' --derive 't_half = tau*ln(2)' --output build/demo/cooling.json --figure build/demo/cooling.png
show solve build/demo/cooling.json --for T=100
show fit demo/ring_down.csv damped-oscillation --x t --y v --output build/demo/ring_down.json --figure build/demo/ring_down.png
show fit demo/resonance.csv lorentzian-peak --x f --y P --output build/demo/resonance.json --figure build/demo/resonance.png
show fit demo/patina.csv logistic --x years --y d --leave-out 'years > 12' --interval profile --output build/demo/patina.json --figure-profiles build/demo/patina_profiles.png
show compare demo/density.csv 'polynomial(1..5)' --x w_Sn --y rho --folds 5 --figure-criterion build/demo/density_ladder.png
show compare demo/patina.csv exponential logistic gompertz power --x years --y d --leave-out 'years > 14' --hold-out 'years > 12' --output build/demo/patina_young.json
show predict build/demo/patina_young.json --at years=14,20
show compare demo/patina.csv logistic gompertz power exponential --x years --y d --hold-out 'years > 25' --figure build/demo/patina_candidates.png
show compare demo/viscosity.csv arrhenius 'arrhenius; linearized' line --x T --y eta --u eta=none
show calibrate demo/lead_calibration.csv --x c_Pb --y I --blank subtract
show calibrate demo/lead_calibration.csv --x c_Pb --y I --blank subtract --spread both --leave-out 36 --output build/demo/lead.json --figure build/demo/lead.png --figure-residuals build/demo/lead_residuals.png
show quantify build/demo/lead.json demo/lead_unknowns.csv --dilution-uncertainty 0.5 --figure build/demo/lead_reading.png --figure-sample gate

printf '\nRecords and figures are in %s\n' "$PWD/build/demo"

# The same as one study with one report: its answers, and where they are.
show run demo/foundry.toml --into build/demo/study
