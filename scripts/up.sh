#!/usr/bin/env bash
# up.sh demo | run: start the database, serve, and stop both on Ctrl-C.
set -euo pipefail
here=$(cd "$(dirname "$0")/.." && pwd)
mode=$1
"$here/scripts/db.sh" start
# shellcheck disable=SC1090
. "$("$here/scripts/db.sh" env)"
command=serve
export NOTCHBACK_CLIPS=${NOTCHBACK_CLIPS:-$here/.clips/$mode}
if [ "$mode" = demo ]; then
  export NOTCHBACK_DATABASE_URL=$NOTCHBACK_DEMO_DATABASE_URL NOTCHBACK_OWNER_URL=$NOTCHBACK_DEMO_OWNER_URL
  command=demo
fi
unset NOTCHBACK_ADMIN_URL NOTCHBACK_DEMO_DATABASE_URL NOTCHBACK_DEMO_OWNER_URL
server=
finish() {
  trap - EXIT INT TERM HUP
  [ -z "$server" ] || { kill -TERM "$server" 2>/dev/null || true; wait "$server" 2>/dev/null || true; }
  "$here/scripts/db.sh" stop
}
trap 'finish; exit 0' INT TERM HUP
trap finish EXIT
[ "$command" = demo ] || "$here/bin/notchback" migrate
[ "$command" = demo ] || unset NOTCHBACK_OWNER_URL
"$here/bin/notchback" "$command" &
server=$!
wait "$server"
