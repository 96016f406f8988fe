"""The running application: settings, database, clock, weather service, kept results. One per process.

Not here: who acts, and for which contractor (scope); how a contractor is read (owners).
"""

from collections.abc import Callable, Iterator
from contextlib import contextmanager
from dataclasses import dataclass, field
from typing import Any, TypeVar

from sqlalchemy import Engine
from sqlalchemy.orm import Session

from amber_gable.services.app.cache import Latest, ResultCache
from amber_gable.services.app.calculator import Calculator
from amber_gable.services.app.clock import Clock
from amber_gable.services.app.owners import Owner
from amber_gable.services.app.settings import Settings
from amber_gable.services.outlook.weather.client import WeatherClient
from amber_gable.store.engine import file_of, refused_in
from amber_gable.store.models import Job
from amber_gable.store.turn import Turn
from amber_gable.store.watch import Watch

_T = TypeVar("_T")
# How many jobs stay in memory: more than are looked at in a day.
_JOBS_READ = 50


@dataclass
class App:
    """One running application; made once at start-up and passed on, never global.

    It knows no contractor of its own: what belongs to one is found through a `Scope`.
    """

    settings: Settings
    engine: Engine
    clock: Clock
    weather: WeatherClient
    # Results of long computations by their inputs; used through `Scope.cached`.
    cache: ResultCache = field(init=False)
    # Jobs with their buildings as they were last read; used through `jobs.whole`.
    jobs_read: Latest[Job] = field(default_factory=lambda: Latest(_JOBS_READ))
    # Contractors as they were last read, by id; used through `Scope.owner`.
    owners: dict[str, Owner] = field(default_factory=dict)
    # The contractor that this process serves where a scope names none.
    home_id: str | None = None
    # Where long computations go, so that pages stay quick; None computes at once, where one is asked.
    calculator: Calculator | None = None
    # Whether what imports slowly is imported: until then it answers, and is not called healthy.
    is_ready: bool = True
    # Prepares the start page and makes back-ups while serving.
    keeper: Any = None

    # Writes the sample jobs into the books of a contractor; None where none are at hand.
    samples: Callable[[Any], None] | None = None

    # Over the database file, while it is served.
    watch: Watch | None = None
    _turn: Turn = field(default_factory=Turn)

    # Plans that are being made, by contractor (services.planning.making.underway).
    plannings: dict[str, Any] = field(default_factory=dict)

    # Searches for better plans that are running, by contractor.
    searches: dict[str, Any] = field(default_factory=dict)

    def __post_init__(self) -> None:
        self.cache = ResultCache(self.settings.cache_mb * 1_000_000)

    def calculated(self, function: Callable[..., _T], *arguments: Any) -> _T:
        """Return `function(*arguments)`, in the calculator where it is free: for what takes long and is a function of values."""
        if self.calculator is None:
            return function(*arguments)
        # Nobody waits for the keeper: it can wait for the calculator.
        return self.calculator.run(function, *arguments, waits=self.keeper is not None and self.keeper.is_me)

    @contextmanager
    def reading(self) -> Iterator[Session]:
        """A session that only reads, of its own; close it before computing or asking elsewhere."""
        with Session(self.engine, expire_on_commit=False) as session:
            yield session

    @contextmanager
    def writing(self, *, durable: bool = True) -> Iterator[Session]:
        """A short write transaction, begun immediate. What users change goes through changes.

        Parameters
        ----------
        durable : bool
            Whether the end waits until it lies on the disk. Without, the power's end may take the last ones: for what can be made again.
        """
        engine = self.engine.execution_options(writing=True, durable=durable)
        with self._turn.taken(), Session(engine, expire_on_commit=False) as session, session.begin():
            session.connection()
            self._turn.writes()
            yield session
            # Before the end: what is acknowledged lies in the file that is found again.
            session.flush()
            if self.watch is not None:
                self.watch.check()

    @contextmanager
    def serving(self, loop: int) -> Iterator[None]:
        """Let the thread of the event loop ask the database nothing, and watch over its file."""
        file = file_of(self.settings.resolved_database_url)
        self.watch = Watch(file) if file is not None else None
        try:
            with refused_in(self.engine, loop):
                yield
        finally:
            self.watch = None

    def close(self) -> None:
        """Let go of what is open to the outside: the weather service's connection, the database's."""
        if self.keeper is not None:
            self.keeper.stop()
        for making in list(self.plannings.values()):
            making.stop()
        for search in list(self.searches.values()):
            search.stop()
        if self.calculator is not None:
            self.calculator.close()
        self.weather.close()
        self.engine.dispose()
