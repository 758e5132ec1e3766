# Two commands do everything: `make demo` shows the whole story, `make test` runs all tests.
PYTHON ?= python3
VENV ?= .venv
BIN := $(VENV)/bin

.PHONY: demo test check environment browser snapshots clean

environment: $(VENV)/.ready

$(VENV)/.ready: pyproject.toml
	@$(PYTHON) -c 'import sys; sys.exit(sys.version_info < (3, 11))' || { echo "Python 3.11 or later is needed: make PYTHON=python3.11 ..."; exit 1; }
	@$(PYTHON) -m venv $(VENV) || { echo "python3-venv is needed (apt-get install python3-venv)"; exit 1; }
	@$(BIN)/python -m pip install --quiet --disable-pip-version-check -e '.[dev]'
	@touch $@

browser:
	@sh scripts/install_browsers.sh

demo: environment
	@sh scripts/install_browsers.sh --optional
	@$(BIN)/wary-hound demo

test: environment browser
	@$(BIN)/python -m pytest -n 3

check: environment
	@$(BIN)/ruff check .
	@$(BIN)/ruff format --check .
	@$(BIN)/mypy
	@$(BIN)/lint-imports

snapshots: environment browser
	@$(BIN)/python scripts/make_snapshots.py

clean:
	rm -rf $(VENV) demo-out
