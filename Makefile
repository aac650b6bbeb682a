# Everything that is done to Cata. `make demo` and `make test` need nothing before them but Python 3.11, Node 20 and apt.
.DELETE_ON_ERROR:
.PHONY: setup demo serve test certify whole check check-python check-web bench screenshots wheel clean

PYTHON ?= python3
BIN := .venv/bin
STAMPS := .setup
UV := $(BIN)/uv
export UV_NO_PROGRESS := 1

WEB_SOURCES := $(shell find web/src web/static -type f -not -path 'web/static/api-docs/*' -not -name schema.d.ts 2>/dev/null)
API_SOURCES := $(shell find cata/api cata/services cata/core -name '*.py' 2>/dev/null)

setup: $(STAMPS)/python cata/static/index.html
	@$(BIN)/python -m compileall -q cata  # also where the environment forbids writing bytecode: the start is twice as fast

$(UV):
	$(PYTHON) -m venv .venv
	$(BIN)/pip install --quiet 'uv>=0.5'

$(STAMPS)/python: pyproject.toml uv.lock | $(UV)
	$(UV) sync --frozen --quiet --compile-bytecode --group dev
	@mkdir -p $(STAMPS) && touch $@

$(STAMPS)/node: web/package.json web/package-lock.json
	cd web && npm ci --no-audit --no-fund --loglevel=error
	@mkdir -p $(STAMPS) && touch $@

# The front end's client is made from the API itself, so it cannot fall behind.
web/src/lib/api/schema.d.ts: $(API_SOURCES) $(STAMPS)/python $(STAMPS)/node
	$(BIN)/cata openapi > web/openapi.json
	cd web && npm run --silent api

web/static/api-docs/start.js: web/api-docs-start.js $(STAMPS)/node
	mkdir -p web/static/api-docs
	cp web/node_modules/swagger-ui-dist/swagger-ui.css web/node_modules/swagger-ui-dist/swagger-ui-bundle.js web/static/api-docs/
	cp web/api-docs-start.js $@

cata/static/index.html: $(WEB_SOURCES) web/src/lib/api/schema.d.ts web/static/api-docs/start.js web/svelte.config.js web/vite.config.ts web/vite.page.config.ts
	cd web && npm run --silent build && npm run --silent page
	@touch $@

demo: setup
	$(BIN)/cata demo

serve: setup
	$(BIN)/cata serve

$(STAMPS)/system: tools/system-packages
	tools/system-packages
	@mkdir -p $(STAMPS) && touch $@

check: setup
	@$(MAKE) --no-print-directory -j2 check-python check-web

check-python:
	$(BIN)/ruff check .
	$(BIN)/ruff format --check .
	$(BIN)/mypy
	$(BIN)/lint-imports

check-web:
	cd web && npm run --silent check && npm run --silent lint

# The workers share the cores already. One a core: what a worker makes once for its tests (corpora, models) each makes anew.
test certify whole: export OPENBLAS_NUM_THREADS = 1

test: setup $(STAMPS)/system check
	$(BIN)/pytest -n 2 --dist worksteal -m 'not certify and not whole' --ignore tests/ui tests
	$(BIN)/pytest -m 'not certify and not whole' tests/ui

# What is claimed, held in numbers: many devices, seeds, hands, damaged files.
certify: setup $(STAMPS)/system
	$(BIN)/pytest -n 2 --dist worksteal -m certify --ignore tests/ui tests
	$(BIN)/pytest -m certify tests/ui

# The same with many more devices, seeds and hours: before a release.
whole: setup $(STAMPS)/system
	$(BIN)/pytest -n 2 --dist worksteal -m 'certify or whole' --ignore tests/ui tests
	$(BIN)/pytest -m 'certify or whole' tests/ui

bench: setup
	$(UV) sync --frozen --quiet --group dev --group bench
	$(BIN)/python -m benchmarks

screenshots: setup $(STAMPS)/system
	$(BIN)/python -m tools.screenshots

wheel: setup
	$(UV) build --wheel --quiet
	@ls -l dist/*.whl

clean:
	rm -rf .venv $(STAMPS) cata/static web/node_modules web/.svelte-kit web/static/api-docs dist
