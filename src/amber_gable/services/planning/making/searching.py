"""Searching for a better plan in a process of its own: begun, followed, stopped, taken. Each search is a row; the plan stands meanwhile.

Not here: how better plans are found (core.planning.crew.search), how a plan is kept (schedules).
"""

import hashlib
import logging
import pickle
import subprocess
import sys
import time
from collections.abc import Mapping
from contextlib import suppress
from dataclasses import asdict, dataclass
from threading import Thread
from typing import TYPE_CHECKING, Any

from amber_gable.core.knowledge.assumptions import assumed
from amber_gable.core.planning.crew.money import Cost
from amber_gable.core.planning.crew.search import Given, Tried, Way, improved, tried, usual_way
from amber_gable.core.planning.crew.values import Habits
from amber_gable.errors import NotFoundError, PlanError
from amber_gable.services.app.calculator import begin, receive, send
from amber_gable.services.app.scope import Scope
from amber_gable.services.planning.making.courses import turned
from amber_gable.services.planning.making.crewplan import asked_of, frame_of, running_outlooks
from amber_gable.store import queries
from amber_gable.store.models import PlanSearch
from amber_gable.store.types import new_id

if TYPE_CHECKING:
    from amber_gable.services.app.app import App

log = logging.getLogger(__name__)
TRIES = int(assumed("search_tries"))
# How often the process tells how far it is.
_TELLS_S = 0.3
_RUNNING, _DONE, _STOPPED, _FAILED, _TAKEN, _LEFT = "running", "done", "stopped", "failed", "taken", "left"


@dataclass(frozen=True)
class Look:
    """A search as a page shows it.

    Parameters
    ----------
    first, best : Cost or None
        What the plan cost at first, and the best so far.
    is_better : bool
        What was found costs so much less that it is worth taking.
    """

    id: str
    state: str
    tried: int
    tries: int
    first: Cost | None
    best: Cost | None
    fault: str

    @property
    def is_running(self) -> bool:
        return self.state == _RUNNING

    @property
    def saves(self) -> float:
        return self.first.total - self.best.total if self.first and self.best else 0.0

    @property
    def is_better(self) -> bool:
        return self.state in (_DONE, _STOPPED) and self.first is not None and self.saves > _WORTH_SHARE * self.first.total


# What is found must cost so much less, of the whole, that it is worth the moves.
_WORTH_SHARE = 0.005


def newest(scope: Scope) -> Look | None:
    """Return the newest search; None where there was none. One whose process is gone has failed."""
    with scope.reading() as session:
        rows = queries.plan_searches(session, scope.contractor_id)
        row = rows[0] if rows else None
    if row is None:
        return None
    state, fault = row.state, row.fault
    if state == _RUNNING and scope.contractor_id not in scope.app.searches:
        state, fault = _FAILED, "The application was started anew meanwhile."
    return Look(row.id, state, row.tried, row.tries, _cost(row.first_cost), _cost(row.best_cost), fault)


def _cost(kept: Mapping[str, Any]) -> Cost | None:
    return Cost(**kept) if kept else None


def way_of(scope: Scope) -> Way | None:
    """Return how the plan that was taken last is dispatched; None for the usual."""
    with scope.reading() as session:
        taken = next((row for row in queries.plan_searches(session, scope.contractor_id) if row.state in (_TAKEN, _LEFT)), None)
    return _way(taken.way) if taken is not None and taken.state == _TAKEN and taken.way else None


def _way(kept: Mapping[str, Any]) -> Way:
    return Way(tuple(kept["jobs"]), Habits(**kept["habits"]), dict(kept["pressing"]))


def forget_way(scope: Scope) -> None:
    """Go back to the usual way of dispatching."""
    with scope.writing() as session:
        for row in queries.plan_searches(session, scope.contractor_id):
            if row.state == _TAKEN:
                row.state = _LEFT


def begin_search(scope: Scope, tries: int = TRIES) -> None:
    """Begin a search; where one is running, that one goes on.

    Raises
    ------
    PlanError
        If there is nothing to plan.
    """
    search = Search(scope.app, new_id(), scope.contractor_id)
    if scope.app.searches.setdefault(scope.contractor_id, search) is not search:
        return
    try:
        there = running_outlooks(scope)
        if not there:
            raise PlanError("No job is running that could be planned.", "form")
        asked = asked_of(scope, there, frame_of(scope.clock.now()), ())
        given = turned(asked.given, asked.known, 0)
        row = PlanSearch(
            id=search.row_id, contractor_id=scope.contractor_id, asked_at=scope.clock.now(), asked_by=scope.actor,
            mark=hashlib.sha256(pickle.dumps(given)).hexdigest(), state=_RUNNING, tries=tries, tried=0, first_cost={}, best_cost={},
            way={}, fault="",
        )  # fmt: skip
        with scope.writing() as session:
            session.add(row)
        search.start(given, tries, way_of(scope))
    except BaseException:
        # Nothing runs: the next one who asks may begin.
        scope.app.searches.pop(scope.contractor_id, None)
        raise


def stop_search(scope: Scope) -> None:
    """Stop a running search: the best that it found stays."""
    search = scope.app.searches.get(scope.contractor_id)
    if search is not None:
        search.stop()


def found_way(scope: Scope, search_id: str) -> Way:
    """Return the way that a search found.

    Raises
    ------
    NotFoundError
        If it is not there, or found nothing better.
    """
    look = newest(scope)
    if look is None or look.id != search_id or not look.is_better:
        raise NotFoundError("This search has nothing to take (any more). Search again.")
    with scope.reading() as session:
        row = session.get(PlanSearch, search_id)
        assert row is not None, "it was just read"
        return _way(row.way)


def settle(scope: Scope, search_id: str, *, is_taken: bool) -> None:
    """Note that what a search found was taken, or left."""
    with scope.writing() as session:
        for row in queries.plan_searches(session, scope.contractor_id):
            if row.id == search_id:
                row.state = _TAKEN if is_taken else _LEFT
            elif row.state == _TAKEN and is_taken:
                row.state = _LEFT


class Search:
    """A search that runs: its process, and a thread that writes down how far it is."""

    def __init__(self, app: "App", row_id: str, contractor_id: str) -> None:
        self._app, self.row_id, self._contractor_id = app, row_id, contractor_id
        self._process: subprocess.Popen[bytes] | None = None
        self._thread: Thread | None = None
        self._is_stopped = False

    def start(self, given: Given, tries: int, first: Way | None) -> None:
        self._process = begin("amber_gable.services.planning.making.searching", "serve_search")
        self._thread = Thread(target=self._follow, args=(given, tries, first), daemon=True, name="search")
        self._thread.start()

    def stop(self) -> None:
        """End the process and wait until what it found is written down."""
        self._is_stopped = True
        if self._process is not None:
            with suppress(OSError):
                self._process.kill()
        if self._thread is not None:
            self._thread.join(timeout=10)

    def _follow(self, given: Given, tries: int, first: Way | None) -> None:
        process = self._process
        assert process is not None
        assert process.stdin is not None
        assert process.stdout is not None
        state, fault = _DONE, ""
        try:
            send(process.stdin, (given, tries, first))
            while (told := receive(process.stdout)) is not None:
                self._write(told)
        except (OSError, EOFError, pickle.PickleError) as gone:
            state = _STOPPED if self._is_stopped else _FAILED
            fault = "" if self._is_stopped else "Its process ended before it was through."
            if not self._is_stopped:
                log.warning("the search for a better plan ended: %s", gone)
        finally:
            with suppress(OSError):
                process.kill()
            process.wait(timeout=10)
            for pipe in (process.stdin, process.stdout):
                with suppress(OSError):
                    pipe.close()
            self._write({"state": state, "fault": fault})
            self._app.searches.pop(self._contractor_id, None)

    def _write(self, values: Mapping[str, Any]) -> None:
        with self._app.writing() as session:
            row = session.get(PlanSearch, self.row_id)
            if row is not None:
                for name, value in values.items():
                    setattr(row, name, value)


def serve_search() -> None:
    """Search, and tell now and then how far it is; the process's own work."""
    answers = sys.stdout.buffer
    given, tries, first = receive(sys.stdin.buffer)
    usual = tried(given, first or usual_way(given))
    said_at = 0.0

    def told(nth: int, best: Tried) -> None:
        nonlocal said_at
        if nth < tries and time.monotonic() - said_at < _TELLS_S:
            return
        said_at = time.monotonic()
        send(answers, {"tried": nth, "best_cost": asdict(best.cost), "way": asdict(best.way)})

    send(answers, {"first_cost": asdict(usual.cost), "best_cost": asdict(usual.cost), "way": asdict(usual.way)})
    improved(given, tries, 0, told, first)
    send(answers, None)
