#!/bin/sh
# The tests need two programs beside Python: Chromium and ngspice, from Debian's packages.
set -eu
missing=""
command -v chromium >/dev/null 2>&1 || missing="$missing chromium"
command -v ngspice >/dev/null 2>&1 || missing="$missing ngspice"
[ -n "$missing" ] || exit 0
if [ "$(id -u)" = 0 ] && command -v apt-get >/dev/null 2>&1; then
  export DEBIAN_FRONTEND=noninteractive
  apt-get update -qq
  # shellcheck disable=SC2086
  apt-get install -y -qq --no-install-recommends $missing >/dev/null
else
  echo "The tests need$missing. Install them first, for example: sudo apt-get install$missing" >&2
  exit 1
fi
