# The two commands of the README are the first two. Both set up what is missing and may be run again at any time.

GO      ?= go
UI       = ui/built/app/index.html
UI_FILES = $(shell find ui/src ui/index.html ui/package-lock.json ui/vite.config.ts ui/svelte.config.js -type f)
# What `huekeep version` says of the build, where the build is told nothing by git itself.
STAMP    = -ldflags "-s -w -X main.commit=$(shell git rev-parse --short=12 HEAD 2>/dev/null) -X main.built=$(shell git show -s --format=%cI HEAD 2>/dev/null)"
CORE     = ui/src/engine/core.wasm
CORE_GO  = go.mod $(shell find core cmd/corewasm -type f -not -name '*_test.go' -not -path '*/testdata/*')

.PHONY: ahead demo demo-fresh test test-race test-hard check check-ui lint lint-go lint-ui format bench bench-keep build setup setup-test generate generated test-cluster test-load test-night audit-deps fuzz mutate screenshots release test-release clean

## demo: install what is missing, build, start MariaDB on loopback, load the demo house, serve
demo: setup
	@$(MAKE) --no-print-directory --jobs 2 build
	./huekeep demo

demo-fresh: setup
	@$(MAKE) --no-print-directory --jobs 2 build
	./huekeep demo --fresh

## test: everything, from a fresh machine; nothing is skipped. Three packages at a time, since most wait for browsers and databases now and then
test: export CI = true
test: setup setup-test ui/node_modules/.package-lock.json $(CORE)
	$(MAKE) --no-print-directory --jobs 2 --output-sync lint-ui generated lint-go check-ui build
	@./huekeep gather core/manual/testdata/split.pdf >/dev/null # makes the engine for PDFs ready once, and not in each test
	@$(GO) run ./scripts/slowest $(GO) test -p 3 -vet=off -timeout 30m ./...

## test-race: the rules, the database and the server with the detector of races, which takes five times as long
test-race: setup setup-test $(CORE)
	$(GO) test -race -timeout 30m ./keep/... ./store/... ./server/...

## test-hard: what kills, fills and crowds, as often and as large as showed every defect that it is there for
test-hard: setup setup-test build
	HUEKEEP_HARD=1 $(GO) test -timeout 60m -count 1 ./store ./server ./cmd/huekeep

## check: the quick look of whoever is changing something: vet, and the tests of what was changed
check: ui/node_modules/.package-lock.json $(CORE)
	@scripts/check.sh

check-ui: ui/node_modules/.package-lock.json $(CORE)
	cd ui && npm run --silent check && npm run --silent test

## lint: vet and staticcheck (pinned in go.mod) on what is written by hand, prettier and eslint on the interface
lint: lint-go lint-ui

lint-go:
	$(GO) vet ./...
	@scripts/lint.sh

lint-ui: ui/node_modules/.package-lock.json
	cd ui && npm run --silent lint

## format: what lint wants
format: ui/node_modules/.package-lock.json
	find . -name '*.go' -not -path '*/node_modules/*' -exec gofmt -w {} +
	cd ui && npm run --silent format

## test-cluster: two instances on a Galera cluster for five minutes, with a node and an instance killed
test-cluster: setup setup-test build
	HUEKEEP_CLUSTER_SECONDS=300 $(GO) test -timeout 15m -count 1 -run BeyondOneMachine -v ./cmd/huekeep

## test-load: an hour of thirty people, audits and pickups; ten minutes of kills of the program and its database, ten with the store of files away
test-load: setup setup-test build
	HUEKEEP_LOAD_SECONDS=3600 HUEKEEP_KILL_SECONDS=600 HUEKEEP_AWAY_SECONDS=600 $(GO) test -timeout 110m -count 1 -run 'MixedLoad|AreKilled|FilesIsAway' -v ./cmd/huekeep

## test-night: a tenth of that for twelve hours
test-night: setup setup-test build
	HUEKEEP_LOAD_SECONDS=43200 HUEKEEP_LOAD_PEOPLE=3 $(GO) test -timeout 13h -count 1 -run MixedLoad -v ./cmd/huekeep

## audit-deps: known weaknesses of what it is built from; says so where the lists cannot be reached
audit-deps: ui/node_modules/.package-lock.json
	@scripts/audit-deps.sh

## bench: speed as ratios measured in one run
bench: build
	@{ $(BENCH); } | $(GO) run ./scripts/benchtable docs/bench.txt

## bench-keep: what is stated now is what later runs are held against
bench-keep: build
	@{ $(BENCH); } | $(GO) run ./scripts/benchtable -keep docs/bench.txt

BENCH = $(GO) test -run '^$$' -bench . -benchtime 3x ./core/... ./cmd/huekeep ./keep/... ./e2e; $(GO) test -run '^$$' -bench . -benchtime 2s ./server

build: ahead $(UI)
	$(GO) build $(STAMP) -o huekeep ./cmd/huekeep

# What the program is made of but for the page, which is built meanwhile where make does two things at a time.
ahead:
	@$(GO) build $$($(GO) list -e -deps ./cmd/huekeep | grep -v '^huekeep/\(ui\|server\|cmd\)')

$(UI): ui/node_modules/.package-lock.json $(CORE) $(UI_FILES)
	cd ui && npm run --silent build -- --logLevel warn
	@touch $@

# The core for the browser, with Go's own loader and the presses beside it.
$(CORE): $(CORE_GO)
	GOOS=js GOARCH=wasm $(GO) build -trimpath -ldflags '-s -w' -o $@ ./cmd/corewasm
	cp "$$($(GO) env GOROOT)/lib/wasm/wasm_exec.js" ui/src/engine/
	$(GO) run ./cmd/corewasm/presses ui/src/engine

ui/node_modules/.package-lock.json: ui/package.json ui/package-lock.json
	cd ui && npm ci --no-audit --no-fund --loglevel error
	@touch $@

## setup: MariaDB, from Debian's packages
setup:
	@scripts/setup.sh mariadb

## setup-test: what the tests compare with: Chromium, lcms2, LibreOffice
setup-test:
	@scripts/setup.sh test

## generate: the Go and TypeScript sides of api/openapi.yaml, and the licenses of the code that ships
generate: ui/node_modules/.package-lock.json
	$(GO) tool oapi-codegen -config api/go.yaml api/openapi.yaml
	cd ui && npm run --silent types
	$(GO) run ./cmd/corewasm/types >ui/src/lib/engine.gen.ts
	$(GO) run ./scripts/notices >ui/notices-code.txt

## generated: fails if the generated files are not current
generated: ui/node_modules/.package-lock.json
	@scripts/generated.sh

## fuzz: every fuzz target for a short while
fuzz:
	@scripts/fuzz.sh

## mutate: breaks lines of the rules, one at a time, and says how many the tests of their packages notice, and which not
mutate:
	$(GO) run ./scripts/mutate $(MUTATE) ./core/color ./core/contrast ./core/press ./core/library ./core/repaint
	$(GO) run ./scripts/mutate $(MUTATE) -also ./core/audit/kinds ./core/audit

## screenshots: the pictures of docs/screenshots, from a demo of their own
screenshots: setup setup-test build
	@scripts/screenshots.sh

## release: what one installs, of the last commit, into dist: Debian packages, archives, an image, the bill of materials, checksums
release:
	@scripts/release.sh dist

## test-release: installs it in a Debian of its own, upgrades, restores, removes and purges it; as root, some ten minutes
test-release:
	@scripts/setup.sh release
	@scripts/test-release.sh

clean:
	rm -rf dist huekeep ui/built/app ui/node_modules $(CORE) ui/src/engine/wasm_exec.js ui/src/engine/*.icc
