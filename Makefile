# make demo: see Botin with its demo data.  make test: everything that must hold.  make bench: the speeds.
PY ?= python3
VENV := .venv
BIN := $(VENV)/bin
PORT ?= 8321
SEEDS ?= 12
export PIP_DISABLE_PIP_VERSION_CHECK := 1

.PHONY: run-tests lint-types lint-layers lint-templates demo backs test test-all fuzz bench year lint serve lock clean chromium shots

$(VENV)/.run: requirements.lock pyproject.toml
	test -x $(BIN)/python || $(PY) -m venv $(VENV)
	$(BIN)/pip install --quiet --require-hashes -r requirements.lock
	$(BIN)/pip install --quiet --no-deps -e .
	touch $@

# What reads the backs of cards: its packages ask for a second OpenCV, so they come without what they ask for.
$(VENV)/.backs: requirements-backs.lock $(VENV)/.run
	$(BIN)/pip install --quiet --require-hashes --no-deps -r requirements-backs.lock
	touch $@

backs: $(VENV)/.backs

$(VENV)/.dev: requirements-dev.lock $(VENV)/.run
	$(BIN)/pip install --quiet --require-hashes -r requirements-dev.lock
	touch $@

# The demo data always goes to a working copy of its own: play with it, `make demo` again starts it afresh.
demo: $(VENV)/.run $(VENV)/.backs
	$(BIN)/botin demo --home .demo --port $(PORT)

# The collector's own data (BOTIN_HOME, or the user data directory of the system).
serve: $(VENV)/.run
	$(BIN)/botin serve --port $(PORT)

chromium:
	@command -v chromium >/dev/null || { echo "installing Debian's Chromium for the browser tests"; \
	  SUDO=$$([ $$(id -u) = 0 ] || echo sudo); $$SUDO apt-get -qq update && \
	  DEBIAN_FRONTEND=noninteractive $$SUDO apt-get -qq install -y --no-install-recommends chromium >/dev/null; }

lint: $(VENV)/.dev
	$(BIN)/ruff format --check --quiet .
	$(BIN)/ruff check --quiet .
	@$(MAKE) --no-print-directory -j3 lint-types lint-layers lint-templates

lint-types:
	$(BIN)/mypy

lint-layers:
	$(BIN)/lint-imports --no-cache

lint-templates:
	$(BIN)/djlint --quiet --lint botin/web

# Servers are started again and again: what they import is compiled once, also where the environment says not to.
# The checks of the code run beside the tests, which wait for servers and browsers much of their time.
test: $(VENV)/.dev $(VENV)/.backs chromium
	@$(MAKE) --no-print-directory -j2 lint run-tests

run-tests: $(VENV)/.dev $(VENV)/.backs chromium
	PYTHONDONTWRITEBYTECODE= $(BIN)/python -m pytest -n 2 --dist worksteal

# Also what takes over 15 seconds: before a release.
test-all: $(VENV)/.dev $(VENV)/.backs chromium lint
	PYTHONDONTWRITEBYTECODE= $(BIN)/python -m pytest -n 2 --dist worksteal --override-ini "addopts=-q --strict-markers --strict-config"

# A collector's year in seeded worlds: what the flags keep of an oracle's gain, and what the rest is lost by.
year: $(VENV)/.dev $(VENV)/.backs
	$(BIN)/python tools/year.py $(SEEDS)

# A hundred thousand spoiled inputs over every reader and every form; it goes on where it was stopped.
fuzz: $(VENV)/.dev $(VENV)/.backs
	$(BIN)/python tools/fuzz.py

bench: $(VENV)/.dev $(VENV)/.backs
	$(BIN)/python tools/bench.py
	$(BIN)/python tools/bench_reading.py
	$(BIN)/python tools/bench_looking.py

shots: $(VENV)/.dev $(VENV)/.backs chromium
	$(BIN)/python tools/screenshots.py

# Hashed locks without the address of any package index.
lock:
	uv pip compile --universal --python-version 3.11 --generate-hashes --no-header --no-annotate -o requirements.lock pyproject.toml
	uv pip compile --universal --python-version 3.11 --generate-hashes --no-header --no-annotate --extra dev -c requirements.lock -o requirements-dev.lock pyproject.toml
	uv pip compile --universal --python-version 3.11 --generate-hashes --no-header --no-annotate --no-deps -o requirements-backs.lock requirements-backs.in

clean:
	rm -rf $(VENV) .demo .bench
