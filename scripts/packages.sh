#!/usr/bin/env bash
# Installs the Debian packages the tests need, where they are missing: Chromium
# for the browser, a general GPS converter to check the run files against, ffmpeg
# to write and look at clips, bubblewrap to keep it to its file, nginx for the proxy of
# the guide, libheif to write photos as phones take them and to read them.
set -euo pipefail
need=()
[ -x /usr/bin/chromium ] || need+=(chromium)
[ -x /usr/bin/gpsbabel ] || need+=(gpsbabel)
[ -x /usr/bin/ffmpeg ] || need+=(ffmpeg)
[ -x /usr/bin/bwrap ] || need+=(bubblewrap)
[ -x /usr/bin/heif-enc ] || need+=(libheif-examples)
[ -x /usr/sbin/nginx ] || need+=(nginx-light)
[ ${#need[@]} -gt 0 ] || exit 0
[ "$(id -u)" = 0 ] || { echo "notchback: missing ${need[*]}; as root: apt-get install ${need[*]}" >&2; exit 1; }
echo "Installing ${need[*]} from Debian's packages…"
export DEBIAN_FRONTEND=noninteractive RUNLEVEL=1 # nothing is started
apt-get install -y -q --no-install-recommends "${need[@]}" >/dev/null 2>&1 ||
  { apt-get update -q >/dev/null && apt-get install -y -q --no-install-recommends "${need[@]}" >/dev/null; }
