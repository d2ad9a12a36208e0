# Three commands: `make start` runs an installation of one's own, `make demo` the application with made-up data,
# `make test` checks everything.
# `make setup` installs and builds only. All may be run again at any time and skip what is done.

PYTHON ?= python3
PORT ?= 8470
VENV := .venv
PY := $(VENV)/bin/python
WEB_SOURCES := $(shell find web/src web/public -type f) web/index.html web/vite.config.ts
export DJANGO_SETTINGS_MODULE := config.settings
export PYTHONPATH := core:server

.PHONY: setup start demo test test-quick bench mutants trust trust-answers faults check types screenshots clean

setup: .setup-python .setup-web .setup-build

.setup-python: requirements/base.lock pyproject.toml
	test -x $(PY) || $(PYTHON) -m venv $(VENV)
	$(PY) -m pip install -q --disable-pip-version-check --require-hashes -r requirements/base.lock
	$(PY) -m pip install -q --disable-pip-version-check --no-deps --no-build-isolation -e .
	touch $@

.setup-dev: .setup-python requirements/dev.lock
	$(PY) -m pip install -q --disable-pip-version-check --require-hashes -r requirements/dev.lock
	touch $@

.setup-mutants: .setup-dev requirements/mutants.txt
	$(PY) -m pip install -q --disable-pip-version-check -r requirements/mutants.txt
	touch $@

.setup-web: web/package-lock.json
	cd web && npm ci --no-audit --no-fund
	touch $@

# The pages, and beside each file its Brotli and gzip twins, which the server sends as they are.
.setup-build: .setup-python .setup-web $(WEB_SOURCES)
	cd web && npm run -s build
	$(PY) -m whitenoise.compress -q web/dist
	touch $@

# Browser tests use Debian's Chromium; anything at /usr/bin/chromium will do.
.setup-chromium:
	test -x /usr/bin/chromium || { \
	  run=; test "$$(id -u)" = 0 || run=sudo; \
	  $$run apt-get update -q && $$run env DEBIAN_FRONTEND=noninteractive apt-get install -q -y --no-install-recommends chromium; }
	touch $@

# The PDF sheet needs Pango and a font. Without the right to install them the demo still starts, and the sheet says why not.
PANGO := libpango-1.0-0 libpangoft2-1.0-0 libharfbuzz-subset0 fonts-dejavu-core
.setup-print:
	dpkg -s $(PANGO) > /dev/null 2>&1 || { \
	  run=; test "$$(id -u)" = 0 || run="sudo -n"; \
	  $$run apt-get update -q && $$run env DEBIAN_FRONTEND=noninteractive apt-get install -q -y --no-install-recommends $(PANGO); } \
	  || echo "Pango could not be installed: PDF sheets will say so."
	touch $@

start: setup .setup-print
	$(PY) server/serve.py --port $(PORT)

# In a folder of its own, so that it never stands beside anybody's records.
demo: export CULTRIX_VAR ?= $(CURDIR)/var/demo
demo: setup .setup-print
	$(PY) server/serve.py --demo --port $(PORT)

test: setup .setup-dev .setup-chromium .setup-print check
	$(PY) -m pytest -n auto tests/core tests/server
	$(PY) -m pytest -n 2 --dist loadfile tests/e2e

# For the inner loop: the core without its simulations, and the server from the question to the verdict.
QUICK := tests/server/test_trials.py tests/server/test_records.py tests/server/test_verdict.py tests/server/test_estimates.py \
  tests/server/test_summaries.py tests/server/test_people.py tests/server/test_contract.py
test-quick: setup .setup-dev
	$(VENV)/bin/ruff check core server tests
	$(PY) -m pytest -n auto -m "not slow" tests/core $(QUICK)

# Everything that reads the code rather than runs it.
check: setup .setup-dev
	$(VENV)/bin/ruff format --check core server tests
	$(VENV)/bin/ruff check core server tests
	$(VENV)/bin/lint-imports
	$(VENV)/bin/mypy --strict -p cultrix_core
	$(VENV)/bin/mypy core server
	$(PY) server/manage.py makemigrations --check --dry-run
	cd web && npm run -s lint
	cd web && npm run -s check
	cd web && npm run -s test

# After a change of the API: the OpenAPI document, the types made from it, the field book's tables.
types: .setup-web .setup-dev
	$(PY) server/manage.py export_openapi_schema --api config.api.api --indent 1 --sorted > docs/openapi.json
	cd web && npm run -s types
	$(PY) server/manage.py record_kinds > web/src/features/fieldbook/kinds.json
	$(VENV)/bin/cultrix device --json > web/src/features/fieldbook/device.json

bench: setup .setup-dev
	$(PY) -m tests.bench

# Thousands of sham trials through the code of the verdict: writes docs/trust.md.
trust: setup .setup-dev
	OMP_NUM_THREADS=1 OPENBLAS_NUM_THREADS=1 $(PY) -m tests.trust

# The same for the sentences: factorials, crossings, curves, chances. Parts by name: make trust-answers PARTS="null chances".
trust-answers: setup .setup-dev
	OMP_NUM_THREADS=1 OPENBLAS_NUM_THREADS=1 $(PY) -m tests.trust_answers $(PARTS)

# Which alterations of a formula or rule does no test notice? Of files not committed yet, or: make mutants FILES="core/…/nested.py".
mutants: setup .setup-dev .setup-mutants
	$(PY) -m tests.mutants $(FILES)

# Kills of server, browser and worker, full disks, wrong clocks: prints what was lost. Half an hour; docs/security.md keeps it.
faults: setup .setup-dev .setup-chromium
	$(PY) -m tests.faults

# One current picture of each main view, from the demo.
screenshots: setup .setup-dev .setup-chromium .setup-print
	$(PY) -m tests.screenshots

clean:
	rm -rf $(VENV) web/node_modules web/dist .setup-*
