"""Seeding the demonstration, through the same services that a user's clicks go through."""

from amber_gable.demo import tollkeepers
from amber_gable.errors import PlanError
from amber_gable.services import jobs, outlook, schedules, survey
from amber_gable.services.changes import changing
from amber_gable.services.context import Context
from amber_gable.services.survey import SurfaceFacts
from amber_gable.store.models import Contractor
from amber_gable.store.types import new_id

CONTRACTOR = "Fennel & Rook Painting"
PAINTERS = ("Ines", "Tobias", "Marlow")


def is_seeded(context: Context) -> bool:
    return bool(jobs.list_jobs(context))


def seed(context: Context) -> str:
    """Write the contractor and Tollkeeper's House; return the id of the job."""
    with changing(context, "open the books") as change:
        change.add(Contractor(id=new_id(), version=1, name=CONTRACTOR, units="us", painters=list(PAINTERS)))
    job_id = jobs.create(context, tollkeepers.FACTS, tollkeepers.BLOCK, tollkeepers.RULES)
    for elevation in jobs.whole(context, job_id).building.elevations:
        for opening in tollkeepers.OPENINGS[elevation.side]:
            survey.add_opening(context, job_id, elevation.id, opening)
    for elevation in jobs.whole(context, job_id).building.elevations:
        for surface in elevation.surfaces:
            if surface.is_painted:
                lrv = tollkeepers.DOOR_LRV_PCT if surface.kind == "door" else tollkeepers.OCHRE_LRV_PCT
                facts = SurfaceFacts(surface.substrate, surface.profile, surface.texture, lrv, True)
                survey.update_surface(context, job_id, surface.id, facts)
    return job_id


def seed_schedule(context: Context, job_id: str) -> None:
    """Make the first schedule, where there is weather to make it from."""
    job = jobs.whole(context, job_id)
    try:
        schedules.make(context, job, outlook.outlook(context, job, outlook.status(context, job)))
    except PlanError:
        # Without weather the demonstration starts without a schedule; the pages say why.
        return
