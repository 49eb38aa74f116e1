#!/bin/sh
# Add what work on more machines takes to the virtual environment. Does nothing when it is there.
set -eu

cd "$(dirname "$0")/.."
stamp="$(cat requirements-cluster.lock | cksum)"
if [ "$(cat .venv/ezvar-cluster-stamp 2>/dev/null)" != "$stamp" ]; then
    echo "Adding what work on more machines takes."
    .venv/bin/python -m pip install -q --require-hashes --no-deps -r requirements-cluster.lock
    echo "$stamp" > .venv/ezvar-cluster-stamp
fi
