"""Work of the plan as it stands now: each piece with what the record says of it. What nobody recorded is not done."""

from collections.abc import Iterable
from dataclasses import dataclass, replace
from datetime import UTC, datetime, timedelta

from amber_gable.core.planning.state import State
from amber_gable.services.log.standing import Standing
from amber_gable.services.planning.kept import SavedStint

# So long after its end nobody is asked whether a piece of work was done: painters enter it when they have come down.
_GRACE = timedelta(minutes=30)


@dataclass(frozen=True)
class StintNow:
    """A piece of the plan and its state.

    Parameters
    ----------
    stint : SavedStint
    state : {"done", "under way", "unsaid", "now", "to come", "held", "late"}
        "late" waits for work whose time has passed and of which the record says nothing.
    left : tuple of str
        Ids of its steps that are still to be done.
    why : str
        What holds it up.
    begun_at : datetime or None
        Of what is begun and not done.
    """

    stint: SavedStint
    state: str
    left: tuple[str, ...]
    why: str = ""
    begun_at: datetime | None = None

    @property
    def ends_at(self) -> datetime:
        """When it should be done: as planned, or as long from its beginning where it was begun late."""
        stint = self.stint
        return stint.ends_at if self.begun_at is None else max(stint.ends_at, self.begun_at + (stint.ends_at - stint.starts_at))

    @property
    def is_unsaid(self) -> bool:
        return self.state == "unsaid"

    @property
    def is_ahead(self) -> bool:
        return self.state in ("under way", "now", "to come")


def work_now(stints: Iterable[SavedStint], standing: Standing, now: datetime) -> tuple[StintNow, ...]:
    """Return pieces of a schedule in their order, each with its state by the record."""
    out, late = [], set[str]()
    for stint in stints:
        one = _now(stint, standing, now)
        # What waits for work of which nobody spoke cannot be the next thing to do.
        if one.is_ahead and any(standing.states[i].waits_for in late for i in one.left):
            one = replace(one, state="late")
        if one.state in ("unsaid", "late"):
            late |= set(one.left)
        out.append(one)
    return tuple(out)


def _now(stint: SavedStint, standing: Standing, now: datetime) -> StintNow:
    states = {i: standing.states[i] for i in stint.tasks if i in standing.states}
    # To what share of its stint the piece goes.
    until = (stint.piece + 1) / stint.of
    left = tuple(i for i, s in states.items() if not s.state.is_over and not (s.state is State.UNDER_WAY and s.done_frac >= until - 1e-6))
    held = [s.why for i, s in states.items() if s.state is State.HELD]
    if not left:
        return StintNow(stint, "done", ())
    if held:
        return StintNow(stint, "held", left, held[0])
    # What goes in pieces was begun with its first.
    begun = [s for i in left if stint.of == 1 and states[i].state is State.UNDER_WAY and (s := states[i].since_s) is not None]
    one = StintNow(stint, "under way", left, begun_at=datetime.fromtimestamp(min(begun), UTC) if begun else None)
    if one.ends_at + _GRACE <= now:
        # Begun or not: whether it is done by now, only the crew can say.
        return replace(one, state="unsaid")
    if any(states[i].state is State.UNDER_WAY for i in left):
        return one
    return StintNow(stint, "now" if stint.starts_at <= now else "to come", left)
