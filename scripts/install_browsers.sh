#!/bin/sh
# Installs Chromium with its driver, and Firefox, from the system's packages, where they are missing.
# With --optional, a machine without them is no error: the parts that work on snapshots still run.
optional=${1:-}
missing=""
command -v chromium >/dev/null 2>&1 || command -v chromium-browser >/dev/null 2>&1 || missing="chromium"
command -v chromedriver >/dev/null 2>&1 || missing="$missing chromium-driver"
command -v firefox-esr >/dev/null 2>&1 || command -v firefox >/dev/null 2>&1 || missing="$missing firefox-esr"
[ -z "$missing" ] && exit 0

give_up() {
  echo "Browsers are missing ($missing) and $1. Install them, as root: apt-get install$missing" >&2
  [ "$optional" = "--optional" ] && exit 0
  exit 1
}

command -v apt-get >/dev/null 2>&1 || give_up "this machine has no apt-get"
if [ "$(id -u)" = 0 ]; then
  as_root=""
elif command -v sudo >/dev/null 2>&1 && sudo -n true 2>/dev/null; then
  as_root="sudo -n"
else
  give_up "installing them needs root, or sudo without a password"
fi
echo "Installing$missing (once) ..."
log=$(mktemp)
trap 'rm -f "$log"' EXIT
export DEBIAN_FRONTEND=noninteractive
$as_root apt-get update -qq >"$log" 2>&1
# shellcheck disable=SC2086
$as_root apt-get install -y -qq --no-install-recommends $missing fonts-dejavu-core >>"$log" 2>&1 || {
  tail -5 "$log" >&2
  give_up "apt-get could not install them"
}
