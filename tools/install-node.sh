#!/bin/sh
# Node from the system where it is 20.19 or newer, else from the PyPI package that carries Node and npm.
set -eu
enough='const [a, b] = process.versions.node.split(".").map(Number); process.exit(a > 20 || (a === 20 && b >= 19) ? 0 : 1)'
if command -v node >/dev/null && command -v npm >/dev/null && node -e "$enough"; then
    exit 0
fi
.venv/bin/pip install --quiet --disable-pip-version-check --require-hashes -r requirements-node.lock
mkdir -p .venv/node-bin
for name in node npm npx; do
    ln -sf ../bin/$name .venv/node-bin/$name
done
