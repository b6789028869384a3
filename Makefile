# Two commands matter: `make demo` serves Fjeld with demo data, `make test` passes its tests.
PYTHON ?= python3
PORT ?= 8000
BIN := .venv/bin
CORE := fjeld/quantities.py fjeld/geometry.py fjeld/states.py fjeld/practice fjeld/drawing fjeld/judge fjeld/derive fjeld/oldbox fjeld/concealed \
	fjeld/work fjeld/errand fjeld/check fjeld/prove fjeld/propose fjeld/bench fjeld/graphics fjeld/formats fjeld/demo fjeld/commands.py fjeld/cli.py

.PHONY: demo test walk long speed people lint types imports assets assets-check schema clean

.venv/ready: requirements.txt pyproject.toml
	$(PYTHON) -m venv .venv
	$(BIN)/pip install --quiet --disable-pip-version-check -r requirements.txt
	$(BIN)/pip install --quiet --disable-pip-version-check --no-deps -e .
	touch $@

.venv/ready-dev: .venv/ready requirements-dev.txt
	$(BIN)/pip install --quiet --disable-pip-version-check -r requirements.txt -r requirements-dev.txt
	touch $@

demo: .venv/ready
	FJELD_DEMO=1 PORT=$(PORT) $(BIN)/python manage.py serve --demo

# Compiled once, not by each of the processes that the tests start.
test: export PYTHONDONTWRITEBYTECODE =
test: .venv/ready-dev
	sh tests/tools.sh
	$(BIN)/python -m pytest -n 3 --dist loadfile --no-loadscope-reorder

# Ordinary use at random, houses and errands, with restarts: WALK steps of each, by SEED.
WALK ?= 5000
SEED ?= 7
walk: export PYTHONDONTWRITEBYTECODE =
walk: .venv/ready-dev
	FJELD_WALK=$(WALK) FJELD_WALK_SEED=$(SEED) $(BIN)/python -m pytest -n 2 -o faulthandler_timeout=0 -q --durations=0 \
		tests/web/test_ordinary_use.py tests/web/test_errand_walk.py

# Ten times as often each property, a thousand drawings, and the walks: hours. LONG=1 a tenth of it.
LONG ?= 10
long: export PYTHONDONTWRITEBYTECODE =
long: .venv/ready-dev
	sh tests/tools.sh
	mkdir -p var
	$(MAKE) walk WALK=$$(( $(LONG) * 500 )) | tee var/long.txt
	FJELD_OFTEN=$(LONG) FJELD_WORLDS=$$(( $(LONG) * 200 )) FJELD_TRUE_HOUSES=$$(( $(LONG) * 16 )) FJELD_ERRANDS=both \
		$(BIN)/python -m pytest -n 3 --dist loadfile --no-loadscope-reorder -o faulthandler_timeout=0 -q --durations=10 | tee -a var/long.txt

speed: .venv/ready-dev
	sh tests/tools.sh
	$(BIN)/python -m speed

# Twenty people at once for a minute.
people: .venv/ready-dev
	$(BIN)/python -m speed.people

lint: .venv/ready-dev
	$(BIN)/ruff check .
	$(BIN)/ruff format --check .
	$(BIN)/djade --check --target-version 5.2 $$(find fjeld/web/templates -name '*.html')

types: .venv/ready-dev
	$(BIN)/mypy --strict $(CORE)
	$(BIN)/mypy fjeld/web

imports: .venv/ready-dev
	$(BIN)/lint-imports

node_modules: package-lock.json
	npm ci --no-audit --no-fund
	touch $@

assets: node_modules .venv/ready-dev
	sh fjeld/web/assets/build.sh

# Built assets are committed, so that running needs no Node; this says whether they are current.
assets-check: assets
	@git diff --exit-code --stat -- fjeld/web/static fjeld/web/assets/drawings.css fjeld/graphics/fonts tests/browser/axe.js \
		|| { echo "The committed assets are stale: run make assets and commit."; exit 1; }

schema: .venv/ready
	$(BIN)/fjeld schema > docs/job-file.schema.json

clean:
	rm -rf .venv node_modules var
