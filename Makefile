# The only commands a person needs. Everything is installed into .venv on first use.
PYTHON ?= python3
VENV := .venv
BIN := $(VENV)/bin
PORT ?= 8040
DEMO := $(CURDIR)/.demo
TESTS := $(BIN)/python -W error::RuntimeWarning manage.py test --settings calmtin.test_settings --parallel 2

.PHONY: demo run test quick said lint bench shots bundle clean

# The demo workshop, fresh each time, at http://127.0.0.1:8040/ (or the next free port).
demo: $(VENV)/.ready
	rm -rf "$(DEMO)"
	CALM_TIN_DATA="$(DEMO)" $(BIN)/python manage.py load_demo
	CALM_TIN_DATA="$(DEMO)" $(BIN)/python manage.py serve --port $(PORT) --simulator

# Your own workshop; its data lie in your user's data folder, or in CALM_TIN_DATA. SHARE=1 lets phones in, ANEW=1 begins
# an empty one where only copies of another are left.
run: $(VENV)/.ready
	CALM_TIN_SHARE="$(SHARE)" $(BIN)/python manage.py serve --port $(PORT) $(if $(ANEW),--anew)

# All tests, those in a real browser too.
test: $(VENV)/.ready-dev chromium
	$(TESTS)

# The tests that need no browser, no older or second workshop, no crowd, and one walk through all pages; in an order of
# their own each time (the seed is printed, and SHUFFLE=seed gives the same one again).
quick: $(VENV)/.ready-dev
	$(TESTS) --exclude-tag browser --exclude-tag slow --shuffle $(SHUFFLE)

# What the pages of the demo say, written anew: read the difference before it is committed.
said: $(VENV)/.ready-dev
	SAID=anew $(BIN)/python manage.py test --settings calmtin.test_settings tests.test_said balmcore.tests.test_said

# Style, types, templates, and who may import whom.
lint: $(VENV)/.ready-dev
	$(BIN)/ruff format --check .
	$(BIN)/ruff check .
	$(BIN)/mypy
	$(BIN)/djlint --quiet --lint calmtin workshop devices instruments pantry formulas batches bench pours checks learning labels pieces exchange
	$(BIN)/lint-imports --no-cache

# Timings, as ratios to bare work in the same run.
bench: $(VENV)/.ready-dev chromium
	$(BIN)/python -m benchmarks

# Renew docs/screenshots from the demo workshop.
shots: $(VENV)/.ready-dev chromium
	$(BIN)/python -m demo.shots

# One folder, and one archive of it, that runs where there is no Python; built and tried.
bundle: $(VENV)/.ready objdump
	$(BIN)/python -m pip install --quiet --disable-pip-version-check --requirement requirements-bundle.txt
	$(BIN)/python -m bundle

clean:
	rm -rf $(VENV) $(DEMO) build .mypy_cache .ruff_cache .hypothesis

$(VENV)/.ready: requirements.txt
	$(PYTHON) -m venv $(VENV)
	$(BIN)/python -m pip install --quiet --disable-pip-version-check --requirement requirements.txt
	touch $@

$(VENV)/.ready-dev: requirements.txt requirements-dev.txt $(VENV)/.ready
	$(BIN)/python -m pip install --quiet --disable-pip-version-check --requirement requirements-dev.txt
	touch $@

# Debian's browser, for the tests and the screenshots.
.PHONY: chromium
chromium:
	@test -x /usr/bin/chromium || { sudo=$$(test $$(id -u) = 0 || echo sudo); \
	  $$sudo apt-get update -qq && DEBIAN_FRONTEND=noninteractive $$sudo apt-get install -y -qq chromium >/dev/null; }

# What PyInstaller reads libraries with.
.PHONY: objdump
objdump:
	@command -v objdump >/dev/null || { sudo=$$(test $$(id -u) = 0 || echo sudo); \
	  $$sudo apt-get update -qq && DEBIAN_FRONTEND=noninteractive $$sudo apt-get install -y -qq binutils >/dev/null; }
