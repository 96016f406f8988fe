"""The hours in which a crew works, on the grid of an outlook."""

from datetime import UTC, datetime

import numpy as np
from numpy.typing import NDArray

from amber_gable.services.jobs.rules import JobRules
from amber_gable.services.outlook.outlook import Outlook


def working_hours(outlook: Outlook, rules: JobRules) -> NDArray[np.bool_]:
    """Return the quarter-hours in which the crew works, shape (Q,)."""
    epoch = outlook.windows.climate.grid.epoch_s
    out = np.zeros(len(epoch), dtype=bool)
    for q, second in enumerate(epoch):
        local = datetime.fromtimestamp(float(second), UTC).astimezone(outlook.zone)
        hour = local.hour + local.minute / 60
        out[q] = rules.day_starts_h <= hour < rules.day_ends_h and (rules.works_sundays or local.weekday() != 6)
    return out
