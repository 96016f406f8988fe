"""Applications to test: on a set clock, with weather in the same process or behind ports of their own."""

import shutil
import sqlite3
import time
from collections.abc import Iterator
from contextlib import contextmanager
from dataclasses import dataclass
from datetime import datetime
from functools import cache, partial
from pathlib import Path
from threading import Thread
from typing import Any
from unittest.mock import patch

import uvicorn
from fastapi import FastAPI
from fastapi.testclient import TestClient
from playwright.sync_api import Page, expect
from sqlalchemy import Engine

from amber_gable.services import datafolder, jobs
from amber_gable.services.context import Context
from amber_gable.services.weather_client import WeatherClient, WeatherServiceError
from amber_gable.settings import Settings
from amber_gable.standins.weather import create_app as create_weather
from amber_gable.store.engine import file_of, open_engine
from amber_gable.web.app import create_app, open_context

DEMO_NOW = datetime.fromisoformat("2026-09-15T06:50:00-05:00")
# The name that the test client calls the application by.
HOSTS = "testserver"


@cache
def _stand_in() -> TestClient:
    return TestClient(create_weather())


class InProcessWeather(WeatherClient):
    """The real client, its HTTP replaced by a call into the real stand-in; `down` is a fault to raise."""

    def __init__(self) -> None:
        super().__init__("http://weather.test", 10.0)
        self.service = _stand_in()
        self.down = ""
        self.calls = 0

    def _ask(self, path: str, params: dict[str, Any]) -> Any:
        self.calls += 1
        if self.down:
            raise WeatherServiceError(self.down)
        return self.service.get(path, params=params).json()


def open_at(folder: Path, now: datetime = DEMO_NOW, engine: Engine | None = None, **settings: Any) -> Context:
    """Return an application on a data folder, nothing prepared in the background.

    `engine` is one that was closed: it has compiled the application's questions, which takes longer than most tests ask them.
    """
    with patch.object(datafolder, "open_engine", open_engine if engine is None else partial(_moved, engine)):
        found = open_context(Settings(data_dir=folder, now=now, demo=True, hosts=HOSTS, prepares=False, **settings))
    found.weather = InProcessWeather()
    return found


def _moved(engine: Engine, url: str) -> Engine:
    file = file_of(url)
    engine.dispose()
    engine.pool._creator = lambda: sqlite3.connect(f"{file.absolute().as_uri()}?mode=rw", uri=True, check_same_thread=False)
    return engine


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


@contextmanager
def running(seeded_folder: Path, folder: Path, pool: Any = None) -> Iterator[Site]:
    """Run application and weather on a copy of the seeded data, each behind its port, asked by HTTP."""
    shutil.copytree(seeded_folder, folder)
    weather = Served(create_weather())
    opened = open_context(Settings(data_dir=folder, weather_url=weather.url, now=DEMO_NOW, demo=True, prepares=False))
    if pool is not None:
        pool.lend(opened)
    application = Served(create_app(context=opened))
    try:
        yield Site(application.url, weather, jobs.list_jobs(opened)[0].id)
    finally:
        application.stop()
        weather.stop()
        if pool is not None:
            pool.learn(opened)


def step_clock(page: Page, *hours: int) -> None:
    """Step the demonstration's clock, each time until the page shows it."""
    for h in hours:
        before = page.locator("[data-clock]").get_attribute("datetime")
        page.get_by_role("button", name=f"Step the demonstration clock by {h} h", exact=True).click()
        expect(page.locator("[data-clock]")).not_to_have_attribute("datetime", before)
