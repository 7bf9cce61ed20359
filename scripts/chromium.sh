#!/usr/bin/env bash
# Installs Debian's Chromium for the browser tests where it is missing.
set -euo pipefail
[ ! -x /usr/bin/chromium ] || exit 0
[ "$(id -u)" = 0 ] || { echo "notchback: Chromium is missing; as root: apt-get install chromium" >&2; exit 1; }
echo "Installing Chromium from Debian's packages…"
export DEBIAN_FRONTEND=noninteractive
apt-get install -y -q --no-install-recommends chromium >/dev/null 2>&1 ||
  { apt-get update -q >/dev/null && apt-get install -y -q --no-install-recommends chromium >/dev/null; }
