"""The seeded application, made once for the whole run, and results that tests share.

The demonstration's data, its first forecast and all that is computed of them are the same in every test until the test changes
something; so they are computed once. Results whose key holds everything they were computed from are shared between all tests.
"""

import fcntl
import os
import pickle
import shutil
from collections import OrderedDict
from collections.abc import Callable, Hashable, Iterator
from contextlib import contextmanager
from pathlib import Path
from typing import Any, TypeVar

from sqlalchemy import Engine, delete

from amber_gable.core.air.sun import Place
from amber_gable.demo.seed import seed
from amber_gable.services.app.app import App
from amber_gable.services.app.scope import Scope
from amber_gable.services.jobs import jobs
from amber_gable.services.outlook import outlook
from amber_gable.services.outlook.windowcard import chances_of
from amber_gable.services.planning import morning
from amber_gable.services.planning.making.crewplan import plan_jobs, running_outlooks
from amber_gable.services.takeoff.job import job_takeoff
from amber_gable.store.models import ForecastIssue, ObservedHour
from tests.support.serving import Site, open_at, open_like, serve_on, weather_behind_a_port

_T = TypeVar("_T")
_WARM, _DATA = "warm.pickle", "data"
# What such a key begins with; an outlook's begins with its place.
_CONTENT = ("lit", "peak", "clear day", "sun side", "hours", "chances", "laid", "planned")
_MOST_BYTES = 500_000_000
# Those that no test uses at the moment.
_ENGINES: list[Engine] = []


class Pool:
    """Results that are right wherever their key is asked for, within one process of the run."""

    def __init__(self) -> None:
        self.kept: OrderedDict[Hashable, tuple[Any, int]] = OrderedDict()
        self.size_bytes = 0
        self.seeded: Scope | None = None

    def open(self, seeded_folder: Path) -> Scope:
        """Return the seeded application itself, its jobs read; nothing may be written to it."""
        if self.seeded is None:
            shutil.copytree(seeded_folder, own := seeded_folder.parent / f"read-{os.getpid()}")
            self.seeded = open_at(own)
            for row in jobs.list_jobs(self.seeded):
                jobs.whole(self.seeded, row.id)
            self.seeded.app.engine.dispose()
        return self.seeded

    def lend(self, scope: Scope) -> None:
        """Give a fresh application what is known already."""
        if self.seeded is not None:
            scope.app.jobs_read._kept = self.seeded.app.jobs_read._kept.copy()
        scope.app.cache.limit_bytes = max(scope.app.cache.limit_bytes, 2 * _MOST_BYTES)
        scope.app.cache._kept = self.kept.copy()
        scope.app.cache._size_bytes = self.size_bytes

    def learn(self, scope: Scope) -> None:
        """Keep what a test computed and any other may use."""
        for key, (value, size) in scope.app.cache._kept.items():
            if key not in self.kept and _is_content(key.of) and self.size_bytes + size < _MOST_BYTES:
                self.kept[key] = (value, size)
                self.size_bytes += size


def _is_content(key: Hashable) -> bool:
    return isinstance(key, tuple) and (key[0] in _CONTENT if isinstance(key[0], str) else isinstance(key[0], Place))


def made_once(folder: Path, make: Callable[[], _T]) -> _T:
    """Return what `make` gives, made in a folder by whichever process of the run comes first; the others wait for it, and read it."""
    with folder.with_suffix(".lock").open("w") as lock:
        fcntl.flock(lock, fcntl.LOCK_EX)
        if not (folder / _WARM).exists():
            shutil.rmtree(folder, ignore_errors=True)
            folder.mkdir()
            (folder / _WARM).write_bytes(pickle.dumps(make()))
    found: _T = pickle.loads((folder / _WARM).read_bytes())
    return found


def _make(folder: Path, write: Callable[[App], object]) -> OrderedDict[Hashable, tuple[Any, int]]:
    scope = open_at(folder / _DATA)
    write(scope.app)
    for row in jobs.list_jobs(scope):
        job = jobs.whole(scope, row.id)
        morning.job_morning(scope, job)
        job_takeoff(scope, job)
    house = jobs.whole(scope, jobs.list_jobs(scope)[0].id)
    ahead = outlook.outlook(scope, house, outlook.status(scope, house))
    for surface_id in ahead.surface_ids:
        chances_of(scope, house, ahead, surface_id)
    # What most tests ask for first; nothing is written.
    plan_jobs(scope, running_outlooks(scope))
    scope.app.close()
    return scope.app.cache._kept


def seeded(root: Path, name: str = "seeded", write: Callable[[App], object] = seed) -> tuple[Path, Pool]:
    """Return a seeded data folder, made by whichever process comes first, and the results that go with it.

    Parameters
    ----------
    root : Path
        Beside what other processes of the run make.
    name : str
        Of its world.
    write : callable
        What writes that world into an empty application.
    """
    folder = root / name
    pool = Pool()
    pool.kept = made_once(folder, lambda: _make(folder, write))
    pool.size_bytes = sum(size for _, size in pool.kept.values())
    return folder / _DATA, pool


@contextmanager
def own_copy(seeded_folder: Path, pool: Pool, folder: Path, **settings: Any) -> Iterator[Scope]:
    """Open a copy of the seeded application, warm; what is computed in it that others may use is learnt."""
    shutil.copytree(seeded_folder, folder)
    scope = open_like(pool.open(seeded_folder), folder, _ENGINES.pop() if _ENGINES else None, **settings)
    pool.lend(scope)
    yield scope
    pool.learn(scope)
    scope.app.engine.dispose()
    _ENGINES.append(scope.app.engine)


@contextmanager
def running(seeded_folder: Path, pool: Pool, folder: Path) -> Iterator[Site]:
    """Run application and weather on a copy of the seeded data, each behind its port, asked by HTTP."""
    weather = weather_behind_a_port()
    with own_copy(seeded_folder, pool, folder, weather_url=weather.url, hosts="") as opened:
        served = serve_on(opened)
        yield Site(served.url, weather, jobs.list_jobs(opened)[0].id)
        # A page that is still open may be saving: into its own data, not the next test's.
        served.wait_until_idle()
        opened.weather.close()


def forget_weather(scope: Scope) -> Scope:
    """Return the application as it is before any forecast came."""
    with scope.writing() as session:
        session.execute(delete(ForecastIssue))
        session.execute(delete(ObservedHour))
    return scope
