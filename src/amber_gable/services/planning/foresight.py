"""Foresight: which starts more than half a day ahead a plan had better leave alone, since rain or dew may find the young film.

By the ensemble of the forecast and by what readings taught of the site. On the day itself the newest forecast decides (outlook).
"""

import numpy as np
from numpy.typing import NDArray

from amber_gable.core.knowledge.assumptions import assumed
from amber_gable.core.windows.chances import film_chances_under
from amber_gable.services.app.scope import Scope
from amber_gable.services.outlook.outlook import Outlook
from amber_gable.services.outlook.windowcard import coat_hours
from amber_gable.store.models import Job

SAFE_FRAC = assumed("safe_film_share")
_FORESEEN_H = assumed("foreseen_h")


def risky_starts(scope: Scope, job: Job, ahead: Outlook) -> NDArray[np.bool_]:
    """Return where a start lies so far ahead that its film is less safe than a plan should take, shape (S, Q).

    A start of which the forecast does not say enough is none of these: the windows shut it already.
    """
    hours = tuple(coat_hours(scope, job, ahead, surface_id) for surface_id in ahead.surface_ids)
    model, since = scope.knowledge.forecast_errors, max(ahead.issued_at, ahead.hour).timestamp()
    key = ("film chances", ahead.key, hours, model)
    found = scope.cached(
        key, lambda: scope.calculated(
            film_chances_under, ahead.place, ahead.weather, since, ahead.surfaces, ahead.windows.products, ahead.rules, hours, model, None
        ),
    )  # fmt: skip
    grid = ahead.windows.climate.grid
    # Between two hours as likely as the less likely of them.
    later = np.concatenate([found.chance_frac[:, 1:], found.chance_frac[:, -1:]], axis=1)
    least = np.fmin(found.chance_frac, later)
    place = np.minimum(((grid.epoch_s - found.grid.epoch_s[0]) // found.grid.step_s).astype(int), least.shape[1] - 1)
    is_ahead = (grid.epoch_s - since) / 3600 > _FORESEEN_H
    result: NDArray[np.bool_] = is_ahead & (np.nan_to_num(least[:, place], nan=1.0) < SAFE_FRAC)
    return result
