# The two commands are `make demo` and `make test`; each sets up what it needs.
.PHONY: demo test setup setup-test lint unit e2e soak load bench calibrate seasons worth physics plans firms screenshots tokens clean

PORT ?= 8000
FRESH ?=
PYTHON ?= python3
RUN := .venv/bin
# What was compiled once is kept, so that no process of the tests compiles it again.
unexport PYTHONDONTWRITEBYTECODE

demo:
	@PYTHON="$(PYTHON)" sh scripts/setup.sh run
	@exec $(RUN)/amber-gable demo --port $(PORT) $(if $(FRESH),--fresh)

# One run for all tests: what waits for the browser leaves its core to what reckons; lint and types beside them.
test: setup-test
	@sh scripts/test.sh

setup:
	@PYTHON="$(PYTHON)" sh scripts/setup.sh run

setup-test:
	@PYTHON="$(PYTHON)" sh scripts/setup.sh test

lint: setup-test
	$(RUN)/ruff check .
	$(RUN)/ruff format --check .
	$(RUN)/mypy
	$(RUN)/lint-imports
	$(RUN)/python .ci/circles.py

unit: setup-test
	$(RUN)/pytest -n 2 -m "not e2e and not slow"

e2e: setup-test
	$(RUN)/pytest -n 2 -m e2e

# The long proofs: 20,000 fuzzed requests, 100 kills while writing, 50 phones for a minute, properties on three times the examples.
soak: setup-test
	$(RUN)/pytest -m slow -s
	AMBER_GABLE_LONG_TESTS=1 $(RUN)/pytest -n 2 -m "not slow" tests/core

load: setup-test
	$(RUN)/python scripts/load.py

bench: setup-test
	$(RUN)/python scripts/bench.py

calibrate: setup-test
	$(RUN)/python scripts/calibrate.py

# Two simulated seasons at three sites: young films wetted, hours the film law costs.
seasons: setup-test
	PYTHONPATH=. $(RUN)/python scripts/seasons.py

# What planning is worth, against a calendar and the sky: the tables of docs/worth.md. About a quarter of an hour.
worth: setup-test
	PYTHONPATH=. $(RUN)/python scripts/worth.py

# The wall model against finite differences: table and plot of docs/physics.md.
physics: setup-test
	PYTHONPATH=. $(RUN)/python scripts/physics.py

# The solver of plans: published instances, a job of 24 surfaces, eight jobs at once.
plans: setup-test
	PYTHONPATH=. $(RUN)/python scripts/plans.py

# Rates as a whole: three made-up firms, five kinds of house; the table of docs/rates.md.
firms: setup-test
	PYTHONPATH=. $(RUN)/python scripts/firms.py

screenshots: setup-test
	$(RUN)/python scripts/screenshots.py

# The style sheet of colours and sizes, from drawing/tokens.toml.
tokens: setup
	$(RUN)/python -m amber_gable.drawing.tokens > src/amber_gable/web/static/css/tokens.css

clean:
	rm -rf .venv build data *.egg-info src/*.egg-info
