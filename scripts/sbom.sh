#!/usr/bin/env bash
# sbom.sh: what bin/notchback is made of, as two lists in CycloneDX: the modules that are
# really linked into the server, and the packages its interface is built from.
set -euo pipefail
cd "$(dirname "$0")/.."
mkdir -p bin/sbom
[ -x bin/cyclonedx ] || go build -modfile=tools/cyclonedx/go.mod -o bin/cyclonedx github.com/CycloneDX/cyclonedx-gomod/cmd/cyclonedx-gomod
bin/cyclonedx bin -json -std -output bin/sbom/server.cdx.json bin/notchback >/dev/null 2>&1
(cd ui; npm sbom --omit dev --sbom-format cyclonedx 2>/dev/null) >bin/sbom/interface.cdx.json
for want in server:jackc/pgx server:gin-gonic/gin interface:react-dom interface:radix-ui; do
  grep -q "\"purl\": \"pkg:[a-z]*/[^\"]*${want#*:}@\?" "bin/sbom/${want%%:*}.cdx.json" || { echo "${want#*:} is missing from the list of the ${want%%:*}" >&2; exit 1; }
done
if grep -q '"pkg:npm/vite@' bin/sbom/interface.cdx.json; then echo "a tool stands among what ships" >&2; exit 1; fi
echo "bin/sbom: $(grep -c '"purl"' bin/sbom/server.cdx.json) modules, $(grep -c '"purl"' bin/sbom/interface.cdx.json) packages"
