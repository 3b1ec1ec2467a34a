# Vadum's tasks. `make help` lists them; each sets up what it needs.
PYTHON ?= python3
BIN := .venv/bin
INSTALL = $(BIN)/uv pip install -q --compile-bytecode -p $(BIN)/python
JOBS ?= 3
CHROMIUM ?= $(shell command -v chromium || command -v chromium-browser || echo /usr/bin/chromium)

# Each of the many processes that the tests begin would otherwise compile the program anew.
unexport PYTHONDONTWRITEBYTECODE

.PHONY: help setup demo serve test quick check fix bench hostile shots docs assets lock method size postgres chromium

help:  ## this list
	@grep -hE '^[a-z]+:.*##' $(MAKEFILE_LIST) | sed 's/:.*## /\t/' | expand -t 10

$(BIN)/uv:
	$(PYTHON) -m venv .venv
	$(BIN)/python -m pip install -q --disable-pip-version-check uv

$(BIN)/.runtime: requirements/runtime.lock pyproject.toml | $(BIN)/uv
	$(INSTALL) --require-hashes -r requirements/runtime.lock
	$(INSTALL) --no-deps --no-build-isolation -e .
	@touch $@

$(BIN)/.dev: requirements/dev.lock $(BIN)/.runtime
	$(INSTALL) --require-hashes -r requirements/dev.lock
	@touch $@

setup: $(BIN)/.runtime  ## virtual environment with all that the application needs

demo: $(BIN)/.runtime  ## the application with the invented job, at a printed loopback address
	@$(BIN)/vadum demo $(ARGS)

serve: $(BIN)/.runtime  ## the application with your own data
	@$(BIN)/vadum serve $(ARGS)

chromium:
	@test -x "$(CHROMIUM)" || { echo "installing Chromium for the browser tests"; \
	  SUDO=$$(test "$$(id -u)" = 0 || echo sudo); \
	  $$SUDO apt-get update -qq && $$SUDO apt-get install -y -qq --no-install-recommends chromium >/dev/null; }

postgres:
	@ls /usr/lib/postgresql/*/bin/initdb >/dev/null 2>&1 || command -v initdb >/dev/null || { \
	  echo "installing PostgreSQL for the tests on both databases"; \
	  SUDO=$$(test "$$(id -u)" = 0 || echo sudo); \
	  $$SUDO apt-get update -qq && $$SUDO apt-get install -y -qq --no-install-recommends postgresql >/dev/null; }

test: $(BIN)/.dev chromium postgres  ## every test: core, tape, API and the real interface in headless Chromium
	CHROMIUM=$(CHROMIUM) $(BIN)/python -m pytest -n $(JOBS) --dist worksteal

quick: $(BIN)/.dev  ## the core's tests, in seconds
	$(BIN)/python -m pytest tests/soil src/vadum/soil

# Node comes with the development lock; what it brings is pinned in package-lock.json.
node_modules/.package-lock.json: package.json package-lock.json $(BIN)/.dev
	@PATH="$(CURDIR)/$(BIN):$$PATH" npm ci --silent --no-audit --no-fund
	@touch $@

check: $(BIN)/.dev node_modules/.package-lock.json  ## format, lint, types, import rules, styles and scripts
	$(BIN)/ruff format --check src tests benchmarks tools
	$(BIN)/ruff check src tests benchmarks tools
	$(BIN)/mypy
	$(BIN)/lint-imports --no-cache
	PATH="$(CURDIR)/$(BIN):$$PATH" npm run --silent check

fix: $(BIN)/.dev node_modules/.package-lock.json  ## format and mend what the linter can mend
	$(BIN)/ruff format src tests benchmarks tools
	$(BIN)/ruff check --fix src tests benchmarks tools
	PATH="$(CURDIR)/$(BIN):$$PATH" npm run --silent fix

hostile: $(BIN)/.dev postgres  ## attack the running program on loopback, in parts of ten minutes: kills, fuzz, files, crowds (ARGS="--help")
	$(BIN)/python -m tools.hostile $(ARGS)

judgement: $(BIN)/.dev  ## mistakes named at their level, clean runs accused wrongly (ARGS="--runs 5000")
	$(BIN)/python tools/judgement.py $(ARGS)

bench: $(BIN)/.dev postgres  ## measure; results are printed, not asserted
	$(BIN)/python -m benchmarks

docs: $(BIN)/.dev  ## write docs/methods from the methods' own texts
	$(BIN)/python tools/method_docs.py

shots: $(BIN)/.dev chromium  ## retake docs/screenshots on the frozen demo
	CHROMIUM=$(CHROMIUM) $(BIN)/python tools/shots.py

assets: $(BIN)/.dev  ## refresh the shipped scripts, styles and fonts (needs npm)
	$(INSTALL) fonttools brotli
	$(BIN)/python tools/refresh_assets.py

lock: $(BIN)/uv  ## pin what requirements/*.in ask for, without registry addresses
	cd requirements && for n in runtime dev; do ../$(BIN)/uv pip compile $$n.in --generate-hashes --python-version 3.11 \
	  --no-emit-index-url --no-emit-find-links --no-header --no-annotate -q -o $$n.lock; done

method: $(BIN)/.dev  ## NAME=x: lay out a new method's rooms, red until filled
	$(BIN)/python tools/new_method.py $(NAME)

size: $(BIN)/.dev  ## lines per room, and tests to code
	@$(BIN)/python tools/size.py
