#!/usr/bin/env bash
# package.sh build | check: a Debian package of bin/notchback; check installs it in a clean
# root and runs what it brought, and asks systemd and nginx what they make of their files.
set -euo pipefail
cd "$(dirname "$0")/.."
ARCH=$(go env GOARCH)
VERSION=${NOTCHBACK_VERSION:-0.$(git log -1 --format=%cd --date=format:%Y%m%d 2>/dev/null || echo 0)}
export ARCH VERSION
deb=bin/notchback_${VERSION}_${ARCH}.deb
build() {
  scripts/sbom.sh >/dev/null
  [ -x bin/nfpm ] || go build -modfile=tools/nfpm/go.mod -o bin/nfpm github.com/goreleaser/nfpm/v2/cmd/nfpm
  bin/nfpm package --config deploy/nfpm.yaml --packager deb --target "$deb" >/dev/null
  echo "$deb"
}
check() {
  root=$(mktemp -d)
  trap 'rm -rf "$root"' EXIT
  mkdir -p "$root"/var/lib/dpkg/{info,updates} "$root/usr/bin"
  touch "$root"/var/lib/dpkg/{status,available}
  # No script of it runs here: what it does is a user and a reload. Its dependencies are this machine's.
  dpkg --root="$root" --force-not-root --force-depends --unpack "$deb" >/dev/null 2>&1
  dpkg --root="$root" -s notchback | grep '^Version: '"$VERSION" >/dev/null # all of it is read: with -q the writer may end by a broken pipe
  test "$(stat -c %a "$root/etc/notchback/notchback.conf.dpkg-new")" = 640
  "$root/usr/bin/notchback" config --config="$root/etc/notchback/notchback.conf.dpkg-new" | grep '^NOTCHBACK_CLIPS=/var/lib/notchback/clips' >/dev/null
  "$root/usr/bin/notchback" openapi >"$root/openapi.json"
  cmp -s "$root/openapi.json" openapi.json
  grep -q '"bomFormat": "CycloneDX"' "$root/usr/share/doc/notchback/sbom/server.cdx.json"
  sh -n deploy/postinstall.sh
  if command -v systemd-analyze >/dev/null; then
    sed "s|/usr/bin/notchback|$root/usr/bin/notchback|" deploy/notchback.service >"$root/notchback.service"
    systemd-analyze verify --man=no "$root/notchback.service" 2>&1 | grep -i "notchback" && exit 1 || true
    systemd-analyze security --offline=true "$root/notchback.service" 2>/dev/null | tail -1
  else
    echo "not checked: systemd is not here"
  fi
  dpkg --root="$root" --force-not-root --force-depends --purge notchback >/dev/null 2>&1
  test ! -e "$root/usr/bin/notchback"
  echo "the package installs, runs and goes"
}
case "${1:-}" in
build) build ;;
check) build && check ;;
*) sed -n '2,3s/^# \{0,1\}//p' "$0"; exit 2 ;;
esac
