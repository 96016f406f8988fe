"""The project itself: the frame that later steps stand on."""

import os
import re
import shutil
import signal
import ssl
import subprocess
import sys
from pathlib import Path

import pytest

from amber_gable.demo.run import free_port, wait_for
from amber_gable.drawing.tokens import as_css

ROOT = Path(__file__).parents[1]
SOURCE = ROOT / "src" / "amber_gable"

# What later steps need, and no start-up pays for.
COMING = ("ortools", "holidays", "argon2", "tzfpy")


def test_locks_pin_exactly_and_name_no_host():
    for name in ("run", "test"):
        lines = (ROOT / "requirements" / f"{name}.lock").read_text().splitlines()
        pins = [line for line in lines if not line.startswith("#")]
        assert pins
        assert all(re.fullmatch(r"[A-Za-z0-9._-]+==[\w.+!-]+", pin) for pin in pins), pins
    declared = re.findall(r'^  "([\w-]+)', (ROOT / "pyproject.toml").read_text().split("[project.scripts]")[0], re.M)
    pinned = {
        re.sub("[-_.]+", "-", line.split("==")[0]).lower()
        for n in ("run", "test")
        for line in (ROOT / "requirements" / f"{n}.lock").read_text().splitlines()
    }
    assert {re.sub("[-_.]+", "-", d).lower() for d in declared} <= pinned


def test_modules_can_be_read_in_one_sitting():
    long = {str(p.relative_to(ROOT)): n for p in SOURCE.rglob("*.py") if (n := len(p.read_text().splitlines())) > 400}
    assert long == {}


@pytest.mark.parametrize(
    ("module", "forbidden"),
    [
        # Slow imports are kept out of start-up; the stand-in needs nothing of them at all.
        (
            "amber_gable.web.app",
            {"pvlib", "pandas", "scipy", "pint", "icalendar", "alembic", "h5py", "ortools", "holidays", "argon2", "tzfpy", "numba"},
        ),
        ("amber_gable.standins.weather", {"pvlib", "pandas", "scipy", "pint", "numpy", "sqlalchemy", "amber_gable.core"}),
        ("amber_gable.core.windows", {"pvlib", "sqlalchemy", "fastapi", "httpx"}),
    ],
)
def test_start_up_stays_light(module, forbidden):
    code = f"import sys, {module}; print(' '.join(sys.modules))"
    loaded = set(subprocess.run([sys.executable, "-c", code], capture_output=True, text=True, check=True).stdout.split())
    assert loaded & forbidden == set()


def test_a_local_certificate_is_made_once_and_covers_this_machine(tmp_path):
    from cryptography import x509

    from amber_gable.services.app.machine.certificates import AUTHORITY, fingerprint, local_certificate

    certificate, key = local_certificate(tmp_path / "tls")
    known = x509.load_pem_x509_certificate(certificate.read_bytes())
    names = known.extensions.get_extension_for_class(x509.SubjectAlternativeName).value
    assert "localhost" in names.get_values_for_type(x509.DNSName)
    assert "127.0.0.1" in {str(a) for a in names.get_values_for_type(x509.IPAddress)}
    assert oct(key.stat().st_mode & 0o777) == "0o600"
    first = certificate.read_bytes()
    assert local_certificate(tmp_path / "tls")[0].read_bytes() == first

    # Who trusts the authority connects without a word; who does not is refused; another name is not this machine's.
    served = ssl.SSLContext(ssl.PROTOCOL_TLS_SERVER)
    served.load_cert_chain(certificate, key)
    assert shakes_hands(served, ssl.create_default_context(cafile=tmp_path / "tls" / AUTHORITY), "127.0.0.1") == ""
    assert "self-signed" in shakes_hands(served, ssl.create_default_context(), "127.0.0.1")
    assert "not valid for" in shakes_hands(served, ssl.create_default_context(cafile=tmp_path / "tls" / AUTHORITY), "192.0.2.9")
    assert len(fingerprint(tmp_path / "tls").split(":")) == 32


def shakes_hands(served: ssl.SSLContext, trusting: ssl.SSLContext, name: str) -> str:
    """Return what a client says against a server that it calls by a name; empty for nothing."""
    to_client, from_client, to_server, from_server = (ssl.MemoryBIO() for _ in range(4))
    client = trusting.wrap_bio(to_client, from_client, server_hostname=name)
    server = served.wrap_bio(to_server, from_server, server_side=True)
    for _ in range(6):
        for side in (client, server):
            try:
                side.do_handshake()
            except ssl.SSLWantReadError:
                pass
            except ssl.SSLError as fault:
                return str(fault)
            to_server.write(from_client.read())
            to_client.write(from_server.read())
    return ""


def test_setup_prints_the_command_that_mends_an_old_python(tmp_path):
    old = tmp_path / "python3"
    old.write_text("#!/bin/sh\n[ \"$1\" = --version ] && echo 'Python 3.9.2' && exit 0\nexit 1\n")
    old.chmod(0o755)
    # Only this Python in sight, so that no newer one is found instead.
    environment = {**os.environ, "PATH": f"{tmp_path}:/usr/bin:/bin", "PYTHON": str(old)}
    script = tmp_path / "scripts" / "setup.sh"
    script.parent.mkdir()
    text = (ROOT / "scripts" / "setup.sh").read_text().replace("python3.13 python3.12 python3.11", "no-such-python")
    script.write_text(text)
    result = subprocess.run(["sh", str(script), "run"], capture_output=True, text=True, env=environment, check=False)
    assert result.returncode == 1
    assert "Python 3.11 or newer is needed; this is Python 3.9.2" in result.stderr
    assert "make PYTHON=" in result.stderr


def test_a_taken_port_is_named_before_anything_starts():
    import socket

    with socket.socket() as taken:
        taken.bind(("127.0.0.1", 0))
        taken.listen()
        port = taken.getsockname()[1]
        result = subprocess.run(
            [sys.executable, "-m", "amber_gable.cli", "demo", "--port", str(port)], capture_output=True, text=True, check=False
        )
    assert result.returncode == 1
    assert f"make demo PORT={port + 1}" in result.stderr


@pytest.mark.parametrize("ending", [signal.SIGINT, pytest.param(signal.SIGTERM, marks=pytest.mark.slow)])
def test_ending_the_demonstration_ends_all_of_it(tmp_path, seeded_folder, ending):
    shutil.copytree(seeded_folder, tmp_path / "demo")
    port = free_port()
    command = [sys.executable, "-m", "amber_gable.cli", "demo", "--port", str(port), "--data-dir", str(tmp_path / "demo")]
    own = os.environ | {"AMBER_GABLE_PREPARES": "false"}
    process = subprocess.Popen(command, stdout=subprocess.DEVNULL, stderr=subprocess.PIPE, text=True, env=own)
    assert wait_for(f"http://127.0.0.1:{port}/static/mark.svg", 120)
    # Its own children only: another demonstration may run on this machine.
    children = Path(f"/proc/{process.pid}/task/{process.pid}/children").read_text().split()
    assert children
    process.send_signal(ending)
    _, said = process.communicate(timeout=60)
    assert "Traceback" not in said
    assert not any(Path(f"/proc/{child}").exists() for child in children)


# Where each file is one of a kind, or of another maker, there may be more.
MANY = ("web/templates", "store/migrations", "web/static/vendor")


def test_no_folder_holds_more_than_twelve_entries():
    package = ROOT / "src" / "amber_gable"
    folders = [f for f in (package, *package.rglob("*")) if f.is_dir() and f.name != "__pycache__"]
    counts = {str(f.relative_to(package)): sum(e.name != "__pycache__" for e in f.iterdir()) for f in folders}
    assert {name: n for name, n in counts.items() if n > 12 and not name.startswith(MANY)} == {}
    heads = {f: (f / "__init__.py").read_text() for f in folders if (f / "__init__.py").exists() and "migrations" not in f.parts}
    assert [str(f) for f, text in heads.items() if not text.startswith('"""')] == [], "each says what is inside and what is elsewhere"


def test_no_line_of_a_template_is_longer_than_a_screen_is_wide():
    pages = (SOURCE / "web" / "templates").rglob("*.html")
    assert {str(p): n for p in pages if (n := max(map(len, p.read_text().splitlines()))) > 160} == {}
    scripts = (SOURCE / "web" / "static" / "js").rglob("*.js")
    assert {p.name: n for p in scripts if (n := len(p.read_text().splitlines())) >= 200} == {}


def test_colours_stand_in_one_file():
    assert (ROOT / "src/amber_gable/web/static/css/tokens.css").read_text() == as_css(), "make tokens"
    places = [*(ROOT / "src/amber_gable/web/static/css").rglob("*.css"), *(ROOT / "src/amber_gable/drawing").rglob("*.py")]
    own = {p.name: found for p in places if p.name != "tokens.css" and (found := re.findall(r"#[0-9a-fA-F]{6}\b", p.read_text()))}
    assert own == {}


@pytest.mark.slow
def test_libraries_for_the_coming_steps_run_here():
    """Accounts, zones of places, holidays, plans: each does its smallest piece of work with the version that is pinned."""
    code = """
import holidays
from argon2 import PasswordHasher
from ortools.sat.python import cp_model
from tzfpy import get_tz
hasher = PasswordHasher(time_cost=1, memory_cost=1024, parallelism=1)
assert hasher.verify(hasher.hash("ladder"), "ladder")
assert "2026-07-04" in holidays.country_holidays("US", years=2026)
assert get_tz(-91.25, 43.80) == "America/Chicago"
model = cp_model.CpModel()
first, second = model.new_int_var(0, 9, "first"), model.new_int_var(0, 9, "second")
model.add(second >= first + 3)
model.minimize(second)
solver = cp_model.CpSolver()
assert solver.solve(model) == cp_model.OPTIMAL and solver.value(second) == 3
"""
    assert subprocess.run([sys.executable, "-c", code], capture_output=True, text=True, check=False).stderr == ""
