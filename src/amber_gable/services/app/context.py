"""What every use case needs: settings, database, clock, knowledge, weather."""

import logging
from collections.abc import Callable, Iterator
from contextlib import contextmanager
from dataclasses import dataclass, field
from datetime import datetime, timedelta
from typing import Any, TypeVar

from sqlalchemy import Engine
from sqlalchemy.orm import Session

from amber_gable.core.knowledge import Knowledge, Product, Sundry, shipped
from amber_gable.core.knowledge.shelf import read_sheet, with_shelf
from amber_gable.core.price.rates import with_prices
from amber_gable.errors import FieldErrors, PlanError
from amber_gable.services.app.cache import Latest, ResultCache
from amber_gable.services.app.calculator import Calculator
from amber_gable.services.app.clock import Clock
from amber_gable.services.outlook.weather_client import WeatherClient
from amber_gable.settings import Settings
from amber_gable.store import queries
from amber_gable.store.models import AppState, Job

log = logging.getLogger(__name__)
_T = TypeVar("_T")
_CLOCK_KEY = "demo clock"
MAX_STEP_H = 240
# How many jobs stay in memory: more than are looked at in a day.
_JOBS_READ = 50


@dataclass
class Context:
    """One running application; made once at start-up and passed on, never global."""

    settings: Settings
    engine: Engine
    clock: Clock
    weather: WeatherClient
    # The shipped tables with the contractor's own shelf over them, and the contractor's revision that they are of.
    knowledge: Knowledge = field(default_factory=shipped)
    shared_revision: int = 0
    # Results of long computations by their inputs; used through `cached`.
    cache: ResultCache = field(init=False)
    # Jobs with their buildings as they were last read; used through `jobs.whole`.
    jobs_read: Latest[Job] = field(default_factory=lambda: Latest(_JOBS_READ))
    # Where long computations go, so that pages stay quick; None computes at once, where one is asked.
    calculator: Calculator | None = None
    # Prepares the start page and makes back-ups while serving.
    keeper: Any = None

    def __post_init__(self) -> None:
        self.cache = ResultCache(self.settings.cache_mb * 1_000_000)

    def cached(self, key: Any, compute: Callable[[], _T]) -> _T:
        """Return what `compute` gives for `key`, computed once (see `ResultCache.get`)."""
        return self.cache.get(key, compute)

    def calculated(self, function: Callable[..., _T], *arguments: Any) -> _T:
        """Return `function(*arguments)`, in the calculator where it is free: for what takes long and is a function of values."""
        if self.calculator is None:
            return function(*arguments)
        # Nobody waits for the keeper: it can wait for the calculator.
        return self.calculator.run(function, *arguments, waits=self.keeper is not None and self.keeper.is_me)

    @contextmanager
    def reading(self) -> Iterator[Session]:
        """A session that only reads; close it before computing or asking elsewhere."""
        with Session(self.engine, expire_on_commit=False) as session:
            yield session

    @contextmanager
    def writing(self) -> Iterator[Session]:
        """A short write transaction, begun immediate. What users change goes through changes."""
        with Session(self.engine.execution_options(writing=True), expire_on_commit=False) as session, session.begin():
            yield session

    def close(self) -> None:
        """Let go of what is open to the outside: the weather service's connection, the database's."""
        if self.keeper is not None:
            self.keeper.stop()
        if self.calculator is not None:
            self.calculator.close()
        self.weather.close()
        self.engine.dispose()

    def lay_shelf(self) -> None:
        """Lay the contractor's own shelf and prices over the shipped ones: at the start, and whenever they were changed or undone."""
        coatings: dict[str, Product] = {}
        sundries: dict[str, Sundry] = {}
        with self.reading() as session:
            rows = queries.shelf_rows(session)
            owner = queries.contractor(session)
        for row in rows:
            try:
                sheet = read_sheet(row.kind, row.key, row.sheet, shipped())  # type: ignore[arg-type]
            except FieldErrors as fault:
                # Kept from before a table changed: the rest of the shelf must not fall with it.
                log.warning("the data sheet %s cannot be used any more: %s", row.key, fault)
                continue
            if isinstance(sheet, Product):
                coatings[row.key] = sheet
            else:
                sundries[row.key] = sheet
        self.knowledge = with_shelf(shipped(), coatings, sundries)
        try:
            self.knowledge = with_prices(self.knowledge, owner.prices if owner else {})
        except FieldErrors as fault:
            log.warning("the contractor's own prices cannot be used any more: %s", fault)
        self.shared_revision = owner.revision if owner else 0


def resume_clock(context: Context) -> None:
    """Let a demo clock that was stepped forward go on from there after a restart."""
    if not context.clock.is_set:
        return
    with context.reading() as session:
        row = session.get(AppState, _CLOCK_KEY)
    if row is not None:
        reached = datetime.fromisoformat(row.value)
        if reached > context.clock.now():
            context.clock.set(reached)


def step_clock(context: Context, hours: float) -> None:
    """Step a set clock forward; for the demonstration.

    Raises
    ------
    PlanError
        If the clock runs on real time, or the step is not forward.
    """
    if not (context.settings.demo and context.clock.is_set):
        raise PlanError("Only the demonstration's clock can be stepped.", "hours")
    if not 0 < hours <= MAX_STEP_H:
        raise PlanError(f"Step the clock forward by more than 0 and at most {MAX_STEP_H} hours.", "hours")
    to = context.clock.now() + timedelta(hours=hours)
    context.clock.set(to)
    with context.writing() as session:
        session.merge(AppState(key=_CLOCK_KEY, value=to.isoformat()))
