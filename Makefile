# Each target is also a plain command; CONTRIBUTING.md shows them.
PYTHON ?= python3
VENV := .venv
BIN := $(VENV)/bin
STAMP := $(VENV)/.installed

.PHONY: demo test check check-postgres bench shots schema lock clean libraries

demo: $(STAMP)
	@if [ -n "$$DISPLAY$$WAYLAND_DISPLAY" ]; then $(BIN)/lesna --demo; \
	else echo "No display: rendering the main views to build/ instead."; \
	QT_QPA_PLATFORM=offscreen $(BIN)/python -m lesna.desktop.shots build; fi

test: $(STAMP)
	$(BIN)/python tools/run_tests.py

check: $(STAMP)
	$(BIN)/ruff check src tests bench tools
	$(BIN)/ruff format --check src tests bench tools
	$(BIN)/mypy
	$(BIN)/python tools/run_tests.py tests.test_imports tests.test_docstrings

# the store on a real server; as root on Debian its programs are installed where they are missing
check-postgres: $(STAMP)
	@if ! ls /usr/lib/postgresql/*/bin/initdb >/dev/null 2>&1; then \
		if [ "$$(id -u)" = 0 ] && command -v apt-get >/dev/null; then apt-get update -qq && apt-get install -y -qq postgresql; \
		else echo "PostgreSQL's server programs are needed: apt-get install postgresql"; exit 1; fi; fi
	$(BIN)/python tools/run_tests.py tests.bank.test_postgres

bench: $(STAMP)
	QT_QPA_PLATFORM=offscreen $(BIN)/python -m bench

shots: $(STAMP)
	QT_QPA_PLATFORM=offscreen $(BIN)/python -m lesna.desktop.shots docs/screenshots

schema: $(STAMP)
	$(BIN)/python -m lesna.model.schema docs/job.schema.json

lock:
	uv pip compile pyproject.toml --extra dev --universal --generate-hashes --python-version 3.11 -o requirements.lock

libraries:
	@$(PYTHON) tools/system_libraries.py

$(STAMP): requirements.lock pyproject.toml | libraries
	@$(PYTHON) -c 'import sys; sys.exit(not (3, 11) <= sys.version_info < (3, 14))' || \
		{ echo "Lesna needs Python 3.11 to 3.13; name one with make PYTHON=python3.11"; exit 1; }
	$(PYTHON) -m venv $(VENV)
	$(BIN)/python -m pip install --quiet --disable-pip-version-check --require-hashes -r requirements.lock
	$(BIN)/python -m pip install --quiet --disable-pip-version-check --no-deps --no-build-isolation --editable .
	@touch $@

clean:
	rm -rf $(VENV) build dist
