"""The keeper: while the application serves, it fetches forecasts, prepares what the start page shows, and makes back-ups.

One thread of its own. What takes long to compute it hands to the calculator, so that pages stay quick.
Not here: how cards look (web), or how a back-up is made (backup).
"""

import logging
import threading
import time
from collections.abc import Callable
from dataclasses import dataclass, field
from datetime import timedelta
from typing import TYPE_CHECKING

from amber_gable.errors import PlanError
from amber_gable.services.app.machine import backup
from amber_gable.services.app.machine.memory import give_back
from amber_gable.services.app.scope import KEEPER, Scope
from amber_gable.services.changes import sentforms
from amber_gable.services.jobs import jobs
from amber_gable.services.outlook.weather.forecasts import ForecastStatus
from amber_gable.services.planning import morning
from amber_gable.services.planning.mending import Mender
from amber_gable.services.planning.morning import JobMorning
from amber_gable.services.survey.evidence import photofiles
from amber_gable.store.queries import JobHead

if TYPE_CHECKING:
    from amber_gable.services.app.app import App

log = logging.getLogger(__name__)
# How often it looks whether there is anything to do, and how often it tidies up, in real time.
_LOOKS_S = 15.0
# How long after the start it begins: the first page comes first.
SETTLES_S = 0.8
_TIDIES_S = 900.0
# Photographs that no row names are left for a while: one may be on its way into a row.
_ORPHANS_AFTER = timedelta(hours=24)


@dataclass
class Keeper:
    """Prepares the running jobs, one after another, those somebody waits for first.

    Parameters
    ----------
    app : App
    mender : Mender
    """

    app: "App"
    # What was prepared of each job, by its id: the mark it was prepared for, and the fault if it failed.
    _prepared: dict[str, tuple[tuple[object, ...], str]] = field(default_factory=dict)
    _asked: list[str] = field(default_factory=list)
    _lock: threading.Lock = field(default_factory=threading.Lock)
    _wake: threading.Event = field(default_factory=threading.Event)
    _ends: threading.Event = field(default_factory=threading.Event)
    _thread: threading.Thread | None = None
    _tidied_at_s: float = 0.0
    mender: Mender = field(default_factory=Mender)

    def start(self) -> None:
        self._thread = threading.Thread(target=self._run, daemon=True, name="keeper")
        self._thread.start()

    def stop(self) -> None:
        """End it; a computation that is under way is waited for a moment."""
        self._ends.set()
        self._wake.set()
        if self._thread is not None and self._thread is not threading.current_thread():
            self._thread.join(timeout=5)

    @property
    def is_alive(self) -> bool:
        return self._thread is not None and self._thread.is_alive()

    @property
    def is_me(self) -> bool:
        """True in the keeper's own thread."""
        return threading.current_thread() is self._thread

    def is_ready(self, mark: tuple[object, ...]) -> bool:
        """Return whether a job is prepared as `mark` says it stands."""
        with self._lock:
            return self._prepared.get(str(mark[0]), (None, ""))[0] == mark

    def was_ready(self, job_id: str) -> bool:
        """Return whether a job was prepared once, however it stands now."""
        with self._lock:
            return job_id in self._prepared

    def take(self, scope: Scope, mark: tuple[object, ...], today: JobMorning) -> None:
        """Take what a page computed of a job as prepared under `mark`: it is not computed once more."""
        self.mender.seen(scope, mark, today)
        with self._lock:
            self._prepared[today.job.id] = (mark, "")

    def fault_of(self, job_id: str) -> str:
        """Return what went wrong with a job at the last preparation; empty where nothing did."""
        with self._lock:
            return self._prepared.get(job_id, (None, ""))[1]

    def hurry(self, job_id: str) -> None:
        """Prepare a job before the others: somebody waits for it."""
        with self._lock:
            if job_id not in self._asked:
                self._asked.append(job_id)
        self._wake.set()

    def _run(self) -> None:
        if self._ends.wait(SETTLES_S):
            return
        if self.app.calculator is not None:
            self.app.calculator.start()
        while not self._ends.is_set():
            for act in (self._prepare_all, self._mend, self._tidy):
                try:
                    act()
                except Exception:
                    # Whatever it is, the next round tries again; pages work without the keeper.
                    log.exception("the keeper stumbled")
            give_back()
            self._wake.wait(_LOOKS_S)
            self._wake.clear()

    def _prepare_all(self) -> None:
        scope = Scope(self.app, KEEPER)
        scope.renew()
        heads = morning.running(scope)
        standing: dict[tuple[float, float, float], ForecastStatus] = {}
        left = {head.id: head for head in heads}
        while left and not self._ends.is_set():
            head = self._next(left)
            place = (head.latitude_deg, head.longitude_deg, head.altitude_m)
            if place not in standing:
                standing[place] = morning.standing_of(scope, head)
            self._prepare(scope, head, standing[place])
        with self._lock:
            alive = {head.id for head in heads}
            self._prepared = {k: v for k, v in self._prepared.items() if k in alive}

    def _next(self, left: dict[str, JobHead]) -> JobHead:
        with self._lock:
            asked = next((i for i in self._asked if i in left), None)
            self._asked = [i for i in self._asked if i in left and i != asked]
        return left.pop(asked or next(iter(left)))

    def _prepare(self, scope: Scope, head: JobHead, status: ForecastStatus) -> None:
        mark = morning.mark_of(scope, head, status)
        if self.is_ready(mark):
            return
        fault = ""
        try:
            self.mender.seen(scope, mark, morning.job_morning(scope, jobs.whole(scope, head.id)))
        except PlanError as found:
            fault = str(found)
        except Exception as found:
            log.exception("job %s cannot be prepared", head.name)
            fault = type(found).__name__
        with self._lock:
            self._prepared[head.id] = (mark, fault)

    def _mend(self) -> None:
        """Mend the plan of all jobs if something overtook it; what changed by it is prepared in the next round."""
        scope = Scope(self.app, KEEPER)
        scope.renew()
        heads = morning.running(scope)
        if self.mender.look(scope, {head.id: morning.mark_of(scope, head, morning.standing_of(scope, head, asks=False)) for head in heads}):
            self._wake.set()

    def _tidy(self) -> None:
        if time.monotonic() - self._tidied_at_s < _TIDIES_S and self._tidied_at_s:
            return
        self._tidied_at_s = time.monotonic()
        acts: tuple[Callable[[], object], ...] = (
            lambda: backup.make_due(self.app),
            lambda: sentforms.forget_old(self.app),
            lambda: photofiles.clean_up(self.app, _ORPHANS_AFTER),
        )
        for act in acts:
            try:
                act()
            except PlanError as fault:
                log.warning("%s", fault)


__all__ = ["Keeper"]
