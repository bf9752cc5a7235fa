# Nebrel. `make demo` shows it, `make test` proves it; both install what they need.

PYTHON ?= python3
PORT ?= 8642
DATA ?= .demo-data
MINUTES ?= 60
BIN := .venv/bin
STEP := tools/run_step
ONLINE := Check that the package registries can be reached, then try again.

WEB_SOURCES := $(shell find web/src web/public -type f) web/index.html web/vite.config.ts
# Two files of tests beside each other, in the order given; the tests of one file share what it sets up.
BESIDE := -n 2 --dist loadfile --no-loadscope-reorder
# What takes longest, so that it is known when the whole takes too long.
SLOWEST := --durations 40 --durations-min 4
LOOPS := $(shell find src/nebrel/core -name '*.py')
PAGES := src/nebrel/api/static/index.html
HANDBOOK := src/nebrel/api/help/index.html
# What the handbook is made of: pages by hand, pictures, and what the program tells of itself.
TOLD := $(shell find docs/handbook docs/screenshots tools/handbook -type f -not -name '*.pyc') $(wildcard docs/*.md) $(shell find src/nebrel -name '*.py')

# Python's side and the pages' side are set up and checked beside each other.
MAKEFLAGS += -j2
.DEFAULT_GOAL := help
.PHONY: help setup setup-dev demo dev test test-deep mutate wheel handbook lint types page-tests chromium client train bench bench-all screenshots lock clean

help:
	@echo "make demo         install, build, load the demo pieces and serve them on 127.0.0.1:$(PORT)"
	@echo "make test         install what tests need and run every check"
	@echo "make setup        install and build only"
	@echo "make dev          serve with pages that reload as they are edited"
	@echo "make bench        measure for some minutes, and write docs/benchmarks.md (bench-all: everything)"
	@echo "make screenshots  take docs/screenshots again"
	@echo "make test-deep    the long trials besides, and the core with the bounds of all kernels"
	@echo "make handbook     build the handbook that the server shows under Help"
	@echo "make wheel        build what pip installs, the pages inside, into dist/"
	@echo "make mutate       change core files a little and see whether a test notices (FILES=… chooses)"
	@echo "make train        train the network of depths for MINUTES=$(MINUTES), and write it"
	@echo "make client       generate the typed client from the API"
	@echo "make lock         resolve the Python packages anew"
	@echo "make clean        remove everything that was installed or built"

.venv/.runtime: requirements.lock pyproject.toml
	@tools/check_tools $(PYTHON)
	@$(STEP) "Making the virtual environment" "Remove .venv and try again." $(PYTHON) -m venv .venv
	@$(STEP) "Installing Python packages" "$(ONLINE)" $(BIN)/pip install --disable-pip-version-check -r requirements.lock
	@$(STEP) "Installing Nebrel" "$(ONLINE)" $(BIN)/pip install --disable-pip-version-check --no-deps -e .
	@touch $@

.venv/.dev: .venv/.runtime requirements-dev.lock
	@$(STEP) "Installing Python packages for tests" "$(ONLINE)" $(BIN)/pip install --disable-pip-version-check -r requirements-dev.lock
	@touch $@

.venv/.warm: .venv/.runtime $(LOOPS)
	@$(STEP) "Compiling the hot loops" "Run .venv/bin/nebrel warm-up to see why." $(BIN)/nebrel warm-up
	@touch $@

.venv/.handbook: .venv/.runtime requirements-handbook.lock
	@$(STEP) "Installing Python packages for the handbook" "$(ONLINE)" $(BIN)/pip install --disable-pip-version-check -r requirements-handbook.lock
	@touch $@

web/node_modules/.installed: web/package-lock.json
	@tools/check_tools $(PYTHON)
	@$(STEP) "Installing packages for the pages" "$(ONLINE)" npm --prefix web ci --no-audit --no-fund
	@touch $@

$(PAGES): web/node_modules/.installed $(WEB_SOURCES)
	@$(STEP) "Building the pages" "Run npm --prefix web run build to see why." npm --prefix web run build
	@touch $@

$(HANDBOOK): .venv/.handbook web/node_modules/.installed $(TOLD)
	@$(STEP) "Building the handbook" "Run $(BIN)/python -m tools.handbook to see why." $(BIN)/python -m tools.handbook
	@touch $@

handbook: $(HANDBOOK)

setup: .venv/.runtime .venv/.warm $(PAGES) $(HANDBOOK)

setup-dev: .venv/.dev .venv/.warm $(PAGES) $(HANDBOOK)

demo: setup
	@$(BIN)/nebrel serve --demo --data $(DATA) --port $(PORT)

dev: setup
	@echo "Serving the API and, on the port that Vite prints, pages that reload …"
	@trap 'kill 0' EXIT; $(BIN)/nebrel serve --demo --data $(DATA) --port 8642 & npm --prefix web run dev

lint: .venv/.dev web/node_modules/.installed
	@echo "Checking style …"
	@$(BIN)/ruff check .
	@$(BIN)/ruff format --check .
	@npm --prefix web run --silent lint

types: .venv/.dev web/node_modules/.installed
	@echo "Checking types, import rules and the typed client …"
	@$(BIN)/mypy
	@$(BIN)/lint-imports
	@$(BIN)/python tools/write_openapi.py --check
	@npm --prefix web run --silent types

page-tests: web/node_modules/.installed
	@echo "Testing the pages' own code …"
	@npm --prefix web run --silent test

chromium:
	@$(STEP) "Looking for Chromium" "Install Debian's chromium package." tools/need_chromium

test: setup-dev chromium lint types page-tests
	@echo "Testing core, pieces, API, command line and the wheel …"
	@$(BIN)/pytest $(BESIDE) -m "not deep" $(SLOWEST) --ignore tests/browser
	@echo "Testing in the real browser …"
	@$(BIN)/pytest $(BESIDE) -m "not deep" $(SLOWEST) tests/browser

test-deep: setup-dev chromium
	@echo "Running the long trials …"
	@$(BIN)/pytest $(BESIDE) -m deep
	@echo "Testing the core with every index of its kernels checked …"
	@NUMBA_BOUNDSCHECK=1 NUMBA_CACHE_DIR=.venv/checked-kernels $(BIN)/pytest $(BESIDE) tests/core

mutate: setup-dev
	@$(STEP) "Installing what changes the code" "$(ONLINE)" $(BIN)/pip install cosmic-ray
	@$(BIN)/python tools/mutate.py $(FILES)

train: setup-dev
	@$(STEP) "Installing what the network is trained with" "$(ONLINE)" $(BIN)/pip install -r training/requirements.txt
	@echo "Training for $(MINUTES) minutes; this goes on where the last slice stopped …"
	@$(BIN)/python -m training.train --minutes $(MINUTES)
	@$(BIN)/python -m training.export src/nebrel/core/figure/depths.onnx

client: .venv/.dev web/node_modules/.installed
	@$(BIN)/python tools/write_openapi.py
	@npm --prefix web run --silent client

wheel: $(PAGES) $(HANDBOOK) .venv/.runtime
	@$(STEP) "Building the wheel" "Run $(BIN)/pip wheel --no-deps -w dist . to see why." $(BIN)/pip wheel --disable-pip-version-check --no-deps -w dist .
	@ls dist/*.whl

bench: setup-dev chromium
	@echo "Measuring; this takes a few minutes and wants the machine for itself …"
	@$(BIN)/python -m bench.run

bench-all: setup-dev chromium
	@echo "Measuring everything; this takes long, and wants the machine for itself …"
	@$(BIN)/python -m bench.run all

screenshots: setup-dev chromium
	@echo "Taking pictures of the demo …"
	@$(BIN)/python -m tools.screenshots

lock: .venv/.runtime
	@$(STEP) "Installing the resolver" "$(ONLINE)" $(BIN)/pip install uv
	@$(STEP) "Resolving Python packages" "$(ONLINE)" $(BIN)/uv pip compile -q --universal --python-version 3.11 --upgrade --no-header --no-annotate pyproject.toml -o requirements.lock
	@$(STEP) "Resolving Python packages for tests" "$(ONLINE)" $(BIN)/uv pip compile -q --universal --python-version 3.11 --upgrade --no-header --no-annotate --extra dev -c requirements.lock pyproject.toml -o requirements-dev.lock
	@$(STEP) "Resolving Python packages for the handbook" "$(ONLINE)" $(BIN)/uv pip compile -q --universal --python-version 3.11 --upgrade --no-header --no-annotate --extra handbook -c requirements.lock -c requirements-dev.lock pyproject.toml -o requirements-handbook.lock

clean:
	@echo "Removing what was installed or built; pieces in $(DATA) stay …"
	@rm -rf .venv build dist web/node_modules src/nebrel/api/static src/nebrel/api/help .mypy_cache .pytest_cache .ruff_cache .hypothesis .import_linter_cache
	@find src tests bench tools -name __pycache__ -type d -prune -exec rm -rf {} +
