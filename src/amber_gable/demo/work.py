"""The demonstration's record of work: what the crew did before the demonstration begins."""

from collections.abc import Callable, Sequence
from datetime import date, datetime, timedelta
from zoneinfo import ZoneInfo

from amber_gable.core.knowledge import Phase
from amber_gable.core.planning.crew.people import SKILLS
from amber_gable.core.planning.state import Told
from amber_gable.core.planning.work import WorkTask
from amber_gable.services.app.scope import Scope
from amber_gable.services.jobs import jobs
from amber_gable.services.log.record import Said, enter
from amber_gable.services.office import crew, fleet
from amber_gable.services.takeoff.tasks import tasks_of
from amber_gable.store.models import Job

Chosen = Callable[[WorkTask], bool]
_EARLY = (Phase.CLEAR, Phase.CLEAN)


def _done(scope: Scope, job: Job, chosen: Chosen, start: datetime, painters: tuple[str, ...]) -> None:
    """Record the chosen steps as done, from a moment on, by some painters together."""
    tasks = [task for task in tasks_of(scope, job) if chosen(task) and task.hours and not task.held_by]
    hours = sum(task.hours for task in tasks) / len(painters)
    if tasks:
        enter(scope.acting_as(painters[0]), job, tasks, Said(Told.DONE, start, start + timedelta(hours=hours), painters=painters))


def write_crew(scope: Scope) -> None:
    """Write what each painter may do, and until when."""
    everything = dict.fromkeys(SKILLS)
    crew.change(scope, "Ines", {"skills": everything | {"lead": date(2028, 4, 30), "lift": date(2027, 3, 1)}})
    crew.change(scope, "Tobias", {"skills": {"ladder": None, "sprayer": None}})
    crew.change(scope, "Marlow", {"skills": {"ladder": None}})


def write_machines(scope: Scope, written: Sequence[str]) -> None:
    """Reserve towers: one stands at the first house, one comes to the second."""
    fleet.reserve(scope, "tower", written[0], date(2026, 9, 7), date(2026, 9, 30))
    fleet.reserve(scope, "tower", written[1], date(2026, 9, 16), date(2026, 10, 9))


def write_record(scope: Scope, job_id: str) -> None:
    """Write what was done at the first job: washed all round, the north and east sides ready for their first coat."""
    job = jobs.whole(scope, job_id)
    zone = ZoneInfo(job.time_zone)
    sides = {e.id: e.name for e in job.building.elevations}
    walls = {s.id for e in job.building.elevations for s in e.surfaces if s.kind in ("wall", "gable")}

    def at(day: int, hour: float) -> datetime:
        return datetime(2026, 9, day, int(hour), round(hour % 1 * 60), tzinfo=zone)

    def on(*names: str) -> Chosen:
        return lambda task: sides.get(task.side, "").startswith(names)

    def body(*phases: Phase) -> Chosen:
        return lambda task: task.part in walls and task.phase in phases

    def both(one: Chosen, other: Chosen) -> Chosen:
        return lambda task: one(task) and other(task)

    _done(scope, job, both(on("North", "East"), lambda t: t.phase in _EARLY), at(8, 8), ("Ines", "Tobias", "Marlow"))
    _done(scope, job, both(on("South", "West"), lambda t: t.phase in _EARLY), at(8, 13), ("Ines", "Tobias", "Marlow"))
    prepared = (Phase.PROVE, Phase.MEND, Phase.CAULK)
    _done(scope, job, both(on("North"), body(*prepared)), at(10, 9), ("Ines", "Tobias"))
    _done(scope, job, both(on("East"), body(*prepared)), at(11, 8.5), ("Ines", "Tobias"))
    _done(scope, job, both(on("North", "East"), body(Phase.MASK)), at(12, 9), ("Marlow",))
    _done(scope, job, both(on("North"), body(Phase.PRIME)), at(14, 10.5), ("Ines", "Tobias"))
    _done(scope, job, both(on("East"), body(Phase.PRIME)), at(14, 13.5), ("Ines", "Tobias"))
