# Everything runs with Go alone; "make css", "make icons" and "make compare" need Node as well.
GO ?= go
PORT ?= 8080
LINKS ?= 127.0.0.1:8081
DATA ?= data/demo

# These save a sixth of a first build. Under the tag the drawing library does without a typesetting
# system for formulas, which no map has; the others leave out what only debuggers read, and C.
export GOFLAGS += -tags=latex -gcflags=all=-dwarf=false -ldflags=-w
export CGO_ENABLED ?= 0

.PHONY: build demo test soak check css icons symbols bench against compare profile profile-open screenshots attack load race races release clean

build: ## the program, with the browser core inside it
	@test -x bin/plaintracer || echo "building the program and the core for the browser: a minute or so the first time"
	@# What the program needs beside the core is compiled at the same time, which keeps all processors busy.
	@GOGC=400 $(GO) build ./store ./exchange/... github.com/gofiber/fiber/v3 & GOGC=400 $(GO) run ./tools/browsercore; done=$$?; wait; exit $$done
	@GOGC=400 $(GO) build -o bin/plaintracer ./cmd/plaintracer

release: ## single files for Linux, macOS and Windows, in bin/release
	@$(GO) run ./tools/browsercore -release
	@for target in linux/amd64 linux/arm64 darwin/amd64 darwin/arm64 windows/amd64; do \
		os=$${target%/*}; arch=$${target#*/}; end=; [ $$os = windows ] && end=.exe; \
		echo "building for $$os on $$arch"; \
		CGO_ENABLED=0 GOOS=$$os GOARCH=$$arch $(GO) build -trimpath -ldflags "-s -w" -o bin/release/plaintracer-$$os-$$arch$$end ./cmd/plaintracer || exit 1; \
	done

demo: build ## build and start with the demo maps
	@./bin/plaintracer demo --data $(DATA) --listen 127.0.0.1:$(PORT) --links $(LINKS)

test: build check ## everything, of what is made up a shorter run
	@./tools/need-programs.sh
	@$(MAKE) --no-print-directory races
	@# The tests in the browser take longest, and begin first.
	$(GO) test -short -timeout 30m ./e2e ./...

soak: build ## all tests at length: what is made up is made up several times as often, and presentations are opened by an office program
	@./tools/need-programs.sh soffice
	$(GO) test -timeout 60m ./...

check: ## formatting, vet, staticcheck, the style sheet against its sources, types of the scripts
	@test -z "$$(gofmt -l .)" || { echo "gofmt would change:"; gofmt -l .; exit 1; }
	$(GO) vet ./...
	$(GO) tool staticcheck ./...
	@./tools/check-web.sh

css: ## build the style sheet and the scripts (needs Node)
	@cd web && npm install --silent && npx @tailwindcss/cli -i styles/app.css -o static/app.css --minify && ../tools/scripts.sh static/js

icons: ## gather the icons and scripts that ship, and the accessibility check of the tests (needs Node)
	@cd web && npm install --silent
	@node tools/icons/icons.mjs
	@cp web/node_modules/htmx.org/dist/htmx.min.js web/static/lib/htmx.min.js
	@cp web/node_modules/axe-core/axe.min.js e2e/testdata/axe.min.js
	@cp web/node_modules/@alpinejs/csp/dist/cdn.min.js web/static/lib/alpine-csp.min.js

symbols: ## the reference of all symbols in docs, from the catalogue
	@$(GO) run ./tools/symbolbook

attack: build ## attack the program at length: about an hour (docs/security.md)
	$(GO) test ./attack -v -timeout 3h -long -rounds 4000 -drops 2000 -wire 1000000 -kills 200 -kept 20000 -files 3000

race: build ## everything that can run there, under the race detector: about an hour
	CGO_ENABLED=1 $(GO) test -race -timeout 2h ./background ./mail ./account/... ./core/... ./exchange/... ./store ./web

races: ## a short part of it: what several do at once, in the core, the store and the application
	CGO_ENABLED=1 $(GO) test -race -timeout 15m -run AtOnce ./core/fields ./core/edit ./store ./web

load: build ## crowds on many maps over real sockets: how soon others see an edit, and what the server takes (docs/operate.md)
	$(GO) test ./attack -run TestALoad -v -windows 1000 -maps 200 -rate 100 -seconds 30 -remarks 0 -comers 0 -exporters 0
	$(GO) test ./attack -run TestALoad -v -windows 4000 -maps 200 -rate 940 -seconds 30 -remarks 0 -comers 0 -exporters 0
	$(GO) test ./attack -run TestALoad -v -windows 1000 -maps 200 -rate 100 -seconds 30 -remarks 5 -comers 20 -exporters 1

bench: build ## the speed and memory targets
	@./tools/need-programs.sh
	$(GO) test -run '^$$' -bench . ./...

PACKAGES ?= core/editor core/routing core/layout
against: ## an older commit beside this tree, in turn: make against REF=commit BENCH=pattern PACKAGES="core/routing e2e"
	@$(GO) run ./tools/against -ref $(REF) -bench '$(BENCH)' $(PACKAGES)

compare: ## docs/benchmarks.md: our drawings beside those of two layout libraries (needs Node)
	@cd bench/peers && npm install --silent --no-package-lock
	@$(GO) run ./bench/compare >docs/benchmarks.new && mv docs/benchmarks.new docs/benchmarks.md

profile: ## what the browser core spends its time on, by which its compiler decides what to inline
	@dir=$$(mktemp -d); trap 'rm -rf $$dir' EXIT; set -e; \
	$(GO) test -run '^$$' -bench 'DragFifty|Paste' -cpuprofile $$dir/a -o $$dir/test ./core/editor >/dev/null; \
	$(GO) test -run '^$$' -bench Route -cpuprofile $$dir/b -o $$dir/test ./core/routing >/dev/null; \
	$(GO) tool pprof -proto -focus core/routing -output $$dir/c $$dir/a $$dir/b >/dev/null 2>&1; \
	$(GO) run ./tools/profile <$$dir/c >cmd/editor/default.pgo

SYMBOLS ?= 200
profile-open: build ## where the time goes from opening a sheet to the first answer, and which functions a drag spends its time in
	$(GO) test ./e2e -count=1 -run TestOpeningIsMarked -v -opened $(SYMBOLS)
	CORE_NAMES=1 $(GO) test ./e2e -run '^$$' -bench 'Drag(Fifty)?InTheBrowser/aligned' -benchtime 1x -functions 40

screenshots: build ## the pictures in docs, from a demo of its own
	@./tools/screenshots.sh

clean:
	rm -rf bin data web/node_modules web/core/*.wasm.br web/core/wasm_exec.js web/core/stamp.txt
