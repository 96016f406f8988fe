"""Two who write of the same work: both entries are kept, and who can settle it is shown both.

Not here: how it is settled (record: one is corrected or taken back).
"""

from collections.abc import Sequence
from dataclasses import dataclass

from amber_gable.core.planning.state import Told
from amber_gable.services.app.scope import Scope
from amber_gable.services.log.record import rows_of, void_of
from amber_gable.store.models import Job, WorkEntry

# More than the whole of a step by so much is said twice; shares are rounded.
_OVER_FRAC = 1.02


@dataclass(frozen=True)
class Dispute:
    """A step of which more than the whole is on record, or that one says is done and another that it is left out.

    Parameters
    ----------
    name : str
        Of the step and its place.
    lines : tuple of WorkEntry
        One line of each entry, the oldest first.
    """

    name: str
    lines: tuple[WorkEntry, ...]


def disputes_of(scope: Scope, job: Job) -> list[Dispute]:
    """Return what two entries say differently of one step, each pair of entries once."""
    rows = rows_of(scope, job)
    gone = void_of(rows)
    by_task: dict[str, list[WorkEntry]] = {}
    for row in rows:
        if row.entry in gone or row.told in (Told.WITHDRAWN.value, Told.BEGAN.value):
            continue
        own = by_task.setdefault(row.task, [])
        # What is done again counts from there on.
        if row.told == Told.AGAIN.value:
            own.clear()
        else:
            own.append(row)
    out: dict[tuple[str, ...], Dispute] = {}
    for lines in by_task.values():
        if _differ(lines):
            out.setdefault(tuple(line.entry for line in lines), Dispute(lines[0].name, tuple(lines)))
    return list(out.values())


def _differ(lines: Sequence[WorkEntry]) -> bool:
    done = [line for line in lines if line.told == Told.DONE.value]
    left_out = len(lines) > len(done)
    return len(lines) > 1 and (sum(line.share_frac for line in done) > _OVER_FRAC or (left_out and bool(done)))
