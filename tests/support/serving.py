"""Applications to test: on a set clock, with weather in the same process or behind ports of their own."""

import sqlite3
import time
from dataclasses import dataclass
from datetime import datetime, timedelta
from functools import cache
from pathlib import Path
from threading import Thread
from typing import Any
from urllib.parse import urljoin

import uvicorn
from fastapi import FastAPI
from fastapi.testclient import TestClient
from playwright.sync_api import Page
from sqlalchemy import Engine

from amber_gable.services.app.app import App
from amber_gable.services.app.clock import Clock
from amber_gable.services.app.machine.opening import open_app
from amber_gable.services.app.scope import OFFICE, Scope
from amber_gable.services.app.settings import Settings
from amber_gable.services.outlook.weather.client import WeatherClient, WeatherServiceError
from amber_gable.standins.weather import create_app as create_weather
from amber_gable.store.engine import file_of, open_engine
from amber_gable.web.app import create_app

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


def open_at(folder: Path, now: datetime = DEMO_NOW, **settings: Any) -> Scope:
    """Return an application on a data folder, nothing prepared in the background."""
    # One course of the weather beyond the forecast, and whoever asks for a plan waits for it.
    given = {"hosts": HOSTS, "prepares": False, "demo": True, "plan_courses": 1, "forecast_members": 20, "plan_waits_s": 600} | settings
    app = open_app(Settings(data_dir=folder, now=now, **given))
    if "weather_url" not in settings:
        app.weather = InProcessWeather()
    return Scope(app, OFFICE)


def open_like(seeded: Scope, folder: Path, engine: Engine | None, **settings: Any) -> Scope:
    """Return an application on a copy of a data folder that is open already: nothing of it is looked at again.

    `engine` is one that was closed: it has compiled the application's questions, which takes longer than most tests ask them.
    """
    own = seeded.settings.model_copy(update={"data_dir": folder} | settings)
    if engine is None:
        engine = open_engine(own.resolved_database_url)
    else:
        engine.dispose()
        file = file_of(own.resolved_database_url)
        engine.pool._creator = lambda: sqlite3.connect(f"{file.absolute().as_uri()}?mode=rw", uri=True, check_same_thread=False)
    weather = WeatherClient(own.weather_url, own.weather_timeout_s) if "weather_url" in settings else InProcessWeather()
    app = App(own, engine, Clock(own.now), weather, owners=dict(seeded.app.owners), home_id=seeded.app.home_id)
    return Scope(app, OFFICE)


class Served:
    """An application behind a real port, on a thread of its own: a process each would spend its time on imports."""

    def __init__(self, app: FastAPI) -> None:
        self.app = app
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

    def wait_until_idle(self) -> None:
        until = time.monotonic() + 60
        listening = self.app.state.__dict__.get("listening")
        # Pages that listen hold their connections open; all others end.
        while len(self.server.server_state.tasks) > (listening.count if listening else 0) and time.monotonic() < until:
            time.sleep(0.01)

    def stop(self) -> None:
        self.server.should_exit = True
        self.thread.join(timeout=60)


@dataclass
class Site:
    """A running application and the server of its weather."""

    url: str
    weather: Served
    job_id: str

    def job(self, stage: str) -> str:
        return f"{self.url}/jobs/{self.job_id}/{stage}"


_running: dict[str, Served] = {}


def serve_on(opened: Scope) -> Served:
    """Return the one application of this process behind a port, its data from now on those of `opened`."""
    if "application" not in _running:
        application = create_app(running=opened.app)
        _running["application"] = Served(application)
    served = _running["application"]
    served.app.state.running = opened.app
    return served


def serving_now() -> App:
    """Return the application that is behind the port now."""
    running: App = _running["application"].app.state.running
    return running


def weather_behind_a_port() -> Served:
    """Return the one stand-in of this process; another where a test stopped it."""
    if "weather" not in _running or not _running["weather"].thread.is_alive():
        _running["weather"] = Served(create_weather())
    return _running["weather"]


def tap_clock(page: Page, hours: int) -> None:
    """Tap a step of the demonstration's clock."""
    # On a phone it lies behind the bar's one button.
    if page.locator("[data-more]").is_visible() and not page.locator("#demo-clock").is_visible():
        page.locator("[data-more]").click()
    page.get_by_role("button", name=f"Step the demonstration clock by {hours} h", exact=True).click()


def step_clock(page: Page, *hours: int) -> None:
    """Step the demonstration's clock, and load the page until it shows the time: asked for as a tap does, which news could swallow."""
    back = page.url
    before = datetime.fromisoformat(page.locator("[data-clock]").get_attribute("datetime"))
    for h in hours:
        answer = page.request.post(urljoin(back, "/demo/clock"), form={"hours": str(h)}, headers={"hx-request": "true"})
        assert answer.ok, answer.text()
    # A few minutes less: the clock goes on meanwhile, and a step is by the hour.
    reached = before + timedelta(hours=sum(hours), minutes=-5)
    until = time.monotonic() + 90
    while True:
        page.goto("about:blank")
        page.goto(back)
        # A phone shows the page that it carries while the server computes.
        if datetime.fromisoformat(page.locator("[data-clock]").get_attribute("datetime")) >= reached:
            return
        assert time.monotonic() < until, "the page does not show the time"
        page.wait_for_timeout(500)
