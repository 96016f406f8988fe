"""Which side of the house has the sun: computed for the place and the day, never assumed from a hemisphere."""

from datetime import datetime, timedelta

import numpy as np

from amber_gable.core.air import sun
from amber_gable.services.app.scope import Scope
from amber_gable.services.outlook.outlook import place_of
from amber_gable.services.survey.around.shade import shades_of
from amber_gable.store.models import Job

_STEP_S = 1800.0


def sun_side(scope: Scope, job: Job, now: datetime) -> str | None:
    """Return the id of the wall that a clear sky gives most light today, what shades it taken off.

    None where a building has no walls.
    """
    walls = [e for e in job.building.elevations if e.kind == "wall"]
    if not walls:
        return None
    midnight = now.replace(hour=0, minute=0, second=0, microsecond=0)
    facing = tuple((e.id, e.azimuth_deg, shades_of(job, e)) for e in walls)
    key = ("sun side", place_of(job), midnight, facing)

    def compute() -> str:
        start, end = midnight.timestamp(), (midnight + timedelta(days=1)).timestamp()
        above = sun.sky(place_of(job), np.arange(start, end, _STEP_S), 0.0)
        light = sun.on_planes(above, [a for _, a, _ in facing], [90.0] * len(facing), seen=sun.unhidden(above, [s for _, _, s in facing]))
        return facing[int(np.argmax(light.total_w_m2.sum(axis=1)))][0]

    return scope.cached(key, compute)
