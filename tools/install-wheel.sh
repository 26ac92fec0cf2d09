#!/bin/sh
# Builds the wheel, front end and all, and installs it with what it needs into an environment that holds nothing else.
set -eu
python=$1
rm -rf dist
.venv/bin/pip wheel --quiet --disable-pip-version-check --no-deps --no-build-isolation --wheel-dir dist .
[ -x .venv-wheel/bin/python ] || "$python" -m venv .venv-wheel
.venv-wheel/bin/pip install --quiet --disable-pip-version-check --require-hashes -r requirements.lock
.venv-wheel/bin/pip install --quiet --disable-pip-version-check --no-deps --force-reinstall dist/rowtag-*.whl
