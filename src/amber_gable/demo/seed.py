"""Seeding the demonstration: the contractor and its four jobs."""

from dataclasses import replace

from amber_gable.demo import boathouse, orchard_deck, quarry_lane, tollkeepers
from amber_gable.demo.office import write_office
from amber_gable.demo.spec import DemoJob
from amber_gable.demo.work import write_crew, write_machines, write_record
from amber_gable.demo.write import write
from amber_gable.errors import PlanError
from amber_gable.services.app.app import App
from amber_gable.services.app.owners import open_books
from amber_gable.services.app.scope import OFFICE, Scope
from amber_gable.services.jobs import jobs
from amber_gable.services.planning import schedules
from amber_gable.store import queries

CONTRACTOR = "Fennel & Rook Painting"
PAINTERS = ("Ines", "Tobias", "Marlow")
JOBS: tuple[DemoJob, ...] = (tollkeepers.JOB, boathouse.JOB, quarry_lane.JOB, orchard_deck.JOB)


def is_seeded(app: App) -> bool:
    with app.reading() as session:
        return queries.is_there_any_job(session)


def opened_books(app: App) -> Scope:
    """Write the contractor where it is not there; return the office's scope."""
    with app.writing() as session:
        here = {row.name: row.id for row in queries.contractors(session)}
        app.home_id = here.get(CONTRACTOR) or open_books(session, CONTRACTOR, "us", PAINTERS)
    return Scope(app, OFFICE)


def seed(app: App, specs: tuple[DemoJob, ...] = JOBS) -> str:
    """Write the contractor and its jobs; return the id of the first."""
    scope = opened_books(app)
    written = [write(scope, spec) for spec in specs]
    write_office(scope)
    if specs is JOBS:
        write_crew(scope)
        write_machines(scope, written)
        write_record(scope, written[0])
    return written[0]


def write_samples(scope: Scope) -> None:
    """Write the sample jobs into the books of a firm, worked by its own painters."""
    for spec in JOBS:
        write(scope, replace(spec, facts=replace(spec.facts, crew=list(scope.owner.painters))))


def seed_schedule(app: App, job_id: str) -> None:
    """Make the first schedule, where there is weather to make it from."""
    scope = Scope(app, OFFICE)
    job = jobs.whole(scope, job_id)
    try:
        schedules.make(scope, job)
    except PlanError:
        # Without weather the demonstration starts without a schedule; the pages say why.
        return
