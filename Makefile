# Two commands: `make demo` opens Wax Twin on the demo pair, `make test` runs every check. Both set everything up.
PYTHON ?= python3
VENV := .venv
BIN := $(VENV)/bin
STAMP := $(VENV)/.ready
# many tests start the program anew: it is compiled once; some wait, so two cores have room for a third process
PYTEST := PYTHONDONTWRITEBYTECODE= QT_QPA_PLATFORM=offscreen $(BIN)/python -m pytest -n 3 --dist worksteal

.PHONY: setup demo test server quick lint bench fuzz kills beside talk day coverage explain people footage taught sculpt pictures lock docs wheel install uninstall clean

setup: $(STAMP)

$(STAMP): requirements.lock pyproject.toml tools/system_libraries.sh
	@bash tools/system_libraries.sh
	@test -x $(BIN)/python || $(PYTHON) -m venv $(VENV)
	@$(BIN)/python -m pip install --quiet --disable-pip-version-check --require-hashes -r requirements.lock
	@$(BIN)/python -m pip install --quiet --disable-pip-version-check --no-deps --no-build-isolation -e .
	@touch $@

demo: setup
	@if [ -n "$$DISPLAY$$WAYLAND_DISPLAY" ]; then $(BIN)/waxtwin demo; \
	else echo "There is no display, so every room of the demo is rendered to docs/screenshots instead."; \
	$(BIN)/waxtwin demo --pictures docs/screenshots; fi

# in a library of their own: the demo that somebody opened keeps what it was made of
pictures: setup
	@XDG_DATA_HOME="$$(mktemp -d)" $(BIN)/waxtwin demo --pictures docs/screenshots

lint: setup
	$(BIN)/ruff check src tests benchmarks tools
	$(BIN)/ruff format --check src tests benchmarks tools
	$(BIN)/mypy
	$(BIN)/lint-imports
	$(BIN)/python tools/check_imports.py

test: lint server
	$(PYTEST)

server:
	@bash tools/test_server.sh

# what needs no window and no model, for the hand
quick: setup
	$(PYTEST) -m "not window and not slow"

bench: setup
	QT_QPA_PLATFORM=offscreen $(BIN)/python -m benchmarks.run
	QT_QPA_PLATFORM=offscreen $(BIN)/python -m benchmarks.clips

fuzz: setup
	$(BIN)/python -m benchmarks.fuzz

kills: setup
	$(BIN)/python -m benchmarks.kills

beside: setup
	QT_QPA_PLATFORM=offscreen $(BIN)/python -m benchmarks.beside

talk: setup
	QT_QPA_PLATFORM=offscreen $(BIN)/python -m benchmarks.talk --long

day: setup
	QT_QPA_PLATFORM=offscreen $(BIN)/python -m benchmarks.window

coverage: setup
	$(BIN)/python -m benchmarks.coverage

explain: setup
	$(BIN)/python -m benchmarks.explain

# people to judge clips alone by, filmed once; bodies and compiler stay out of the program's own environment
PEOPLE := build/people
FILMED := PYTHONPATH=.:build/people-tools OMP_NUM_THREADS=1 OPENBLAS_NUM_THREADS=1

people: setup
	@test -d build/people-tools || $(BIN)/python -m pip install --quiet --disable-pip-version-check --no-deps \
	  --require-hashes --target build/people-tools -r tools/people/requirements.txt
	@test -n "$$(ls $(PEOPLE)/*.truth.json 2>/dev/null)" || $(FILMED) $(BIN)/python -m tools.people.film judge $(PEOPLE)

footage: people
	$(BIN)/python -m benchmarks.footage $(PEOPLE)

# what a model is off and what an estimate may show: filmed, found, measured and written into the core
taught: people
	$(FILMED) $(BIN)/python -m tools.people.film teach build/taught --count 10 --fps 80
	$(FILMED) $(BIN)/python -m tools.people.offsets build/taught
	$(FILMED) $(BIN)/python -m tools.people.gate build/taught $(PEOPLE)

# the wax figure, sculpted from text into the mesh that ships
sculpt: setup
	@test -d build/sculpt-tools || $(BIN)/python -m pip install --quiet --disable-pip-version-check --no-deps \
	  --require-hashes --target build/sculpt-tools -r tools/sculpt/requirements.txt
	PYTHONPATH=.:build/sculpt-tools $(BIN)/python -m tools.sculpt src/waxtwin/assets/figure

docs: setup
	$(BIN)/python tools/poses.py
	$(BIN)/python tools/measures_page.py
	$(BIN)/python tools/findings_page.py

LOCKED := --quiet --no-header --generate-hashes --allow-unsafe --strip-extras

# requirements.lock is for working on it, packaging/requirements.lock for those who only use it
lock: setup
	$(BIN)/python -m piptools compile $(LOCKED) --extra dev --output-file requirements.lock pyproject.toml
	$(BIN)/python -m piptools compile $(LOCKED) --output-file packaging/requirements.lock pyproject.toml
	@sed -i "/^--/d" requirements.lock packaging/requirements.lock  # where packages come from is the machine's affair

wheel: setup
	@rm -rf build dist
	@$(BIN)/python -m pip wheel --quiet --disable-pip-version-check --no-deps --no-build-isolation --wheel-dir dist .
	@ls dist/*.whl

# for the user who runs it, below PREFIX (~/.local if not said)
install: wheel
	@bash packaging/install.sh install dist/*.whl packaging/requirements.lock $(PREFIX)

uninstall:
	@bash packaging/install.sh remove $(PREFIX)

clean:
	rm -rf $(VENV) build dist
