# Jar Bloom. `make help` lists the targets.
PYTHON ?= $(shell command -v python3.11 || command -v python3)
VENV := .venv
BIN := $(VENV)/bin
DATA ?=
HOST ?=
PORT ?= 8112
# Bytecode is kept, whatever the shell says: without it every start compiles everything anew, for a second and more.
unexport PYTHONDONTWRITEBYTECODE

UVPIP = $(BIN)/uv pip install --quiet --python $(BIN)/python

.DEFAULT_GOAL := help
.PHONY: help demo run test test-fast lint bench soak calibrate follow spikes screenshots licences lock clean

help: ## print these lines
	@grep -hE '^[a-z-]+:.*##' $(MAKEFILE_LIST) | sed -E 's/^([a-z-]+):.*## /\1\t/' | expand -t 14

demo: $(VENV)/.run ## set up, then start with made-up tanks
	@$(BIN)/jarbloom demo --port $(PORT) $(if $(DATA),--data "$(DATA)")

run: $(VENV)/.run ## set up, then start with your own data (DATA=folder overrides where it lies; HOST=address opens it to the house)
	@$(BIN)/jarbloom serve --port $(PORT) $(if $(DATA),--data "$(DATA)") $(if $(HOST),--host "$(HOST)")

test: $(VENV)/.dev ## set up, then run all tests, those in the browser too
	@sh scripts/browser.sh
	@OMP_NUM_THREADS=1 OPENBLAS_NUM_THREADS=1 $(BIN)/python -W error -m tests

test-fast: $(VENV)/.dev ## all tests but those in the browser
	@$(BIN)/python -W error -m tests --no-browser

lint: $(VENV)/.dev ## style, types, and common mistakes in Python and JavaScript
	@$(BIN)/ruff check --quiet src tests scripts && $(BIN)/ruff format --check --quiet src tests scripts
	@$(BIN)/mypy --no-error-summary
	@$(BIN)/oxlint --quiet -D correctness src/jarbloom/web/static/*.js
	@echo "lint: clean"

bench: $(VENV)/.dev ## speed as ratios measured in one run
	@$(BIN)/python -m scripts.bench

soak: $(VENV)/.dev ## kills, twins, damaged files and many writers, the long form (half an hour)
	@OMP_NUM_THREADS=1 OPENBLAS_NUM_THREADS=1 $(BIN)/python -m scripts.soak

calibrate: $(VENV)/.dev ## live through synthetic tanks of three worlds and score the forecasts, into docs/model.md (three quarters of an hour on two cores; TANKS=40 for a look)
	@OMP_NUM_THREADS=1 OPENBLAS_NUM_THREADS=1 $(BIN)/python -m scripts.calibrate $(if $(TANKS),--tanks $(TANKS))

follow: $(VENV)/.dev ## stock made-up tanks of two worlds by following the advice day by day, against rules of thumb, into docs/planner.md
	@OMP_NUM_THREADS=1 OPENBLAS_NUM_THREADS=1 $(BIN)/python -m scripts.follow --keep $(if $(TANKS),--tanks $(TANKS))

spikes: $(VENV)/.dev ## meet made-up spikes by the desk's plan and by "half now, half tomorrow", into docs/planner.md
	@OMP_NUM_THREADS=1 OPENBLAS_NUM_THREADS=1 $(BIN)/python -m scripts.follow.spikes --keep

screenshots: $(VENV)/.dev ## make the pictures in docs/screenshots anew
	@sh scripts/browser.sh
	@$(BIN)/python -m scripts.screenshots

licences: $(VENV)/.run ## write the table of licences in THIRD-PARTY.md anew
	@$(BIN)/python scripts/licences.py

lock: $(VENV)/.uv ## write the lock files anew from pyproject.toml
	@for kind in run dev; do $(BIN)/uv pip compile pyproject.toml --extra $$kind --extra stand-ins --generate-hashes --python-version 3.11 \
	  --no-header --no-annotate --no-emit-index-url --no-emit-find-links --quiet -o requirements/$$kind.lock; done

clean: ## remove the virtual environment and caches
	rm -rf $(VENV) .ruff_cache .mypy_cache build src/*.egg-info

$(VENV)/.uv: requirements/uv.lock
	@$(PYTHON) -c 'import sys; sys.exit(sys.version_info < (3, 11))' || { echo "Python 3.11 or newer is needed (apt-get install python3 python3-venv)."; exit 1; }
	@$(PYTHON) -m venv $(VENV) || { echo "The venv module is missing: apt-get install python3-venv"; exit 1; }
	@$(BIN)/python -m pip install --quiet --disable-pip-version-check --require-hashes -r requirements/uv.lock
	@touch $@

$(VENV)/.run: $(VENV)/.uv requirements/run.lock pyproject.toml
	@$(UVPIP) --require-hashes -r requirements/run.lock
	@$(UVPIP) --no-deps --no-build-isolation --editable .
	@$(BIN)/python -c "from jarbloom.core.bloom.kernel import make_ready; make_ready()"
	@touch $@

$(VENV)/.dev: $(VENV)/.run requirements/dev.lock
	@$(UVPIP) --require-hashes -r requirements/dev.lock
	@touch $@
