# Two commands: `make run` sets everything up and opens Halvex; `make test` sets everything up and tests it.
PYTHON ?= python3.11
BIN := .venv/bin
UNITTEST := $(BIN)/python -m unittest
BEHIND := nice -n 15
MINUTES ?= 10
CI_FUZZ_MINUTES ?= 2
CI_FUZZ_SEED ?= 20000
LOCK := --quiet --python-version 3.11 --generate-hashes --no-header --no-emit-index-url

.PHONY: run setup kernels setup-test chromium test test-screen test-core-a-o test-core-p-z test-bounds test-fuzz fuzz soak lock bench lint schema clean

# The page opens at once and shows how far the kernels are, which the server compiles.
run:
	$(MAKE) --no-print-directory --jobs 2 .venv/ready halvex/web/static/index.html
	$(BIN)/halvex serve --demo --open

# Python packages, npm and the page's build side by side; kernels are compiled as soon as their packages are there.
setup:
	$(MAKE) --no-print-directory --jobs 2 kernels halvex/web/static/index.html

kernels: .venv/ready
	$(BIN)/halvex compile

.venv/ready: requirements.txt pyproject.toml
	test -x $(BIN)/python || $(PYTHON) -m venv .venv
	$(BIN)/pip install --quiet --disable-pip-version-check --require-hashes -r requirements.txt
	$(BIN)/pip install --quiet --disable-pip-version-check --no-deps --editable .
	touch $@

frontend/node_modules/ready: frontend/package.json frontend/package-lock.json
	cd frontend && npm ci --no-audit --no-fund
	touch $@

halvex/web/static/index.html: frontend/node_modules/ready $(shell find frontend/src frontend/public -type f) frontend/index.html frontend/vite.config.ts
	cd frontend && npm run --silent build
	touch $@

# Types of the front end, made anew from the server's models. They are kept in the repository.
schema: .venv/ready frontend/node_modules/ready
	mkdir -p build
	$(BIN)/python -c "import json; from halvex.web.openapi import openapi; print(json.dumps(openapi()))" > build/openapi.json
	cd frontend && npm run --silent types

.venv/ready-test: .venv/ready requirements-dev.txt
	$(BIN)/pip install --quiet --disable-pip-version-check --require-hashes -r requirements-dev.txt
	touch $@

# Packages of the tests and Chromium come while kernels are compiled.
setup-test:
	$(MAKE) --no-print-directory --jobs 3 kernels halvex/web/static/index.html .venv/ready-test chromium

chromium:
	test -x /usr/bin/chromium || (apt-get update -qq && DEBIAN_FRONTEND=noninteractive apt-get install -y -qq chromium)

# Two parts at a time: what waits for pictures, which leaves the machine idle most of the time, goes before the
# rest, which computes.
test: setup-test
	$(MAKE) --no-print-directory --jobs 2 --output-sync=target test-screen lint test-core-p-z test-core-a-o test-fuzz test-bounds

test-screen:
	$(UNITTEST) tests/browser/test_*.py
	$(UNITTEST) $(filter-out tests/test_corpus.py,$(wildcard tests/test_*.py)) tests/studio/test_*.py tests/web/test_*.py

test-core-p-z:
	$(BEHIND) $(UNITTEST) tests/core/test_[p-z]*.py

test-core-a-o:
	$(BEHIND) $(UNITTEST) tests/core/test_[a-o]*.py

test-fuzz:
	$(BEHIND) $(UNITTEST) tests/test_corpus.py
	$(BEHIND) $(BIN)/python tools/fuzz.py --minutes $(CI_FUZZ_MINUTES) --patient --seed $(CI_FUZZ_SEED)

test-bounds:
	NUMBA_BOUNDSCHECK=1 $(BEHIND) $(UNITTEST) tests/core/test_solids.py tests/core/test_forms.py

# Hostile input of every kind; what breaks something is kept in tests/corpus.
fuzz: setup-test
	$(BIN)/python tools/fuzz.py --minutes $(MINUTES)

# Kills, races, full disks and silent windows, for about half an hour.
soak: setup-test
	$(BIN)/python tools/soak.py

# Pins what pyproject.toml asks for, and what that needs in turn.
lock: .venv/ready-test
	$(BIN)/uv pip compile pyproject.toml $(LOCK) -o requirements.txt
	$(BIN)/uv pip compile pyproject.toml $(LOCK) --group dev -c requirements.txt -o requirements-dev.txt

bench: setup-test
	$(BIN)/halvex bench

lint: .venv/ready-test frontend/node_modules/ready
	$(BIN)/ruff check halvex tests benchmarks tools
	$(BIN)/ruff format --check halvex tests benchmarks tools
	$(BIN)/mypy
	$(BIN)/deptry halvex
	cd frontend && npm run --silent check && npm run --silent lint

clean:
	rm -rf .venv frontend/node_modules halvex/web/static build
