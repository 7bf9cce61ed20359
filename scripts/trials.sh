#!/usr/bin/env bash
# trials.sh: live drawn histories of the engine, slice by slice, from where the
# last run stopped; then the histories through PostgreSQL. Ctrl-C stops it, the
# next start goes on. Delete bin/trials to begin again.
set -euo pipefail
here=$(cd "$(dirname "$0")/.." && pwd)
cd "$here"
to=${NOTCHBACK_TRIALS:-1000000}
slice=${NOTCHBACK_SLICE:-5000}
mkdir -p bin
done=$(cat bin/trials 2>/dev/null || echo 0)
go test -c -o bin/course.trials ./core/course
while [ "$done" -lt "$to" ]; do
  end=$((done + slice < to ? done + slice : to))
  NOTCHBACK_TRIALS_FROM=$done NOTCHBACK_TRIALS_TO=$end bin/course.trials -test.run '^TestTheMachine$' -test.timeout 0 >bin/trials.log || { grep -E 'seed|panic' bin/trials.log | head -40; exit 1; }
  done=$end
  echo "$done" >bin/trials
  echo "$done of $to histories hold"
done
scripts/db.sh test-start
trap 'scripts/db.sh test-stop' EXIT
# shellcheck disable=SC1090
. "$(scripts/db.sh test-env)"
NOTCHBACK_HISTORIES=500 go test -count=1 -timeout 0 -run Histor ./app
echo "500 histories through PostgreSQL equal the pure run"
