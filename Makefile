# `make demo` starts the studio with the demo; `make test` runs every check. Both work in a fresh clone.

PYTHON ?= python3
BIN := .venv/bin
export OPENBLAS_NUM_THREADS ?= 1
export PYTHONDONTWRITEBYTECODE ?= 1

.PHONY: demo test bench shots check kernels browser-libs system-libs clean

demo: .venv/run.stamp system-libs kernels
	$(BIN)/velvetdrum serve --demo

test: .venv/dev.stamp system-libs browser-libs
	@$(MAKE) --no-print-directory -j2 check kernels
	$(BIN)/python -m pytest -n 2 --dist loadgroup

check: .venv/dev.stamp
	$(BIN)/ruff check velvetdrum tests bench tools
	$(BIN)/ruff format --check velvetdrum tests bench tools
	$(BIN)/mypy
	$(BIN)/lint-imports

# `make bench ONLY=blend` measures one family.
bench: .venv/dev.stamp system-libs kernels
	$(BIN)/python -m bench.run $(ONLY)

kernels: .venv/run.stamp
	@$(BIN)/python -m velvetdrum.picture.raster.kernels

shots: .venv/dev.stamp system-libs browser-libs kernels
	$(BIN)/python tools/make_shots.py docs/screenshots

system-libs:
	@sh tools/system_libs.sh drawing $(BIN)/python

browser-libs:
	@sh tools/system_libs.sh browser $(BIN)/python

.venv/bin/python:
	$(PYTHON) -m venv .venv

.venv/run.stamp: requirements.txt pyproject.toml | .venv/bin/python
	$(BIN)/python -m pip install --quiet --disable-pip-version-check -r requirements.txt
	$(BIN)/python -m pip install --quiet --disable-pip-version-check --no-deps --no-build-isolation -e . 2>/dev/null \
		|| $(BIN)/python -m pip install --quiet --disable-pip-version-check --no-deps -e .
	@touch $@

.venv/dev.stamp: requirements-dev.txt .venv/run.stamp
	$(BIN)/python -m pip install --quiet --disable-pip-version-check -r requirements-dev.txt
	@touch $@

clean:
	rm -rf .venv build *.egg-info .mypy_cache .ruff_cache
