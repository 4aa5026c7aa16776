# Yard Bloom. `make demo` needs only Go; `make test` installs everything else it needs.
export CGO_ENABLED = 0
SHELL = bash

.PHONY: demo test checks race attack replica build release assets bench bench-browser fuzz mutate screenshots

demo: ## start the app with demo data on 127.0.0.1:8417
	go run ./cmd/yardbloom demo

build: ## one static binary
	go build -trimpath -ldflags '-s -w' ./cmd/yardbloom

release: ## static binaries and checksums in dist/
	./scripts/release

test: ## install what tests need, then run all checks and tests
	./scripts/need-test-tools
	@TIMEFORMAT='CPU time: %U s user, %S s system'; time $(MAKE) --no-print-directory checks

checks:
	@test -z "$$(gofmt -l .)" || { gofmt -l .; echo 'These files are not formatted: gofmt -w .'; exit 1; }
	go mod tidy -diff
	go vet ./...
	go tool staticcheck ./...
	./scripts/check-assets
	./scripts/lint-assets
	go test -vet=off -ldflags=-w -timeout 60m ./...

race: ## tests of concurrent code with the race detector
	./scripts/need-test-tools
	CGO_ENABLED=1 go test -race -short -timeout 60m ./store ./web ./web/brew ./web/rush ./web/stream ./web/people ./yard ./live ./device ./core/brew \
		./core/forecast ./demo ./broadcast ./cmd/yardbloom

attack: ## try to make the program lose data; prints attempts and losses
	./scripts/need-test-tools
	go run ./e2e/attack

replica: ## replicate under write load, kill, restore, and count lost writes; the engine is installed outside go.mod
	GOBIN=$(CURDIR)/dist/tools go install github.com/benbjohnson/litestream/cmd/litestream@v0.5.18
	go run ./e2e/replica -engine $(CURDIR)/dist/tools/litestream

assets: ## build web/static from web/assets
	npm install --no-save --no-audit --no-fund
	./scripts/build-assets
	cp node_modules/axe-core/axe.min.js e2e/testdata/axe.min.js

bench: ## benchmarks of the core and of the pages
	go test -run '^$$' -bench . -benchmem ./core/... ./device/... ./web/...

bench-browser: ## time until each station can be used, on a processor that is four times slower
	./scripts/need-test-tools
	go test -run '^$$' -bench Browser -benchtime 11x ./e2e

fuzz: ## half a minute of each fuzz test, and 10,000 histories of two tablets and a scale
	go test -run '^$$' -fuzz FuzzParseNumber -fuzztime 30s ./core/units
	go test -run '^$$' -fuzz FuzzParse$$ -fuzztime 30s ./core/units
	go test ./core/brew -run 'ScaleAgree|EventsAgree' -histories 10000 -timeout 0
	go test -run '^$$' -fuzz FuzzTaps -fuzztime 30s ./core/brew
	go test -run '^$$' -fuzz FuzzLateTaps -fuzztime 30s ./core/brew
	go test -run '^$$' -fuzz FuzzScaleEventsAndTaps -fuzztime 30s ./core/brew
	go test -run '^$$' -fuzz FuzzRun -fuzztime 30s ./core/sim
	go test -run '^$$' -fuzz FuzzParse -fuzztime 30s ./device
	go test -run '^$$' -fuzz FuzzReadRecipe -fuzztime 30s ./exchange
	go test -run '^$$' -fuzz FuzzReadAny -fuzztime 30s ./exchange
	go test -run '^$$' -fuzz FuzzRead -fuzztime 30s ./exchange/photo
	go test ./web -run ImportedRecords -mutations 300 -timeout 0

mutate: ## mutation tests of parts of the core
	./scripts/mutate

screenshots: ## docs/screenshots from the demo data, with a stopped clock
	./scripts/need-test-tools
	go run ./e2e/screenshots
