"""The real thing: application and weather stand-in behind ports, Debian's Chromium in front."""

import os
import shutil
import time
from collections.abc import Iterator
from contextlib import contextmanager
from dataclasses import dataclass
from pathlib import Path
from threading import Thread

import pytest
import uvicorn
from fastapi import FastAPI
from playwright.sync_api import Page, expect

from amber_gable.services import jobs
from amber_gable.settings import Settings
from amber_gable.standins.weather import create_app as create_weather
from amber_gable.web.app import create_app, open_context
from tests.conftest import DEMO_NOW


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


class Served:
    """An application behind a real port, on a thread of its own: a process each would spend its time on imports."""

    def __init__(self, app: FastAPI) -> None:
        # Port 0: the system chooses, and nobody can take it in between.
        self.server = uvicorn.Server(uvicorn.Config(app, host="127.0.0.1", port=0, log_level="warning"))
        self.thread = Thread(target=self.server.run, daemon=True)
        self.thread.start()
        until = time.monotonic() + 60
        while not self.server.started:
            assert self.thread.is_alive() and time.monotonic() < until, "the server did not start"  # noqa: PT018
            time.sleep(0.01)
        port = self.server.servers[0].sockets[0].getsockname()[1]
        self.url = f"http://127.0.0.1:{port}"

    def stop(self) -> None:
        self.server.should_exit = True
        self.thread.join(timeout=10)


@dataclass
class Site:
    """A running application and the server of its weather."""

    url: str
    weather: Served
    job_id: str

    def job(self, stage: str) -> str:
        return f"{self.url}/jobs/{self.job_id}/{stage}"


# Machines are noisy: an answer may be slow, it must only come.
expect.set_options(timeout=20_000)


@contextmanager
def running(seeded_folder: Path, folder: Path) -> Iterator[Site]:
    """Run application and weather on a copy of the seeded data, each behind its port, asked by HTTP."""
    shutil.copytree(seeded_folder, folder)
    weather = Served(create_weather())
    opened = open_context(Settings(data_dir=folder, weather_url=weather.url, now=DEMO_NOW, demo=True))
    application = Served(create_app(context=opened))
    try:
        yield Site(application.url, weather, jobs.list_jobs(opened)[0].id)
    finally:
        application.stop()
        weather.stop()


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


def step_clock(page: Page, *hours: int) -> None:
    """Step the demonstration's clock, each time until the page shows it."""
    for h in hours:
        before = page.locator("[data-clock]").get_attribute("datetime")
        page.get_by_role("button", name=f"Step the demonstration clock by {h} h", exact=True).click()
        expect(page.locator("[data-clock]")).not_to_have_attribute("datetime", before)
