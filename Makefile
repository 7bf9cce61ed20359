# make demo   the demo practice, ready to look at
# make test   everything that must hold
SHELL := /bin/bash
.ONESHELL:
.SHELLFLAGS := -euo pipefail -c
MAKEFLAGS += --no-print-directory
GO_FILES := $(shell find cmd core formats devices store app web -name '*.go' -o -name '*.sql' -o -name '*.yaml' 2>/dev/null)
UI_FILES := $(shell find ui/src ui/public ui/scripts ui/index.html ui/package.json ui/vite.config.ts ui/tsconfig.json -type f 2>/dev/null)
STATICCHECK := go tool -modfile=tools/staticcheck/go.mod staticcheck

.PHONY: sbom package package-check audit coverage demo run demo-reset build test test-env check generate format shots bench trials-engine faults fuzz mutate clean

demo: build
	@exec scripts/up.sh demo

run: build
	@exec scripts/up.sh run

demo-reset:
	@scripts/db.sh demo-reset
	rm -rf .clips/demo
	scripts/db.sh stop
	echo "The demo starts afresh with make demo."

build: bin/notchback

ui/node_modules/.installed: ui/package-lock.json
	@echo "Installing the front end's packages…"
	cd ui && npm ci --no-audit --no-fund --loglevel=error
	touch node_modules/.installed

web/webui/dist/index.html: ui/node_modules/.installed $(UI_FILES)
	@echo "Building the front end…"
	cd ui && npx --no -- vite build --logLevel warn
	touch ../web/webui/dist/index.html

bin/notchback: web/webui/dist/index.html $(GO_FILES) go.mod
	@echo "Building the server…"
	mkdir -p bin
	go build -o bin/notchback ./cmd/notchback

# Generated files: the OpenAPI document, the front end's types and its catalogues of texts.
generate: ui/node_modules/.installed
	@go run ./cmd/notchback openapi > openapi.json.new && mv openapi.json.new openapi.json
	go run ./cmd/notchback outlines > ui/src/api/outlines.json.new && mv ui/src/api/outlines.json.new ui/src/api/outlines.json
	cd ui
	npx --no -- openapi-typescript ../openapi.json -o src/api/schema.d.ts >/dev/null
	node scripts/limits.mjs
	node scripts/notices.mjs
	npx --no -- lingui extract --clean >/dev/null

format:
	@gofmt -w cmd core formats devices internal store app web e2e
	cd ui && npx --no -- biome check --write --log-level=error .

check: ui/node_modules/.installed
	@out=$$(gofmt -l cmd core formats devices internal store app web e2e); [ -z "$$out" ] || { echo "not formatted: $$out"; exit 1; }
	go vet ./...
	$(STATICCHECK) ./...
	(cd ui; npx --no -- biome check --error-on-warnings .; npx --no -- tsc --noEmit)
	cp openapi.json bin/openapi.before && cp ui/src/api/schema.d.ts bin/schema.before && cp ui/src/api/limits.ts bin/limits.before && cp ui/src/api/outlines.json bin/outlines.before && cp ui/public/notices.txt bin/notices.before && cp ui/src/locales/en.po bin/en.before && cp ui/src/locales/de.po bin/de.before
	$(MAKE) generate
	{ cmp openapi.json bin/openapi.before && cmp ui/src/api/schema.d.ts bin/schema.before && cmp ui/src/api/limits.ts bin/limits.before && cmp ui/src/api/outlines.json bin/outlines.before && cmp ui/public/notices.txt bin/notices.before && cmp ui/src/locales/en.po bin/en.before && cmp ui/src/locales/de.po bin/de.before; } || { echo "generated files were stale: commit what make generate wrote"; exit 1; }

test: build
	@scripts/packages.sh
	$(MAKE) check
	(cd ui; npx --no -- vitest run --silent)
	scripts/db.sh test-start
	trap 'scripts/db.sh test-stop' EXIT
	. "$$(scripts/db.sh test-env)"
	go test -count=1 -timeout 30m $$(go list ./... | grep -v /e2e$$)
	go test -count=1 -timeout 40m -parallel 3 ./e2e # alone: a browser and servers at work

# eval "$$(make -s test-env)" readies a shell for single tests.
test-env:
	@scripts/db.sh test-start
	cat "$$(scripts/db.sh test-env)"

shots: build
	@scripts/packages.sh
	scripts/db.sh test-start
	trap 'scripts/db.sh test-stop' EXIT
	. "$$(scripts/db.sh test-env)"
	NOTCHBACK_SHOTS=$(CURDIR)/docs/screenshots go test -v -count=1 -run 'TestScreenshots|TestPocketShots' ./e2e

# What things cost, first as ratios against the work under them, all in one run.
bench: build
	@scripts/db.sh test-start
	trap 'scripts/db.sh test-stop' EXIT
	. "$$(scripts/db.sh test-env)"
	NOTCHBACK_RATIOS=1 go test -v -count=1 -run TestRatios -timeout 20m ./web
	NOTCHBACK_RATIOS=1 go test -v -count=1 -run 'TestPagePaint|TestAHeldKey|TestPointsAreProposed' -timeout 40m ./e2e
	NOTCHBACK_RATIOS=1 go test -v -count=1 -run TestALargePractice -timeout 20m ./internal/keep
	go test -run xxx -bench . ./core/... ./app ./formats ./devices/sidecam

# A Debian package, and whether it installs, runs and goes.
package: build
	@scripts/package.sh build
package-check: build
	@scripts/package.sh check

# What the program is made of, as two lists in CycloneDX; the package brings them.
sbom: build
	@scripts/sbom.sh

# Known weaknesses of what the program is built on, where the data can be reached.
audit:
	@go build -modfile=tools/govulncheck/go.mod -o bin/govulncheck golang.org/x/vuln/cmd/govulncheck
	bin/govulncheck ./... || { [ $$? -eq 3 ] || echo "Go: not checked, its data could not be reached"; }
	cd ui && { npm audit --omit=dev || echo "npm: see above; where nothing is listed its data could not be reached: not checked"; }

# Two thousand drawn gaits a cell: how often a stated margin covers; writes docs/coverage.md.
coverage:
	NOTCHBACK_DRAWS=$${NOTCHBACK_DRAWS:-2000} go test -count=1 -timeout 90m -run TestStatedMarginsCover ./core/clip

# A million drawn histories of the engine, in slices that can be stopped and go on.
trials-engine:
	@scripts/trials.sh

# Three hundred killed servers, and every attack with nothing left out.
faults: build
	@scripts/packages.sh
	scripts/db.sh test-start
	trap 'scripts/db.sh test-stop' EXIT
	. "$$(scripts/db.sh test-env)"
	NOTCHBACK_KILLS=$${NOTCHBACK_KILLS:-300} go test -count=1 -timeout 60m -run 'TestKilledServers' -v ./app
	NOTCHBACK_WHOLE=1 go test -count=1 -timeout 60m -run TestWhateverIsTakenIn ./app
	NOTCHBACK_WHOLE=1 go test -count=1 -timeout 30m ./e2e/attack
	NOTCHBACK_WHOLE=1 go test -count=1 -timeout 30m -run 'TestTheFrameShownIsTheFrameNamed|TestScreenshots' ./e2e

# Every reader of what comes from outside, for FUZZTIME each.
FUZZTIME ?= 60s
fuzz:
	@for t in formats/FuzzReadRuns formats/FuzzRunXML formats/FuzzRunFIT formats/FuzzReadRunTable formats/FuzzDrawnTable formats/FuzzUnpack formats/FuzzTRC formats/FuzzDrawnTRC app/export/FuzzBundle app/export/FuzzStored; do
	  go test ./$$(dirname $$t) -run xxx -fuzz "^$$(basename $$t)\$$" -fuzztime $(FUZZTIME)
	done

# Mutants of the rule packages: which changes of the code no test notices.
MUTATE ?= load planning adjust safety screening transition measure
mutate:
	@mkdir -p bin/casecover
	go build -o bin/casecover/go ./tools/casecover
	go build -modfile=tools/gremlins/go.mod -o bin/gremlins github.com/go-gremlins/gremlins/cmd/gremlins
	export NOTCHBACK_REAL_GO="$$(command -v go)" PATH="$$PWD/bin/casecover:$$PATH"
	for p in $(MUTATE); do
	  echo "== core/$$p"
	  bin/gremlins unleash --tags "" --timeout-coefficient 15 ./core/$$p | tee bin/mutants-$$p.txt | tail -8
	done

clean:
	@rm -rf bin ui/node_modules/.installed web/webui/dist/assets web/webui/dist/index.html
