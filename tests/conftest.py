"""What many tests share: a seeded application on a set clock, and weather without a network."""

import shutil
from collections.abc import Callable, Iterator
from pathlib import Path
from typing import Any

import pytest
from fastapi.testclient import TestClient
from hypothesis import settings as hypothesis_settings

from amber_gable.core.knowledge import Knowledge, shipped
from amber_gable.demo.seed import seed
from amber_gable.services import jobs
from amber_gable.services.context import Context
from amber_gable.store.models import Job
from amber_gable.web.app import create_app
from tests.support.serving import InProcessWeather, open_at

# No deadline: the first example may have to import what is slow to import.
hypothesis_settings.register_profile("project", deadline=None)
hypothesis_settings.load_profile("project")


@pytest.fixture(scope="session")
def knowledge() -> Knowledge:
    return shipped()


@pytest.fixture(scope="session")
def seeded_folder(tmp_path_factory: pytest.TempPathFactory) -> Path:
    """A data folder with Tollkeeper's House, its forecast fetched; copied, never written."""
    folder = tmp_path_factory.mktemp("seeded")
    found = open_at(folder)
    seed(found)
    found.engine.dispose()
    return folder


@pytest.fixture
def opened(seeded_folder: Path, tmp_path: Path) -> Iterator[Context]:
    """The seeded application, its own copy."""
    folder = tmp_path / "data"
    shutil.copytree(seeded_folder, folder)
    found = open_at(folder)
    yield found
    found.engine.dispose()


@pytest.fixture
def weather(opened: Context) -> InProcessWeather:
    assert isinstance(opened.weather, InProcessWeather)
    return opened.weather


@pytest.fixture
def job(opened: Context) -> Job:
    return jobs.whole(opened, jobs.list_jobs(opened)[0].id)


@pytest.fixture
def client(opened: Context) -> TestClient:
    return TestClient(create_app(context=opened), raise_server_exceptions=False)


@pytest.fixture
def surface_named(job: Job) -> Callable[[str], Any]:
    def find(name: str) -> Any:
        return next(s for e in job.building.elevations for s in e.surfaces if s.name == name)

    return find
