# Greyfell. `make demo` and `make test` do everything; the rest is for those who change it.
PY := .venv/bin/python
RUN := .venv/run.stamp
DEV := .venv/dev.stamp
PORT ?= 8730

# Bytecode is kept, whatever the machine's habit: without it every process compiles all it stands on anew.
unexport PYTHONDONTWRITEBYTECODE

.PHONY: demo serve test journeys lint bench evaluate sweeps lamps models projects touching places measures schema seal histories rigs hidden mutants fuzz faults screenshots assets assets-check lock clean system

demo: $(RUN)
	$(PY) -m greyfell.cli demo --port $(PORT)

# One's own shelf.
serve: $(RUN)
	$(PY) -m greyfell.cli serve --port $(PORT)

test: system $(DEV) assets-check lint
	.venv/bin/pytest -n 2 --dist worksteal -m "not browser"
	.venv/bin/pytest -n 2 --dist worksteal -m "browser and not journey" tests/browser

# The long ways by hand in Chromium; "make test" has a short form of each.
journeys: system $(DEV) assets-check
	.venv/bin/pytest -n 2 --dist worksteal -m journey tests/browser

lint: $(DEV)
	.venv/bin/ruff check greyfell tests scripts
	.venv/bin/ruff format --check greyfell tests scripts
	.venv/bin/mypy
	.venv/bin/lint-imports

.venv/bin/uv:
	python3 -m venv .venv
	.venv/bin/pip install -q --disable-pip-version-check uv || true

$(RUN): .venv/bin/uv requirements.lock pyproject.toml
	@if [ -x .venv/bin/uv ]; then .venv/bin/uv pip install -q --compile-bytecode -p $(PY) --require-hashes -r requirements.lock && .venv/bin/uv pip install -q -p $(PY) --no-deps -e .; \
	else .venv/bin/pip install -q --require-hashes -r requirements.lock && .venv/bin/pip install -q --no-deps -e .; fi
	touch $@

$(DEV): $(RUN) requirements-dev.lock
	@if [ -x .venv/bin/uv ]; then .venv/bin/uv pip install -q --compile-bytecode -p $(PY) --require-hashes -r requirements-dev.lock; \
	else .venv/bin/pip install -q --require-hashes -r requirements-dev.lock; fi
	touch $@

# Debian's Chromium and ngspice, where they are missing and this user may install them; else it says what is skipped.
system:
	@missing=""; command -v chromium >/dev/null || missing="$$missing chromium"; command -v ngspice >/dev/null || missing="$$missing ngspice"; \
	if [ -n "$$missing" ]; then \
	  if command -v apt-get >/dev/null && [ "$$(id -u)" = 0 ]; then apt-get update -q >/dev/null && apt-get install -qq -y --no-install-recommends $$missing fonts-liberation >/dev/null; \
	  else echo "Missing:$$missing. Browser tests need chromium, the referee tests ngspice; they are skipped. Install: apt-get install$$missing"; fi; fi
	@if command -v apt-get >/dev/null && [ "$$(id -u)" = 0 ] && ! command -v chromium-headless-shell >/dev/null; then \
	  apt-get install -qq -y --no-install-recommends chromium-headless-shell >/dev/null 2>&1 || echo "Chromium's headless shell is not to be had: browser tests take half as long again."; fi

# The committed assets must be what the sources build: fails when they are stale.
assets-check: $(DEV)
	@if command -v npm >/dev/null; then npm ci --ignore-scripts --no-audit --no-fund --loglevel=error && npm run --silent build && \
	  git diff --exit-code --stat -- greyfell/web/static/dist && test -z "$$(git ls-files --others --exclude-standard greyfell/web/static/dist)"; \
	else echo "Node is not installed: the built assets are not rebuilt, and the axe-core tests are skipped."; fi

assets:
	npm ci --ignore-scripts --no-audit --no-fund --loglevel=error && npm run --silent build

bench: $(DEV)
	$(PY) scripts/bench.py

evaluate: $(DEV)
	$(PY) scripts/evaluate.py $(N)
	$(PY) scripts/evaluate.py $(N) --seed 7 --worlds

# The allowances chosen on all worlds but one and scored on it, in turn, N=600 SEED=1.
allowances: $(DEV)
	$(PY) scripts/allowances.py

# Hidden pieces answered by the next step alone, N=1000 LEVEL=any.
hidden: $(DEV)
	PYTHONPATH=. $(PY) scripts/hidden.py $(N) $(if $(LEVEL),--level $(LEVEL))

# Rigs drawn by their seeds against ngspice, N=50.
rigs: $(DEV)
	RIGS=$(or $(N),50) .venv/bin/pytest -n 2 tests/reference/test_rig_ngspice.py

touching: $(DEV)
	$(PY) scripts/touching.py $(N)

# How many files name a family or a kind of reading: --files says which.
places: $(DEV)
	$(PY) scripts/places.py

# What the house looks like in figures, beside what the last review counted.
measures: $(DEV)
	$(PY) scripts/measures.py

# Schemas and docs that are written from the code.
schema: $(DEV)
	$(PY) scripts/write_schema.py
	$(PY) scripts/write_uses.py
	$(PY) scripts/draw_house.py

# Every sealed figure, written again: only where a change means to move them.
seal: $(DEV)
	$(PY) -m tests.core.sealing

# Sound records bent so that power would kill, and harmlessly, N=20 a mutation SEED=3001.
histories: $(DEV)
	$(PY) scripts/histories.py $(or $(N),20) $(if $(SEED),--seed $(SEED))

# Sweeps of the forward model, N=2000: how near knees and core watts come.
sweeps: $(DEV)
	PYTHONPATH=. $(PY) scripts/sweeps.py $(N)

models: $(DEV)
	PYTHONPATH=. $(PY) scripts/models.py $(N)

# Rewindings of simulated pieces, plan against outcome, N=2000 SEED=907.
projects: $(DEV)
	PYTHONPATH=. $(PY) scripts/projects.py $(N) $(if $(SEED),--seed $(SEED))

lamps: $(DEV)
	PYTHONPATH=. $(PY) scripts/lamps.py $(N)

# N=60 random ones besides one for every threshold and sign of the rules; SEED=1.
mutants: $(DEV)
	$(PY) scripts/mutants.py

# Anything at all, SEED=1: requests, records, lines, planners; its short form runs in make test.
fuzz: $(DEV)
	$(PY) scripts/fuzz.py
	.venv/bin/pytest -n 2 -m hypothesis --hypothesis-profile=drawn tests

# What it stands on, broken, ROUNDS=10: killed, full, locked, damaged, read-only, removed.
faults: $(DEV)
	$(PY) scripts/faults.py

screenshots: system $(DEV)
	$(PY) scripts/screenshots.py

lock: $(DEV)
	.venv/bin/uv pip compile --python-version 3.11 --generate-hashes --no-emit-index-url --no-header -q pyproject.toml -o requirements.lock
	.venv/bin/uv pip compile --python-version 3.11 --generate-hashes --no-emit-index-url --no-header -q --extra dev -c requirements.lock pyproject.toml -o requirements-dev.lock
	npm install --package-lock-only --ignore-scripts --omit-lockfile-registry-resolved

clean:
	rm -rf .venv node_modules build *.egg-info
