# Two commands do everything: `make demo` and `make test`.
.PHONY: demo large run test check bench fuzz torture shots types setup

PAGE := $(shell find web/src web/public -type f 2>/dev/null) web/index.html web/vite.config.ts web/package-lock.json

# Serves the demo production; the address is the last line.
demo: setup web/dist/index.html
	@cargo build --release --quiet --bin metaxis --bin metaxis-reader --bin metaxis-confine --bin metaxis-shoot
	@exec scripts/demo.sh

# Serves a simulated day at the size of a real one: make large [CLIPS=400]
large: setup web/dist/index.html
	@cargo build --release --quiet --bin metaxis --bin metaxis-reader --bin metaxis-confine --bin metaxis-shoot
	@CLIPS="$(or $(CLIPS),400)" exec scripts/large.sh

# Serves a production of your own: make run MEDIA=/path/of/cards [DATA=/path/of/production]
MEDIA ?= $(HOME)
DATA ?= var/production
run: setup web/dist/index.html
	@cargo build --release --quiet --bin metaxis --bin metaxis-reader --bin metaxis-confine
	@exec target/release/metaxis serve --data "$(DATA)" --root "$(MEDIA)"

setup:
	@scripts/setup.sh run

web/dist/index.html: $(PAGE)
	@scripts/setup.sh run
	@cd web && npm run --silent build -- --logLevel warn
	@touch web/dist/index.html

# Every check, the browser tests among them. What only another build could use is not kept.
test: export CARGO_INCREMENTAL := 0
test:
	@scripts/setup.sh test
	@$(MAKE) --no-print-directory web/dist/index.html
	cd web && npm run --silent check && npm run --silent lint && node scripts/bundle-size.js
	cargo fmt --all --check
	cargo clippy --locked --workspace --all-targets --quiet -- -D warnings
	cargo test --workspace --quiet

# Writes web/src/api/types.ts from the server's types.
types:
	METAXIS_WRITE_TYPES=1 cargo test --quiet --workspace --test api_types

# Measures and prints: playback of four angles over a minute, and the sync of the demo against its truth.
bench: web/dist/index.html
	@scripts/setup.sh test
	@cargo build --release --quiet --workspace
	@scripts/bench.sh

# A million cases for each reader of our own: iXML, RIFF chunks, probe answers, slate logs, timecode.
fuzz:
	PROPTEST_CASES=1000000 cargo test --release -p metaxis-core -p metaxis-media --test all hostile::

# What days on a set do to a server, for half an hour: kills, power cuts (where mounting is allowed), 500 mutated
# files, slow connections, ends at any moment. Prints what was tried, lost and hung.
torture:
	@scripts/setup.sh run
	@$(MAKE) --no-print-directory web/dist/index.html
	@cargo build --release --quiet --workspace
	@target/release/metaxis-torture target/release/metaxis

# Retakes docs/screenshots from the demo data.
shots: web/dist/index.html
	@scripts/setup.sh test
	@cargo build --release --quiet --workspace
	@scripts/shots.sh
