# Orchesis. `make start` and `make test` install whatever is missing by themselves.
PY := .venv/bin/python
COMPILE := .venv/bin/uv pip compile -q --universal --python-version 3.11.0 --generate-hashes --no-header
.PHONY: start test install tools lock generate bench bench-records screenshots lint torture

start: install
	@$(PY) run/start.py

install:
	@bash run/install.sh

# The same, with what Orchesis is developed and tested with.
tools:
	@bash run/install.sh dev

# What is generated from the core: the kit table and the API's types for the page.
generate: tools
	@$(PY) run/generate.py

# The packages with their hashes, for every Python from 3.11.0 on.
lock: tools
	@$(COMPILE) pyproject.toml requirements.in -o requirements.txt
	@$(COMPILE) requirements-dev.in -o requirements-dev.txt

test: tools
	@$(PY) run/test.py

lint: tools
	@$(PY) run/test.py --only lint

bench:
	@bash run/install.sh dev bench
	@$(PY) -m bench

# On real records, which are fetched as Debian packages and never shipped.
bench-records:
	@bash run/install.sh dev bench
	@$(PY) -m bench.records

screenshots: tools
	@$(PY) run/screenshots.py

# Ten times as many malformed files as “make test” tries; attacks and faults on a whole house.
torture: tools
	@ORCHESIS_TORTURE=500 $(PY) -m pytest tests/core/test_torture.py -n 2
	@ORCHESIS_TORTURE=500 PYTHONPATH=server $(PY) -m pytest tests/server/test_rates.py \
		tests/server/test_room.py tests/server/test_by_worker.py tests/server/test_keeping.py \
		tests/server/test_hostile_packages.py -n 2
	@ORCHESIS_TORTURE=500 PYTHONPATH=server $(PY) -m pytest tests/house
