"""What is said of work that somebody puts somewhere by hand though nothing forbids it: tight hours, jobs that end later, money.

It only warns: the work stays where it was put. Not here: what forbids it (schedules.put refuses that).
"""

from collections.abc import Iterator, Mapping, Sequence
from datetime import date

import numpy as np

from amber_gable.core.windows import TIGHT
from amber_gable.core.windows.words import short_name
from amber_gable.services.app.scope import Scope
from amber_gable.services.jobs.jobs import rules_of
from amber_gable.services.outlook.outlook import Outlook
from amber_gable.services.planning.kept import SavedSchedule
from amber_gable.services.planning.making.crewplan import JobPlan, PlacedStint
from amber_gable.services.planning.making.keeping import of_coat
from amber_gable.store.models import Job
from amber_gable.units import show_money

# A plan that costs so much more, of the whole, is said to; less is chance.
_WORTH_SHARE = 0.003


def cautions(
    scope: Scope, there: Sequence[tuple[Job, Outlook]], landed: PlacedStint, job: Job, plans: Mapping[str, JobPlan],
    before: Mapping[str, SavedSchedule | None],
) -> tuple[str, ...]:  # fmt: skip
    """Return in words what speaks against where a piece of work was put.

    Parameters
    ----------
    there : sequence of (Job, Outlook)
        The running jobs.
    landed : PlacedStint
        The piece, of `job`.
    plans, before : mapping by job
        The plan of all jobs with it there, and as it stood.
    """
    ahead = next(of_job for one, of_job in there if one.id == job.id)
    return (*_tight(scope, job, ahead, landed), *_later(there, plans, before), *_dearer(scope, plans[job.id], before[job.id]))


def _tight(scope: Scope, job: Job, ahead: Outlook, landed: PlacedStint) -> Iterator[str]:
    if not landed.stint.coat or landed.is_expected:
        return
    judged, names = of_coat(scope, job, ahead, landed.stint.coat), dict[str, None]()
    first, last = judged.step_at(landed.starts_at), judged.step_at(landed.ends_at)
    for task in landed.stint.tasks:
        row = judged.row(task.id.rsplit(":", 1)[0])
        if row is not None and (np.asarray(judged.windows.states[row, first:last]) == TIGHT).any():
            names |= dict.fromkeys(short_name(reason.rule) for reason in judged.windows.reasons(row, first, last))
    if names:
        yield f"It goes on in tight hours then: {', '.join(names)}"


def _later(there: Sequence[tuple[Job, Outlook]], plans: Mapping[str, JobPlan], before: Mapping[str, SavedSchedule | None]) -> Iterator[str]:
    for job, ahead in there:
        was, now = before[job.id], plans[job.id]
        if was is None or not was.stints or not now.stints:
            continue
        day_was = max(s.ends_at for s in was.stints).astimezone(ahead.zone).date()
        day = max(s.ends_at for s in now.stints).astimezone(ahead.zone).date()
        if day > day_was:
            promised = rules_of(job).promised
            after = ", after the day that was promised" if promised and day > date.fromisoformat(promised) else ""
            yield f"{job.name} ends {_said(day)} instead of {_said(day_was)}{after}"


def _said(day: date) -> str:
    return f"{day:%A} {day.day} {day:%B}"


def _dearer(scope: Scope, now: JobPlan, was: SavedSchedule | None) -> Iterator[str]:
    if was is None or was.cost is None:
        return
    more, money = now.cost.total - was.cost.total, scope.knowledge.money
    if more > _WORTH_SHARE * was.cost.total:
        yield f"The plan of all jobs costs {show_money(more, money.currency, money.locale, cents=False)} more by it"
