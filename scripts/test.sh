#!/bin/sh
# Runs lint and types beside all tests, and fails where either does. Called by `make test`, which has set up what they need.
set -u
cd "$(dirname "$0")/.."
log=$(mktemp)
trap 'rm -f "$log"' EXIT
nice -n 5 make --no-print-directory lint >"$log" 2>&1 &
lint=$!
# Three at a time on two cores: one of them waits for its browser at most times.
.venv/bin/pytest -n 3 "$@"
tests=$?
wait "$lint"
linted=$?
if [ "$linted" != 0 ]; then
    cat "$log"
    echo "lint failed; it stands above."
fi
[ "$tests" = 0 ] && [ "$linted" = 0 ]
