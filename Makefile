# Yard Bloom. `make demo` needs Go alone; `make test` installs what else it needs.
export CGO_ENABLED = 0

.PHONY: demo test race attack build release assets check-assets bench fuzz screenshots

demo: ## start the app with the demo yard on 127.0.0.1:8417
	go run ./cmd/yardbloom demo

build: ## one static binary
	go build -trimpath -ldflags '-s -w' ./cmd/yardbloom

release: ## static binaries for every system in dist/, with their checksums
	./scripts/release

test: ## install what tests need, then every check and test
	./scripts/need-test-tools
	@test -z "$$(gofmt -l .)" || { gofmt -l .; echo 'These files are not formatted: gofmt -w .'; exit 1; }
	go mod tidy -diff
	go vet ./...
	go tool staticcheck ./...
	./scripts/check-assets
	go test -timeout 60m ./...

race: ## the tests of what runs side by side, with the race detector
	./scripts/need-test-tools
	CGO_ENABLED=1 go test -race -short -timeout 60m ./store ./web ./live ./device ./core/brew

attack: ## kill it, answer in its place, send it rubbish; prints what was tried and lost
	./scripts/need-test-tools
	go run ./e2e/attack

assets: ## build web/static from web/assets
	npm install --no-save --no-audit --no-fund
	./scripts/build-assets
	cp node_modules/axe-core/axe.min.js e2e/testdata/axe.min.js

bench: ## benchmarks of the core and of the pages
	go test -run '^$$' -bench . -benchmem ./core/... ./device/... ./web/...

fuzz: ## half a minute of each fuzz test
	go test -run '^$$' -fuzz FuzzParseNumber -fuzztime 30s ./core/units
	go test -run '^$$' -fuzz FuzzParse$$ -fuzztime 30s ./core/units
	go test -run '^$$' -fuzz FuzzAnyTouches -fuzztime 30s ./core/brew
	go test -run '^$$' -fuzz FuzzLateTouches -fuzztime 30s ./core/brew
	go test -run '^$$' -fuzz FuzzAnySights -fuzztime 30s ./core/brew
	go test -run '^$$' -fuzz FuzzRun -fuzztime 30s ./core/sim
	go test -run '^$$' -fuzz FuzzParse -fuzztime 30s ./device
	go test -run '^$$' -fuzz FuzzReadRecipe -fuzztime 30s ./exchange
	go test -run '^$$' -fuzz FuzzReadAny -fuzztime 30s ./exchange

screenshots: ## docs/screenshots from the demo data, with a clock that stands
	./scripts/need-test-tools
	go run ./e2e/screenshots
