"""What many tests share: a seeded application on a set clock, and weather without a network."""

import os
import shutil
import ssl
import threading
import time
from collections.abc import Callable, Generator, Iterator
from functools import cache
from pathlib import Path
from typing import Any

import pytest
from anyio.from_thread import BlockingPortal, start_blocking_portal
from fastapi import FastAPI
from fastapi.testclient import TestClient
from hypothesis import settings as hypothesis_settings

from amber_gable.core.coat import ready
from amber_gable.core.knowledge import Knowledge
from amber_gable.core.knowledge.shipped import shipped
from amber_gable.core.wall import balance
from amber_gable.services.app.scope import Scope
from amber_gable.services.jobs import jobs
from amber_gable.store.models import Job
from amber_gable.web.app import create_app
from tests.support.pace import JOURNEY_S, QUICK_S, is_long, slowness
from tests.support.seeded import Pool, own_copy, seeded
from tests.support.serving import InProcessWeather, open_at
from tests.support.smallworld import seed_small

# Every client reads the certificates of the whole world anew, 15 ms each; ours speak to this machine alone.
ssl.create_default_context = cache(ssl.create_default_context)  # type: ignore[assignment]

# No deadline: the first example may have to import what is slow to import.
# One checkout has one verdict: `make test` tries the same examples each time, `make soak` looks for new ones.
hypothesis_settings.register_profile("project", deadline=None, derandomize=not is_long())
hypothesis_settings.load_profile("project")


@pytest.hookimpl(wrapper=True)
def pytest_runtest_call(item: pytest.Item) -> Generator[None, object, object]:
    """Fail a quick test that takes long: by its own CPU time, as the machine is in this minute; one that must says how long it may take."""
    began = time.process_time()
    result = yield
    took = time.process_time() - began
    takes = item.get_closest_marker("takes")
    usual = QUICK_S if item.get_closest_marker("e2e") is None else JOURNEY_S
    most = takes.args[0] if takes is not None else usual
    # A core that is shared with others counts more seconds for the same work: as the machine is now, and half as much again.
    most_now = 1.5 * most
    if took > most_now and not is_long() and item.get_closest_marker("slow") is None and (took := took / slowness()) > most_now:
        pytest.fail(f"{item.nodeid} took {took:.1f} s of the processor; it may take {most:g} s", pytrace=False)
    return result


@pytest.fixture(scope="session", autouse=True)
def compiled() -> None:
    """What is compiled once, after a change of its source: in no test's time."""
    balance.compile_now()
    ready.compile_now()


@pytest.fixture(scope="session")
def knowledge() -> Knowledge:
    return shipped()


@pytest.fixture(scope="session")
def root(tmp_path_factory: pytest.TempPathFactory) -> Path:
    """Where worlds are made: beside the folders of the run's other processes."""
    base = tmp_path_factory.getbasetemp()
    return base.parent if "PYTEST_XDIST_WORKER" in os.environ else base


@pytest.fixture(scope="session")
def seeded_once(root: Path) -> tuple[Path, Pool]:
    return seeded(root)


@pytest.fixture(scope="session")
def small_once(root: Path) -> tuple[Path, Pool]:
    return seeded(root, "small", seed_small)


@pytest.fixture
def world(request: pytest.FixtureRequest) -> tuple[Path, Pool]:
    """The data folder that a test begins with, and its pool: the demonstration's, or of a test marked "small" one house of three walls."""
    marks = {mark.name for mark in request.node.own_markers} & {"small", "four"}
    is_small = "small" in marks or ("four" not in marks and request.node.get_closest_marker("small") is not None)
    found: tuple[Path, Pool] = request.getfixturevalue("small_once" if is_small else "seeded_once")
    return found


@pytest.fixture(scope="session")
def seeded_folder(seeded_once: tuple[Path, Pool]) -> Path:
    """A data folder with the demonstration's jobs, its forecast fetched; copied, never written."""
    return seeded_once[0]


@pytest.fixture(scope="session")
def pool(seeded_once: tuple[Path, Pool]) -> Pool:
    """Results that tests share."""
    return seeded_once[1]


@pytest.fixture
def opened(world: tuple[Path, Pool], tmp_path: Path) -> Iterator[Scope]:
    """The seeded application, its own copy."""
    with own_copy(*world, tmp_path / "data") as scope:
        yield scope


@pytest.fixture
def weather(opened: Scope) -> InProcessWeather:
    assert isinstance(opened.weather, InProcessWeather)
    return opened.weather


@pytest.fixture
def job(opened: Scope) -> Job:
    return jobs.whole(opened, jobs.list_jobs(opened)[0].id)


@pytest.fixture(scope="session")
def application(seeded_folder: Path, tmp_path_factory: pytest.TempPathFactory) -> Iterator[FastAPI]:
    """The web application, its routes built once; each test gives it a scope of its own."""
    folder = tmp_path_factory.mktemp("application") / "data"
    shutil.copytree(seeded_folder, folder)
    scope = open_at(folder)
    yield create_app(running=scope.app)
    scope.app.close()


@pytest.fixture(scope="session")
def portal() -> Iterator[BlockingPortal]:
    """One loop for the requests of all tests; a client by itself begins one for each request."""
    with start_blocking_portal() as found:
        yield found


@pytest.fixture
def client(application: FastAPI, opened: Scope, portal: BlockingPortal) -> Iterator[TestClient]:
    application.state.running = opened.app
    found = TestClient(application, raise_server_exceptions=False)
    found.portal = portal
    # A question to the database from the event loop fails the test that made it.
    with opened.app.serving(portal.call(threading.get_ident)):
        yield found


@pytest.fixture
def surface_named(job: Job) -> Callable[[str], Any]:
    def find(name: str) -> Any:
        return next(s for e in job.building.elevations for s in e.surfaces if s.name == name)

    return find
