"""Seeding the demonstration: the contractor and its four jobs."""

from amber_gable.demo import boathouse, orchard_deck, quarry_lane, tollkeepers
from amber_gable.demo.office import write_office
from amber_gable.demo.spec import DemoJob
from amber_gable.demo.write import write
from amber_gable.errors import PlanError
from amber_gable.services.app.context import Context
from amber_gable.services.changes.changes import changing
from amber_gable.services.jobs import jobs
from amber_gable.services.outlook import outlook
from amber_gable.services.planning import schedules
from amber_gable.store.models import Contractor
from amber_gable.store.types import new_id

CONTRACTOR = "Fennel & Rook Painting"
PAINTERS = ("Ines", "Tobias", "Marlow")
JOBS: tuple[DemoJob, ...] = (tollkeepers.JOB, boathouse.JOB, quarry_lane.JOB, orchard_deck.JOB)


def is_seeded(context: Context) -> bool:
    return bool(jobs.list_jobs(context))


def open_books(context: Context) -> None:
    """Write the contractor."""
    with changing(context, "open the books") as change:
        change.add(Contractor(id=new_id(), version=1, name=CONTRACTOR, units="us", painters=list(PAINTERS)))


def seed(context: Context, specs: tuple[DemoJob, ...] = JOBS) -> str:
    """Write the contractor and its jobs; return the id of the first."""
    open_books(context)
    written = [write(context, spec) for spec in specs]
    write_office(context)
    return written[0]


def seed_schedule(context: Context, job_id: str) -> None:
    """Make the first schedule, where there is weather to make it from."""
    job = jobs.whole(context, job_id)
    try:
        schedules.make(context, job, outlook.outlook(context, job, outlook.status(context, job)))
    except PlanError:
        # Without weather the demonstration starts without a schedule; the pages say why.
        return
