# All set-up happens here, from a bare clone: Python in .venv, the front end in frontend/.
PYTHON ?= python3
BIN := .venv/bin
STAMPS := .stamps
FRONT := $(shell find frontend/src frontend/public -type f ! -name schema.ts ! -name fresh.json) frontend/index.html frontend/vite.config.ts
API := $(shell find src/nebrel -name '*.py')
PORT ?= 8765

# What was read once is kept compiled beside it: every process that begins is there sooner.
unexport PYTHONDONTWRITEBYTECODE

.PHONY: demo test packages checks lint lint-python lint-front vitest build clean

demo: $(STAMPS)/app build $(STAMPS)/kernels
	$(BIN)/nebrel serve --demo --data .demo-data --port $(PORT)

# Part by part, with the time that each takes; `python3 tests/run.py unit browser` runs some.
test:
	$(PYTHON) tests/run.py

packages: $(STAMPS)/dev $(STAMPS)/chromium $(STAMPS)/npm

# What takes longest is begun first.
checks: $(STAMPS)/kernels lint-python lint-front vitest build

lint: lint-python lint-front

lint-python: $(STAMPS)/dev
	$(BIN)/ruff format --check .
	$(BIN)/ruff check .
	$(BIN)/mypy

lint-front: $(STAMPS)/types
	cd frontend && npm run --silent check && npm run --silent lint

vitest: $(STAMPS)/types
	cd frontend && npm run --silent test

build: $(STAMPS)/build

$(BIN)/python:
	$(PYTHON) -c 'import sys; sys.exit(sys.version_info < (3, 11) and "Python 3.11 or newer is needed")'
	$(PYTHON) -m venv .venv

$(STAMPS)/app: requirements/app.lock pyproject.toml | $(BIN)/python
	@mkdir -p $(STAMPS)
	test -f $(STAMPS)/dev || $(BIN)/python -m pip install --quiet --no-compile --require-hashes -r requirements/app.lock
	$(BIN)/python -m pip install --quiet --no-deps --no-build-isolation -e .
	@touch $@

# Of what is installed a part is used: that is compiled as it is first read.
$(STAMPS)/dev: requirements/dev.lock pyproject.toml | $(BIN)/python
	@mkdir -p $(STAMPS)
	$(BIN)/python -m pip install --quiet --no-compile --no-deps --require-hashes -r requirements/dev.lock
	$(BIN)/python -m pip install --quiet --no-deps --no-build-isolation -e .
	@touch $@ $(STAMPS)/app

# Compiled once and kept, so that nobody waits for it later.
$(STAMPS)/kernels: $(API) tools/kernels.py | $(STAMPS)/app
	$(BIN)/python tools/kernels.py
	@touch $@

$(STAMPS)/chromium:
	@mkdir -p $(STAMPS)
	command -v chromium >/dev/null || (apt-get update -qq && apt-get install -y -qq --no-install-recommends chromium)
	@touch $@

$(STAMPS)/npm: frontend/package.json frontend/package-lock.json
	@mkdir -p $(STAMPS)
	cd frontend && (npm ci --silent --no-audit --no-fund || npm ci --no-audit --no-fund)
	@touch $@

$(STAMPS)/types: $(API) $(STAMPS)/npm | $(STAMPS)/app
	$(BIN)/python -m nebrel.web.describe frontend/openapi.json frontend/src/api/fresh.json
	cd frontend && npm run --silent types
	@touch $@

$(STAMPS)/build: $(STAMPS)/types $(FRONT)
	cd frontend && npm run --silent build
	@touch $@

clean:
	rm -rf $(STAMPS) .venv frontend/node_modules src/nebrel/web/static
