#!/bin/sh
# The tests need two programs beside Python: headless Chromium and ngspice, from Debian's packages.
# Chromium's own headless program draws a page in two thirds of the time; where there is none, the whole one does.
set -eu
have() { command -v "$1" >/dev/null 2>&1; }
install() { apt-get install -y -qq --no-install-recommends "$@" >/dev/null; }
browser() { have chromium-headless-shell || have chromium; }

have chromium-headless-shell && have ngspice && exit 0
if [ "$(id -u)" = 0 ] && have apt-get; then
  export DEBIAN_FRONTEND=noninteractive
  # Where nothing can be fetched, what is there already may do.
  apt-get update -qq || true
  have ngspice || install ngspice
  have chromium-headless-shell || install chromium-headless-shell 2>/dev/null || browser || install chromium
elif ! browser || ! have ngspice; then
  echo "The tests need chromium-headless-shell and ngspice. Install them first, for example: sudo apt-get install chromium-headless-shell ngspice" >&2
  exit 1
fi
