# make demo   open the window with the demo edit
# make test   check style, types, layers and behaviour
# make bench  print the measurements
# make fuzz   put damaged files of all kinds through the command line
# make install, make uninstall   for your own account, with a menu entry and a file type
# make lock   write requirements.lock and requirements-cluster.lock anew from pyproject.toml

PYTHON ?= python3
BIN := .venv/bin
export PIP_DISABLE_PIP_VERSION_CHECK = 1

.PHONY: demo test bench fuzz lint lock screenshots setup cluster install uninstall clean

demo: setup
	$(BIN)/ezvar demo

test: setup cluster lint
	@sh tools/setup_browser.sh
	QT_QPA_PLATFORM=offscreen $(BIN)/python -m pytest -n 2 --dist loadfile --no-loadscope-reorder

lint: setup
	$(BIN)/ruff check ezvar ezvar_reviewer tests benchmarks tools
	$(BIN)/ruff format --check ezvar ezvar_reviewer tests benchmarks tools
	$(BIN)/mypy
	$(BIN)/lint-imports

bench: setup
	$(BIN)/python -m benchmarks

screenshots: setup
	$(BIN)/python tools/make_screenshots.py

install:
	@PYTHON="$(PYTHON)" sh tools/install.sh install

uninstall:
	@sh tools/install.sh uninstall

setup:
	@PYTHON="$(PYTHON)" sh tools/setup.sh

cluster: setup
	@sh tools/setup_cluster.sh

fuzz: setup
	$(BIN)/python -m benchmarks.fuzz

lock: setup
	$(BIN)/python -m pip install -q pip-tools==7.6.2
	$(BIN)/python -m piptools compile -q --generate-hashes --extra dev --strip-extras \
		--no-emit-index-url --no-emit-find-links --no-emit-trusted-host --no-emit-options --no-header \
		--output-file requirements.lock pyproject.toml
	cp requirements.lock requirements-cluster.lock  # so that what is the same there is not looked up again
	$(BIN)/python -m piptools compile -q --generate-hashes --extra cluster --strip-extras -c requirements.lock \
		--no-emit-index-url --no-emit-find-links --no-emit-trusted-host --no-emit-options --no-header \
		--output-file requirements-cluster.lock pyproject.toml

clean:
	rm -rf .venv build *.egg-info .mypy_cache .ruff_cache .import_linter_cache
