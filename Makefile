# `make demo` starts the studio with the demo; `make test` runs every check. Both work in a fresh clone.

PYTHON ?= python3
BIN := .venv/bin
PIP := $(BIN)/python -m pip install --quiet --disable-pip-version-check
export OPENBLAS_NUM_THREADS ?= 1
# Bytecode is kept beside the environment: hundreds of short processes do not compile the same modules again.
unexport PYTHONDONTWRITEBYTECODE
export PYTHONPYCACHEPREFIX := $(CURDIR)/.venv/bytecode

NODE := PATH="$(CURDIR)/node_modules/.bin:$$PATH:$(CURDIR)/$(BIN)"

.PHONY: demo test bench looks shots check generated page kernels browser-libs system-libs clean

# The page is served while the loops compile, with how far that is.
demo: .venv/run.stamp system-libs
	$(BIN)/velvetdrum serve --demo

test: .venv/dev.stamp system-libs browser-libs
	@$(MAKE) --no-print-directory -j2 check kernels
	$(BIN)/python -m pytest -n 2 --dist loadfile --no-loadscope-reorder

check: .venv/dev.stamp
	$(BIN)/ruff check velvetdrum tests bench tools
	$(BIN)/ruff format --check velvetdrum tests bench tools
	$(BIN)/mypy
	$(BIN)/lint-imports
	$(BIN)/python tools/make_reference.py --check docs
	PYTHONPATH=. $(BIN)/python tools/make_page_types.py --check types/project.d.ts
	@$(MAKE) --no-print-directory page

# What is made from the code: the reference of settings, the JSON Schema, the description of routes, examples, types
# that the page is checked against.
generated: .venv/dev.stamp
	$(BIN)/python tools/make_reference.py docs
	PYTHONPATH=. $(BIN)/python tools/make_page_types.py types/project.d.ts
	$(BIN)/python tools/make_third_party.py THIRD-PARTY.md

# The page's scripts: formatter, linter, type check, tests of stores and library. The page itself needs no build.
page: .venv/dev.stamp .venv/node.stamp
	$(NODE) prettier --log-level warn --check "velvetdrum/studio/static/js/**/*.js" "tests/js/**/*.js" "*.config.js" types/page.d.ts
	$(NODE) eslint velvetdrum/studio/static/js tests/js eslint.config.js
	$(NODE) tsc -p .
	$(BIN)/python -m tests.vectors.studio_page > .venv/studio_page.json
	PATH="$$PATH:$(CURDIR)/$(BIN)" node --test --test-reporter dot tests/js/

# `make bench ONLY=blend` measures one family.
bench: .venv/dev.stamp system-libs kernels
	$(BIN)/python -m bench.run $(ONLY)

kernels: .venv/run.stamp
	@sh tools/timed.sh "pixel loops" $(BIN)/python -m velvetdrum.picture.raster.kernels

looks: .venv/dev.stamp system-libs kernels
	$(BIN)/python tools/check_looks.py looks.png

shots: .venv/dev.stamp system-libs browser-libs kernels
	$(BIN)/python tools/make_shots.py docs/screenshots

system-libs:
	@sh tools/timed.sh "libraries of the system" sh tools/system_libs.sh drawing $(BIN)/python

browser-libs:
	@sh tools/timed.sh "browser" sh tools/system_libs.sh browser $(BIN)/python

.venv/bin/python:
	@sh tools/timed.sh "environment" $(PYTHON) -m venv .venv

.venv/run.stamp: requirements.txt pyproject.toml | .venv/bin/python
	@sh tools/timed.sh "libraries" $(PIP) -r requirements.txt
	@sh tools/timed.sh "this program" sh -c '$(PIP) --no-deps --no-build-isolation -e . 2>/dev/null \
		|| $(PIP) --no-deps -e .'
	@touch $@

.venv/node.stamp: package-lock.json tools/node_tools.sh | .venv/bin/python
	@sh tools/timed.sh "tools of the page" sh tools/node_tools.sh $(BIN)
	@touch $@

.venv/dev.stamp: requirements-dev.txt requirements-cluster.txt .venv/run.stamp
	@sh tools/timed.sh "libraries of tests" $(PIP) -r requirements-dev.txt
	@touch $@

clean:
	rm -rf .venv node_modules build *.egg-info .mypy_cache .ruff_cache
