#!/bin/sh
# Makes every picture of this folder from the demo data: docs/screenshots/make.sh [BUILD]
set -eu
cd "$(dirname "$0")/../.."
build=${1:-build/release}
truecurve() { "$build/truecurve" "$@" > /dev/null; }

truecurve fit demo/thermometers.csv line --x t_ref --y t_test --figure docs/screenshots/fit_thermometers.png
truecurve look demo/viscosity.csv --x T --y eta --figure docs/screenshots/look_viscosity.png
truecurve fit demo/viscosity.csv arrhenius --route linearized --x T --y eta --figure docs/screenshots/fit_viscosity.png
truecurve fit demo/density.csv "polynomial(2)" --x w_Sn --y rho --show-equation --figure docs/screenshots/fit_density.png --figure-checks docs/screenshots/checks_density.png
truecurve preview demo/pour_cooling.csv "T = T_s + (T_0 - T_s)*exp(-t/tau)" --start tau=20 --figure docs/screenshots/preview_cooling.png
truecurve fit demo/pour_cooling.csv "T = T_s + (T_0 - T_s)*exp(-t/tau)" --start tau=20 --show-start --figure docs/screenshots/fit_cooling.png
truecurve fit demo/ring_down.csv damped-oscillation --x t --y v --figure docs/screenshots/fit_ring_down.png
truecurve fit demo/resonance.csv lorentzian-peak --x f --y P --figure docs/screenshots/fit_resonance.png
truecurve fit demo/patina.csv logistic --x years --y d --leave-out "years > 12" --figure-profiles docs/screenshots/profiles_patina.png
truecurve fit demo/clappers.csv "N = A*(S/100)^(-b)" --distribution lognormal --figure docs/screenshots/fit_clappers.png
truecurve fit demo/castings.csv share-logistic --x T_pour --y state --event cracked --figure docs/screenshots/fit_castings.png
truecurve compare demo/patina.csv logistic gompertz power exponential line "polynomial(3)" --x years --y d --hold-out "years > 25" --figure docs/screenshots/compare_patina.png --figure-residuals docs/screenshots/compare_residuals_patina.png
truecurve calibrate demo/lead_calibration.csv --x c_Pb --y I --blank subtract --spread both --leave-out 36 --figure docs/screenshots/calibration_lead.png --figure-residuals docs/screenshots/calibration_residuals_lead.png
truecurve quantify demo/lead_calibration.json demo/lead_unknowns.csv --figure docs/screenshots/reading_lead.png --figure-sample gate

# The report as a browser shows it, where Chromium is installed.
if command -v chromium > /dev/null; then
  work=$(mktemp -d)
  truecurve run demo/foundry.toml --into "$work"
  chromium --headless --no-sandbox --disable-gpu --hide-scrollbars --window-size=1280,1600 \
    --screenshot=docs/screenshots/report_foundry.png "file://$work/report.html" > /dev/null 2>&1
  rm -r "$work"
fi

# The terminal, where a virtual one can be had.
if command -v Xvfb xterm import > /dev/null; then
  work=$(mktemp -d)
  cat > "$work/session" <<'SESSION'
clear
echo '$ truecurve quantify demo/lead_calibration.json demo/lead_unknowns.csv'
truecurve quantify demo/lead_calibration.json demo/lead_unknowns.csv
echo '$ truecurve quantify demo/lead_calibration.json demo/lead_unknowns.csv --yy I'
truecurve quantify demo/lead_calibration.json demo/lead_unknowns.csv --yy I
: > "$0.done"
sleep 30
SESSION
  Xvfb :97 -screen 0 800x800x24 > /dev/null 2>&1 &
  screen=$!
  sleep 1
  PATH="$PWD/$build:$PATH" DISPLAY=:97 xterm -fa "DejaVu Sans Mono" -fs 11 -geometry 88x42+0+0 -bg white -fg '#262c34' -e sh "$work/session" &
  for _ in $(seq 60); do
    [ -e "$work/session.done" ] && break
    sleep 1
  done
  sleep 1
  DISPLAY=:97 import -window root docs/screenshots/terminal_quantify.png
  kill "$screen"
  rm -r "$work"
fi
