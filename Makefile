# All set-up happens here, from a bare clone: Python in .venv, the front end in frontend/.
PYTHON ?= python3
BIN := .venv/bin
STAMPS := .stamps
FRONT := $(shell find frontend/src frontend/public -type f ! -name schema.ts ! -name fresh.json) frontend/index.html frontend/vite.config.ts
API := $(shell find src/nebrel -name '*.py')
PORT ?= 8765
# Tests of how soon something happens: with nothing else running beside them.
ALONE := tests/web/test_long_work.py

.PHONY: demo test lint build clean

demo: $(STAMPS)/app build $(STAMPS)/kernels
	$(BIN)/nebrel serve --demo --data .demo-data --port $(PORT)

test: $(STAMPS)/dev $(STAMPS)/chromium lint build $(STAMPS)/kernels
	cd frontend && npm run --silent test
	$(BIN)/python -m pytest -n 2 --dist worksteal --durations 12 --ignore $(ALONE) --ignore tests/e2e
	$(BIN)/python -m pytest $(ALONE) tests/e2e --durations 25

lint: $(STAMPS)/dev $(STAMPS)/types
	$(BIN)/ruff format --check .
	$(BIN)/ruff check .
	$(BIN)/mypy
	cd frontend && npm run --silent check && npm run --silent lint

build: $(STAMPS)/build

$(BIN)/python:
	$(PYTHON) -c 'import sys; sys.exit(sys.version_info < (3, 11) and "Python 3.11 or newer is needed")'
	$(PYTHON) -m venv .venv

$(STAMPS)/app: requirements/app.lock pyproject.toml | $(BIN)/python
	@mkdir -p $(STAMPS)
	test -f $(STAMPS)/dev || $(BIN)/python -m pip install --quiet --require-hashes -r requirements/app.lock
	$(BIN)/python -m pip install --quiet --no-deps --no-build-isolation -e .
	@touch $@

$(STAMPS)/dev: requirements/dev.lock pyproject.toml | $(BIN)/python
	@mkdir -p $(STAMPS)
	$(BIN)/python -m pip install --quiet --require-hashes -r requirements/dev.lock
	$(BIN)/python -m pip install --quiet --no-deps --no-build-isolation -e .
	@touch $@ $(STAMPS)/app

# Compiled once, so that nobody waits for it later.
$(STAMPS)/kernels: $(API) | $(STAMPS)/app
	$(BIN)/python -c 'from nebrel.work.tasks import warm; warm(); from nebrel.core.mesh.warm import warm_tools; warm_tools()'
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
