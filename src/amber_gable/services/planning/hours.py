"""The hours in which a crew works, on the grid of an outlook."""

from datetime import UTC, datetime

import numpy as np
from numpy.typing import NDArray

from amber_gable.services.jobs.rules import JobRules
from amber_gable.services.outlook.outlook import Outlook

# Of the time that setting up and cleaning up take, what lies at the morning's end of the day (our assumption).
_MORNING_SHARE = 0.6


def working_hours(outlook: Outlook, rules: JobRules, set_up_h: float = 0.0) -> NDArray[np.bool_]:
    """Return the quarter-hours in which the crew works, shape (Q,).

    Parameters
    ----------
    set_up_h : float
        Of each day for setting up and cleaning up: at its ends nothing else is done.
    """
    epoch = outlook.windows.climate.grid.epoch_s
    out = np.zeros(len(epoch), dtype=bool)
    starts, ends = rules.day_starts_h + _MORNING_SHARE * set_up_h, rules.day_ends_h - (1 - _MORNING_SHARE) * set_up_h
    for q, second in enumerate(epoch):
        local = datetime.fromtimestamp(float(second), UTC).astimezone(outlook.zone)
        hour = local.hour + local.minute / 60
        out[q] = starts <= hour < ends and (rules.works_sundays or local.weekday() != 6)
    return out
