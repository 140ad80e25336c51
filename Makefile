# Orchesis. `make start` and `make test` install whatever is missing by themselves.
PY := .venv/bin/python
.PHONY: start test install lock generate bench bench-records screenshots lint torture

start: install
	@$(PY) run/start.py

install:
	@bash run/install.sh

# What is generated from the core: the kit table and the API's types for the page.
generate: install
	@$(PY) run/generate.py

# The packages with their hashes, for every Python from 3.11.0 on.
lock: install
	@.venv/bin/uv pip compile --universal --python-version 3.11.0 --generate-hashes --no-header \
		-q requirements.in -o requirements.txt

test: install
	@$(PY) run/test.py

lint: install
	@$(PY) run/test.py --only lint

bench:
	@bash run/install.sh bench
	@$(PY) -m bench

# On real records, which are fetched as Debian packages and never shipped.
bench-records:
	@bash run/install.sh bench
	@$(PY) -m bench.records

screenshots: install
	@$(PY) run/screenshots.py

# Ten times as many malformed files as “make test” tries; attacks and faults on a whole house.
torture: install
	@ORCHESIS_TORTURE=500 $(PY) -m pytest tests/core/test_torture.py -n 2
	@ORCHESIS_TORTURE=500 PYTHONPATH=server $(PY) -m pytest tests/server/test_rates.py \
		tests/server/test_room.py tests/server/test_reckoning.py tests/server/test_keeping.py \
		tests/server/test_hostile_packages.py -n 2
	@ORCHESIS_TORTURE=500 PYTHONPATH=server $(PY) -m pytest tests/house
