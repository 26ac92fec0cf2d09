#!/bin/sh
# Makes .venv with the package, its command, and what development needs, all from the lock file with its hashes.
set -eu
python=$1
. tools/debian.sh
"$python" -c 'import sys; sys.exit(sys.version_info < (3, 11))' || {
    echo "Row Tag needs Python 3.11 or newer; $python is older." >&2
    exit 1
}
"$python" -c 'import ensurepip, venv' 2>/dev/null || debian_install python3-venv
[ -x .venv/bin/python ] || "$python" -m venv .venv
.venv/bin/pip install --quiet --disable-pip-version-check --require-hashes -r requirements-dev.lock
.venv/bin/pip install --quiet --disable-pip-version-check --no-deps --no-build-isolation -e .
.venv/bin/python -m compileall -q rowtag  # else each command would translate it anew where nothing may be written
