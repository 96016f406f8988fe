"""How far a job has come, stage by stage, for the rail that leads through it."""

from amber_gable.services.app.scope import Scope
from amber_gable.store import queries
from amber_gable.store.models import Job


def stages_done(scope: Scope, job: Job) -> frozenset[str]:
    """Return the stages that hold what the next ones need.

    Parameters
    ----------
    scope : Scope
    job : Job
        With its building.
    """
    with scope.reading() as session:
        has_schedule, has_readings = queries.has_schedule_and_readings(session, job.id)
    done = set()
    if any(elevation.openings for elevation in job.building.elevations):
        done.add("survey")
    if any(s.is_painted for elevation in job.building.elevations for s in elevation.surfaces):
        done |= {"systems", "takeoff", "windows"}
    if has_schedule:
        done.add("schedule")
    if has_readings:
        done.add("log")
    return frozenset(done)
