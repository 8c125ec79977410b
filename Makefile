# Everything on a fresh machine with Go, Node and make: make demo, make test.
export CGO_ENABLED = 0
NPM = cd web && npm

.PHONY: demo build release check test faults fuzz bench bench-app format lint shots types clean deps

build: bin/boundcrate

web/node_modules/.package-lock.json: web/package.json web/package-lock.json
	# Not npm ci: it wants lock entries for the optional packages of every other
	# system, which not every registry serves. This keeps to the lock file too.
	$(NPM) install --no-save
	@touch $@

types: web/node_modules/.package-lock.json
	go run ./server/gen schema > web/schema.json
	go run ./server/gen client > web/src/api/acts.ts
	$(NPM) run --silent types

# The licences of all that ships, which the settings page links to.
web/public/licences.txt: web/node_modules/.package-lock.json go.mod $(wildcard cmd/licences/*.go)
	go run ./cmd/licences > $@.new && mv $@.new $@

web/dist/index.html: web/node_modules/.package-lock.json web/public/licences.txt web/index.html web/vite.config.ts $(shell find web/src -type f)
	$(NPM) run --silent build

bin/boundcrate: web/dist/index.html $(shell find cmd core store app server demo -name '*.go') go.mod
	go build -trimpath -o $@ ./cmd/boundcrate

demo: build
	bin/boundcrate demo

deps:
	@.ci/deps

# What takes seconds: layout, vet, the other systems, lint. Before every commit.
check: build
	@test -z "$$(gofmt -l app cmd core demo e2e server store web/*.go *.go)" || { echo "gofmt: run make format"; gofmt -l app cmd core demo e2e server store web/*.go *.go; exit 1; }
	go vet ./...
	@for on in windows/amd64 darwin/arm64; do echo "builds for $$on"; export GOOS=$${on%/*} GOARCH=$${on#*/} CGO_ENABLED=0; \
		go build -o /dev/null ./cmd/boundcrate && go vet ./app/... ./cmd/... ./core/... ./server/... ./store/... || exit 1; done
	$(NPM) run --silent lint

test: deps check
	@# The longest first: they run beside all else.
	go test -timeout 19m ./e2e ./core/mend/mend ./cmd/boundcrate ./...
	@# Data races, where a C compiler is: what runs several things at once.
	@if command -v cc >/dev/null; then CGO_ENABLED=1 go test -race -short -timeout 10m ./app/... ./server/... ./store ./core/disk/drive ./core/disk/index ./core/mend/mend ./core/road/trace ./core/pack/seal ./core/road/decide; else echo "no C compiler: not tested for data races"; fi

# Kills, races and full disks, as often as it takes to believe them. make test
# runs each a few times.
faults: deps build
	FAULTS=1 go test -count 1 -timeout 60m -run 'Sequences|Killed|Racing|Bombs|FullDisk|AllOrNone|Recover|DamagedEverywhere|NeverWrong' ./core/... ./app ./server ./store ./cmd/boundcrate

# Every reader of documents, bags and archives against bytes made by chance, for
# SECONDS each.
SECONDS ?= 60
fuzz:
	@for p in $$(grep -rl '^func Fuzz' --include=*_test.go core | xargs -n1 dirname | sort -u); do \
		for f in $$(grep -ho '^func Fuzz[A-Za-z]*' $$p/*_test.go | cut -c6-); do \
			echo "$$p $$f"; go test ./$$p -run '^$$' -fuzz "^$$f\$$" -fuzztime $(SECONDS)s || exit 1; \
		done; \
	done

# What people install: a binary for each system with the licences of all that is in it, the
# service and the desktop entry, and the sums of the archives.
VERSION ?= $(shell git describe --tags --always 2>/dev/null || echo dev)
release: web/dist/index.html
	@VERSION=$(VERSION) dist/release

# Everything as gofmt and Prettier lay it out.
format: web/node_modules/.package-lock.json
	gofmt -w app cmd core demo e2e server store web/*.go *.go
	$(NPM) run --silent format

lint: web/node_modules/.package-lock.json
	go vet ./...
	go tool staticcheck ./...
	$(NPM) run --silent lint

bench:
	go test -run '^$$' -bench . -benchtime 3x -timeout 60m ./core/... ./store ./app/... ./server/... ./cmd/boundcrate

# What the application does with a large project, in the browser: REFS references, MISSING files
# that lie elsewhere. 500000 and 20000 take some minutes.
REFS ?= 20000
MISSING ?= 4000
bench-app: build
	go test -count 1 -run 'TestScale|TestPaint' -timeout 60m -v ./e2e -refs $(REFS) -missing $(MISSING) -paint

shots: build
	go test -count 1 -run TestShots -timeout 10m ./e2e -shots ../docs/screenshots

clean:
	rm -rf bin web/dist/assets web/dist/index.html
