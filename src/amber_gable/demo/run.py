"""Starting the demonstration: weather stand-in, data, application; ending them together."""

import os
import shutil
import signal
import socket
import subprocess
import sys
import time
import urllib.request
from contextlib import suppress
from pathlib import Path

STARTS_AT = "2026-09-15T06:50:00-05:00"
_WEATHER_WAIT_S = 60.0


def free_port() -> int:
    with socket.socket() as probe:
        probe.bind(("127.0.0.1", 0))
        return int(probe.getsockname()[1])


def port_is_free(host: str, port: int) -> bool:
    with socket.socket() as probe:
        probe.setsockopt(socket.SOL_SOCKET, socket.SO_REUSEADDR, 1)
        try:
            probe.bind((host, port))
        except OSError:
            return False
    return True


def start_weather(port: int) -> "subprocess.Popen[bytes]":
    """Start the weather stand-in as a process of its own."""
    return subprocess.Popen([sys.executable, "-m", "amber_gable.cli", "weather", "--port", str(port)])


def start_gauge(port: int) -> "subprocess.Popen[bytes]":
    """Start the gauge stand-in as a process of its own."""
    return subprocess.Popen([sys.executable, "-m", "amber_gable.cli", "gauge", "--port", str(port)])


def wait_for(url: str, wait_s: float) -> bool:
    """Return whether `url` answered within `wait_s`."""
    until = time.monotonic() + wait_s
    while time.monotonic() < until:
        with suppress(OSError), urllib.request.urlopen(url, timeout=1):
            return True
        time.sleep(0.05)
    return False


def run(host: str, port: int, data_dir: Path, *, fresh: bool) -> None:
    """Run everything until Ctrl-C, then end everything."""
    if not port_is_free(host, port):
        print(f"Port {port} is taken. Choose another:  make demo PORT={port + 1}", file=sys.stderr)
        raise SystemExit(1)
    if fresh and data_dir.exists():
        shutil.rmtree(data_dir)
    # A plain kill ends everything too: without this the stand-in would outlive the application.
    signal.signal(signal.SIGTERM, lambda *_: sys.exit(0))
    weather_port = free_port()
    weather = start_weather(weather_port)
    gauge_port = free_port()
    gauge = start_gauge(gauge_port)
    try:
        _run_application(host, port, data_dir, f"http://127.0.0.1:{weather_port}", f"http://127.0.0.1:{gauge_port}")
    finally:
        for stand_in in (weather, gauge):
            stand_in.terminate()
        for stand_in in (weather, gauge):
            with suppress(subprocess.TimeoutExpired):
                stand_in.wait(timeout=5)
        if "amber_gable.web.app" in sys.modules:
            sys.modules["amber_gable.web.app"].end_process()


def _run_application(host: str, port: int, data_dir: Path, weather_url: str, gauge_url: str) -> None:
    from amber_gable.demo.seed import is_seeded, seed, seed_schedule
    from amber_gable.services.app.machine.datafolder import StartError
    from amber_gable.services.app.machine.opening import open_app
    from amber_gable.services.app.settings import SettingsError, read_settings
    from amber_gable.web.app import create_app, run_until_stopped

    try:
        settings = read_settings(
            data_dir=data_dir, database_url="", weather_url=weather_url, gauge_url=gauge_url,
            now=os.environ.get("AMBER_GABLE_NOW", STARTS_AT), demo=True, hosts=host,
        )  # fmt: skip
        app = open_app(settings)
    except (StartError, SettingsError) as fault:
        print(fault, file=sys.stderr)
        raise SystemExit(2) from fault
    if not is_seeded(app):
        print("Writing the demonstration's data ...", flush=True)
        job_id = seed(app)
        wait_for(f"{weather_url}/healthz", _WEATHER_WAIT_S)
        seed_schedule(app, job_id)
    print(f"\n  Amber Gable is at  http://{host}:{port}\n  Ctrl-C ends it.\n", flush=True)
    run_until_stopped(create_app(running=app), host=host, port=port)
