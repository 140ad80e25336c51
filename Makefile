# Orchesis. `make start` and `make test` install whatever is missing by themselves.
PY := .venv/bin/python
.PHONY: start test install generate bench screenshots lint

start: install
	@$(PY) run/start.py

install:
	@bash run/install.sh

# What is generated from the core: the kit table and the API's types for the page.
generate: install
	@$(PY) run/generate.py

test: install
	@$(PY) run/test.py

lint: install
	@$(PY) run/test.py --only lint

bench:
	@bash run/install.sh bench
	@$(PY) -m bench

screenshots: install
	@$(PY) run/screenshots.py
