# The same few commands for people and for the continuous checks.
PYTHON ?= python3
BIN := .venv/bin
SITE := rowtag/api/site/index.html
PORT ?= 4719
WORKSPACE ?=
WHERE := $(if $(WORKSPACE),--workspace $(WORKSPACE),)
export PATH := $(CURDIR)/.venv/node-bin:$(PATH)

.PHONY: setup demo serve wheel test bench lasting corpus checks screenshots format clean

setup: $(SITE)

demo: $(SITE)
	$(BIN)/rowtag demo --port $(PORT) $(WHERE)

serve: $(SITE)
	$(BIN)/rowtag serve --port $(PORT) $(WHERE)

.venv/installed: pyproject.toml requirements-dev.lock
	sh tools/install-python.sh $(PYTHON)
	touch $@

web/node_modules/installed: web/package.json web/package-lock.json .venv/installed
	sh tools/install-node.sh
	cd web && npm ci --no-fund --no-audit
	touch $@

web/src/api/schema.gen.ts: .venv/installed web/node_modules/installed $(shell find rowtag -name '*.py')
	$(BIN)/python -m rowtag.api.openapi > web/openapi.json
	cd web && npm run --silent types

$(SITE): web/src/api/schema.gen.ts $(shell find web/src web/public -type f -not -name schema.gen.ts) web/index.html web/vite.config.ts
	cd web && npm run --silent build

# The package as others install it, and an environment that holds nothing else.
wheel: .venv-wheel/installed

.venv-wheel/installed: $(SITE) requirements.lock README.md
	sh tools/install-wheel.sh $(PYTHON)
	touch $@

test: $(SITE) .venv-wheel/installed
	sh tools/install-browser.sh
	$(BIN)/ruff format --check .
	$(BIN)/ruff check .
	$(BIN)/mypy rowtag
	cd web && npm run --silent lint && npm run --silent check
	$(BIN)/pytest -q -n 2

bench: .venv/installed
	$(BIN)/python -m bench --large

lasting: .venv/installed
	$(BIN)/python -m bench.lasting

corpus: .venv/installed
	$(BIN)/python -m tools.codebooks $(CORPUS)

checks: .venv/installed
	$(BIN)/python -m tools.planted

screenshots: $(SITE)
	sh tools/install-browser.sh
	$(BIN)/python -m tools.screenshots

format: .venv/installed
	$(BIN)/ruff format .
	$(BIN)/ruff check --fix .

clean:
	rm -rf .venv .venv-wheel dist web/node_modules rowtag/api/site web/openapi.json web/src/api/schema.gen.ts
