#!/bin/sh
# Installs the Debian packages of packages.txt that are missing; used by demo.sh and check.sh. With --browser also those
# marked so.
set -eu
cd "$(dirname "$0")"
marked='/^browser:/d'
[ "${1:-}" = --browser ] && marked='s/^browser://'
missing=""
for package in $(sed "s/#.*//; $marked" packages.txt); do
  dpkg-query -W -f '${Status}' "$package" 2>/dev/null | grep -q 'ok installed' || missing="$missing $package"
done
[ -z "$missing" ] && exit 0
echo "Installing:$missing"
as_root=""
[ "$(id -u)" -eq 0 ] || as_root="sudo"
$as_root apt-get update -q
# shellcheck disable=SC2086
DEBIAN_FRONTEND=noninteractive $as_root apt-get install -y -q --no-install-recommends $missing
