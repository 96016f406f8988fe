#!/bin/sh
# Sets up the virtual environment in .venv: `setup.sh run` for the application, `setup.sh test` for
# the tests as well, which also need Chromium. Skips what is done. Where something of the machine is
# missing, prints the exact command that mends it.
set -eu
cd "$(dirname "$0")/.."
what=${1:-run}
python=${PYTHON:-python3}

stop() { printf '\n%s\n\n    %s\n\n' "$1" "$2" >&2; exit 1; }
as_root() { if [ "$(id -u)" = 0 ]; then echo "$1"; else echo "sudo $1"; fi; }

command -v "$python" >/dev/null 2>&1 ||
    stop "Python is missing. Install it:" "$(as_root 'apt-get install python3 python3-venv')"
if ! "$python" -c 'import sys; sys.exit(sys.version_info < (3, 11))'; then
    # Another Python on this machine may do.
    for other in python3.13 python3.12 python3.11; do
        if command -v $other >/dev/null 2>&1; then python=$other; break; fi
    done
    "$python" -c 'import sys; sys.exit(sys.version_info < (3, 11))' ||
        stop "Python 3.11 or newer is needed; this is $("$python" --version). Name a newer one:" "make PYTHON=/path/to/python3.11 demo"
fi
"$python" -c 'import ensurepip, venv' 2>/dev/null ||
    stop "Python's venv module is missing. Install it:" "$(as_root 'apt-get install python3-venv')"

[ -x .venv/bin/python ] || { echo "Making the virtual environment ..."; "$python" -m venv .venv; }

install() { # name of the lock file
    stamp=".venv/.installed-$1"
    # `|| true` would hide a failed install: the stamp is written last and only on success.
    if ! cmp -s "requirements/$1.lock" "$stamp"; then
        echo "Installing what requirements/$1.lock pins ..."
        .venv/bin/python -m pip install --quiet --disable-pip-version-check -r "requirements/$1.lock" ||
            stop "Installing failed; the message above says why. When it is mended:" "make setup"
        cp "requirements/$1.lock" "$stamp"
    fi
}

install run
if [ ! -e .venv/.installed-self ] || [ pyproject.toml -nt .venv/.installed-self ]; then
    .venv/bin/python -m pip install --quiet --disable-pip-version-check --no-deps --no-build-isolation -e .
    touch .venv/.installed-self
fi

# The heat balance and the films' look-up are compiled once, so that no page waits for them.
is_kept() { # folder, module: whether what was compiled is there and younger than its source
    for kept in "src/amber_gable/core/$1/__pycache__/$2".*.nbi; do
        if [ "$kept" -nt "src/amber_gable/core/$1/$2.py" ]; then return 0; fi
    done
    return 1
}
if [ ! -e .venv/.compiled ] || ! is_kept wall balance || ! is_kept coat ready; then
    echo "Compiling the heat balance ..."
    .venv/bin/python -c "from amber_gable.core.wall import balance; from amber_gable.core.coat import ready
balance.compile_now(); ready.compile_now()" && touch .venv/.compiled
fi

as_root_run() { # command; false where nobody here may
    if [ "$(id -u)" = 0 ]; then sh -c "$1"
    elif command -v sudo >/dev/null 2>&1 && sudo -n true 2>/dev/null; then sudo sh -c "$1"
    else return 1; fi
}
# PDFs need Pango from the system. Only printing depends on it: without it everything else runs.
if [ ! -e .venv/.has-pango ]; then
    if .venv/bin/python -c 'import weasyprint' >/dev/null 2>&1; then
        touch .venv/.has-pango
    else
        echo "Installing Pango from the system's packages, for PDFs ..."
        packages="libpango-1.0-0 libpangoft2-1.0-0 libharfbuzz-subset0"
        if as_root_run "apt-get update -qq && DEBIAN_FRONTEND=noninteractive apt-get install -y -qq $packages >/dev/null" &&
            .venv/bin/python -c 'import weasyprint' >/dev/null 2>&1; then
            touch .venv/.has-pango
        elif [ "$what" = test ]; then
            stop "Pango is missing for PDFs. Install it:" "$(as_root "apt-get install $packages")"
        else
            printf 'Pango is missing: PDFs will not print until it is there:\n    %s\n' "$(as_root "apt-get install $packages")" >&2
        fi
    fi
fi
[ "$what" = test ] || exit 0

install test
command -v chromium-headless-shell >/dev/null 2>&1 && exit 0
[ -e .venv/.no-shell ] && exit 0
has_browser() {
    for name in chromium chromium-browser google-chrome; do
        command -v $name >/dev/null 2>&1 && return 0
    done
    return 1
}
# The browser without its windows takes a third of the time; the whole one does as well.
echo "Installing Chromium from the system's packages, for the browser tests ..."
install_browser="DEBIAN_FRONTEND=noninteractive timeout 300 apt-get install -y -qq"
as_root_run "timeout 120 apt-get update -qq; $install_browser chromium-headless-shell >/dev/null" && exit 0
if has_browser; then touch .venv/.no-shell; exit 0; fi
as_root_run "$install_browser chromium >/dev/null" ||
    stop "Chromium is missing for the browser tests. Install it:" "$(as_root 'apt-get update') && $(as_root 'apt-get install chromium')"
