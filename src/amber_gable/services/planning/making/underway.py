"""A plan that is being made: how far it is, and a way to stop it. One at a time for each firm; nothing is written until it is whole.

It lives in the process: where that ends, nothing has changed, and it is asked for again.
Not here: how a plan is made (crewplan, schedules), or the search for a better one, which goes on for minutes (searching).
"""

import logging
import threading
from collections.abc import Callable
from contextvars import ContextVar, copy_context
from dataclasses import dataclass, field
from typing import TYPE_CHECKING

from amber_gable.errors import PlanError

if TYPE_CHECKING:
    from amber_gable.services.app.scope import Scope

log = logging.getLogger(__name__)
_OURS = "Something went wrong on our side. The plan that stood before stands."


class StoppedError(PlanError):
    """Somebody stopped the planning; the plan that stood stands."""


@dataclass
class Making:
    """One planning on its way.

    Parameters
    ----------
    said : str
        What is being done, in words.
    done, of : int
        Steps that are through, and of how many.
    fault : BaseException or None
        Why it ended without a plan.
    """

    said: str = "Begun"
    done: int = 0
    of: int = 1
    fault: BaseException | None = None
    _stops: threading.Event = field(default_factory=threading.Event)
    _ended: threading.Event = field(default_factory=threading.Event)

    @property
    def is_running(self) -> bool:
        return not self._ended.is_set()

    @property
    def share_pct(self) -> int:
        return min(99, 100 * self.done // max(self.of, 1))

    def stop(self) -> None:
        """Let it end at its next step."""
        self._stops.set()

    def wait(self, seconds: float) -> bool:
        """Return whether it has ended within some seconds."""
        return self._ended.wait(seconds)

    def run(self, work: Callable[[], object]) -> None:
        """Do the work; what goes wrong is kept for whoever asked."""
        token = _making.set(self)
        try:
            work()
        except PlanError as fault:
            self.fault = fault
        except Exception as fault:
            log.exception("a plan could not be made")
            self.fault = fault
        finally:
            _making.reset(token)
            self._ended.set()

    def _step(self, said: str, done: int, of: int) -> None:
        if self._stops.is_set():
            raise StoppedError("The planning was stopped. The plan that stood before stands.", "form")
        self.said, self.done, self.of = said, done, of


_making: ContextVar[Making | None] = ContextVar("making", default=None)


def told(said: str, done: int, of: int) -> None:
    """Say how far the planning of this thread is.

    Raises
    ------
    StoppedError
        If somebody has stopped it.
    """
    if (making := _making.get()) is not None:
        making._step(said, done, of)


def begin(scope: "Scope", work: Callable[["Scope"], object]) -> Making:
    """Begin a planning in a thread of its own, and return it; where one of the firm is on its way, that one."""
    plannings: dict[str, Making] = scope.app.plannings
    making = Making()
    standing = plannings.setdefault(scope.contractor_id, making)
    if standing is not making and standing.is_running:
        return standing
    plannings[scope.contractor_id] = making
    # A scope of its own: it outlives the request that asked for it.
    own = scope.alone()
    # With the form that asked for it: its key is written with the plan.
    context = copy_context()
    threading.Thread(target=context.run, args=(making.run, lambda: work(own)), daemon=True, name="planning").start()
    return making


def of_firm(scope: "Scope") -> Making | None:
    """Return the planning of the firm that is on its way; None where none is."""
    making: Making | None = scope.app.plannings.get(scope.contractor_id)
    return making if making is not None and making.is_running else None


def said_of(making: Making) -> str:
    """Return in words why a planning ended without a plan; empty where it did not."""
    if making.fault is None:
        return ""
    return str(making.fault) if isinstance(making.fault, PlanError) else _OURS
