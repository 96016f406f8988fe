#!/bin/sh
# Writes requirements/*.lock anew from pyproject.toml: newest versions that resolve today, pinned.
# Run by hand; then run `make test`. Names no host: pip asks whichever registry it is set up for.
set -eu
cd "$(dirname "$0")/.."
work=$(mktemp -d)
trap 'rm -rf "$work"' EXIT
list() { python3 -c "
import tomllib
p = tomllib.load(open('pyproject.toml', 'rb'))['project']
for line in $1: print(line)"; }
freeze() { "$work/venv/bin/pip" freeze --all | grep -v '^pip==' | LC_ALL=C sort; }
python3 -m venv "$work/venv"
list "p['dependencies'] + ['setuptools']" >"$work/run.in"
"$work/venv/bin/pip" install --quiet --upgrade -r "$work/run.in"
freeze >"$work/run.txt"
list "p['optional-dependencies']['dev']" >"$work/test.in"
"$work/venv/bin/pip" install --quiet -r "$work/test.in"
freeze >"$work/all.txt"
{ echo "# Exact versions of what the application needs. Made by scripts/lock.sh from pyproject.toml."; cat "$work/run.txt"; } >requirements/run.lock
{ echo "# Exact versions of what the tests need besides. Made by scripts/lock.sh from pyproject.toml."; LC_ALL=C comm -13 "$work/run.txt" "$work/all.txt"; } >requirements/test.lock
