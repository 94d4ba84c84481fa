# Each target does its own set-up; the second run finds it done and is quick.
VENV := .venv
BIN := $(VENV)/bin

.PHONY: demo test torture mutants bench screenshots lock schema clean

demo: 
	@scripts/setup run
	@$(BIN)/molvik demo

# The tests start the program some hundred times: with bytecode kept it is compiled once. They wait
# for events a third of their time: one runs more than there are processors.
test: export PYTHONDONTWRITEBYTECODE =
test:
	@scripts/setup test
	$(BIN)/ruff format --check .
	$(BIN)/ruff check .
	$(BIN)/mypy
	$(BIN)/lint-imports
	$(BIN)/pytest --numprocesses $$(( $$(nproc) + 1 )) --dist worksteal --durations=20

# Attacks on files, tables, photos, commands and the window; SECONDS for each, about. Then every
# property with other draws than those of make test.
SECONDS ?= 60
torture:
	@scripts/setup test
	$(BIN)/python tests/torture.py --seconds $(SECONDS)
	$(BIN)/pytest --numprocesses auto -m hypothesis --hypothesis-profile others

# Faults planted one at a time in chosen modules, and whether the tests notice. The tool has an
# environment of its own; MINUTES bounds it.
MINUTES ?= 30
mutants:
	@scripts/setup test
	python3 -m venv .venv-mutants
	.venv-mutants/bin/pip install -q cosmic-ray==8.7.0
	$(BIN)/python scripts/mutants.py --tool $(CURDIR)/.venv-mutants/bin/cosmic-ray --seconds $$(( $(MINUTES) * 60 ))

bench:
	@scripts/setup test
	$(BIN)/pytest benchmarks --benchmark-columns=min,median,max

screenshots:
	@scripts/setup test
	xvfb-run -a -s "-screen 0 1280x800x24" $(BIN)/python scripts/screenshots.py

# Regenerate the pinned versions after changing the dependencies in pyproject.toml.
lock:
	@scripts/setup test
	$(BIN)/pip install -q pip-tools
	$(BIN)/pip-compile -q --no-emit-find-links --no-emit-index-url --allow-unsafe --strip-extras --generate-hashes \
	  --extra dev --output-file requirements.lock pyproject.toml

schema:
	@scripts/setup run
	$(BIN)/python -m molvik.files.schema docs/job.schema.json
	$(BIN)/python -m molvik.findings.page docs/findings.md

clean:
	rm -rf $(VENV) .venv-mutants .pytest_cache .mypy_cache .ruff_cache .hypothesis .benchmarks build
