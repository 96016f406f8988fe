"""What pages say of a plan that mends itself: when it did and why, or what it waits for."""

from dataclasses import dataclass
from datetime import datetime, timedelta

from amber_gable.services.app.scope import Scope
from amber_gable.services.changes.changes import Undoable
from amber_gable.services.planning.kept import SavedSchedule
from amber_gable.services.planning.mending import last_mending

# So long it is news.
NEWS = timedelta(hours=14)


@dataclass(frozen=True)
class Mended:
    """A plan that was mended by itself: when, why, and how it is taken back."""

    when: str
    because: tuple[str, ...]
    undoable: Undoable | None


def mended_of(scope: Scope, schedule: SavedSchedule | None, now: datetime, *, undoes: bool = False) -> Mended | None:
    """Return when and why a job's plan was last mended by itself; None where somebody planned since, or it is no news any more.

    Parameters
    ----------
    undoes : bool
        Whether it is asked how it is taken back.
    """
    if schedule is None or not schedule.because or now - schedule.made_at > NEWS:
        return None
    last = last_mending(scope) if undoes else None
    at = schedule.made_at.astimezone(now.tzinfo)
    when = f"at {at:%H:%M}" if at.date() == now.date() else f"on {at:%A} at {at:%H:%M}"
    return Mended(when, schedule.because, last.undoable if last and not last.is_undone else None)


def mends_when(scope: Scope, now: datetime) -> str:
    """Return in words when a plan that was overtaken mends itself; empty where it does not."""
    keeper = scope.app.keeper
    if keeper is None or not keeper.is_alive or not scope.owner.mends_itself:
        return ""
    against = keeper.mender.against
    if against is None or not against.unsaid:
        return "It mends itself in a moment."
    pieces = f"the {against.unsaid} pieces of work are" if against.unsaid > 1 else "the one piece of work is"
    until = against.waits_until
    by = f", or {until.astimezone(now.tzinfo):%A at %H:%M}, when they count as not done" if until else ""
    return f"It mends itself once {pieces} recorded whose time has passed{by}."
