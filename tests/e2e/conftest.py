"""The real thing: application and weather stand-in as processes, Debian's Chromium in front."""

import os
import shutil
import subprocess
import sys
import time
import urllib.request
from collections.abc import Iterator
from contextlib import contextmanager, suppress
from dataclasses import dataclass
from pathlib import Path

import pytest
from playwright.sync_api import Page, expect

from amber_gable.demo.run import free_port
from amber_gable.services import jobs
from tests.conftest import DEMO_NOW, open_at


@pytest.fixture(scope="session")
def browser_type_launch_args() -> dict:
    browser = next((p for name in ("chromium", "chromium-browser", "google-chrome") if (p := shutil.which(name))), None)
    assert browser, "Chromium is missing: `make setup-test` installs it"
    arguments = ["--disable-dev-shm-usage", "--disable-gpu", "--disable-background-networking", "--disable-component-update"]
    if os.geteuid() == 0:
        arguments.append("--no-sandbox")
    return {"executable_path": browser, "args": arguments}


@pytest.fixture(scope="session")
def browser_context_args() -> dict:
    return {"viewport": {"width": 1280, "height": 800}, "locale": "en-US", "timezone_id": "Asia/Tokyo"}


@dataclass
class Site:
    """A running application and the process behind its weather."""

    url: str
    weather: "subprocess.Popen[bytes]"
    job_id: str

    def job(self, stage: str) -> str:
        return f"{self.url}/jobs/{self.job_id}/{stage}"


def start(*command: str, **environment: str) -> "subprocess.Popen[bytes]":
    return subprocess.Popen([sys.executable, "-m", "amber_gable.cli", *command], env={**os.environ, **environment})


# Machines are noisy: an answer may be slow, it must only come.
expect.set_options(timeout=20_000)


def wait_for(url: str, seconds: float = 90) -> None:
    until = time.monotonic() + seconds
    while time.monotonic() < until:
        with suppress(OSError), urllib.request.urlopen(url, timeout=1):
            return
        time.sleep(0.05)
    raise AssertionError(f"{url} did not answer within {seconds} s")


@contextmanager
def running(seeded_folder: Path, folder: Path) -> Iterator[Site]:
    """Run both processes on a copy of the seeded data."""
    shutil.copytree(seeded_folder, folder)
    known = open_at(folder)
    job_id = jobs.list_jobs(known)[0].id
    known.engine.dispose()
    port, weather_port = free_port(), free_port()
    weather = start("weather", "--port", str(weather_port))
    application = start(
        "serve", "--port", str(port),
        AMBER_GABLE_DATA_DIR=str(folder), AMBER_GABLE_WEATHER_URL=f"http://127.0.0.1:{weather_port}",
        AMBER_GABLE_NOW=DEMO_NOW.isoformat(), AMBER_GABLE_DEMO="true",
    )  # fmt: skip
    try:
        wait_for(f"http://127.0.0.1:{weather_port}/healthz")
        wait_for(f"http://127.0.0.1:{port}/healthz")
        yield Site(f"http://127.0.0.1:{port}", weather, job_id)
    finally:
        for process in (application, weather):
            process.terminate()
            process.wait(timeout=10)


@pytest.fixture
def site(seeded_folder: Path, tmp_path: Path) -> Iterator[Site]:
    with running(seeded_folder, tmp_path / "data") as found:
        yield found


@pytest.fixture
def quiet_page(page: Page) -> Iterator[Page]:
    """A page whose console must stay clean: no script error, nothing refused by the policy."""
    said: list[str] = []
    page.on("console", lambda m: said.append(m.text) if m.type == "error" and "422" not in m.text else None)
    page.on("pageerror", lambda e: said.append(str(e)))
    yield page
    assert said == []
