"""What readings on site showed of the errors that stay there: how far its air and its walls are from what is told of them.

Not here: what is believed for it (core.air.site_errors), what one reading allows at its moment (sitelog).
"""

from collections.abc import Sequence
from dataclasses import dataclass
from statistics import median
from typing import Any

import numpy as np

from amber_gable.core.air.humid import vapour_pressure_pa
from amber_gable.core.air.site_errors import Belief, Shown, SiteErrors
from amber_gable.services.app.scope import Scope
from amber_gable.services.log.entries import lines_of, void_in
from amber_gable.services.outlook.outlook import Outlook
from amber_gable.store import queries
from amber_gable.store.models import Job, Reading, Surface

# The newest so many: a season's worth, and what was measured long ago was measured by another forecast.
_MOST = 60
# Readings of one hour stray together: they are one.
_HOUR_S = 3600


@dataclass(frozen=True)
class SiteBelief:
    """What is believed of a site for one surface, and on how many hours of readings it rests."""

    errors: SiteErrors
    hours: int

    @property
    def air_k(self) -> Belief:
        return self.errors.air_k


def told_at(ahead: Outlook, row: int, step: int) -> dict[str, float]:
    """Return what was told and computed of a surface at a quarter-hour; kept beside a reading so that it can be held against it."""
    climate = ahead.windows.climate
    return {
        "air_temp_c": float(climate.air_temp_c[step]),
        "vapour_pa": float(climate.vapour_pa[step]),
        "surface_temp_c": float(climate.surface_temp_c[row, step]),
    }


def belief_of(scope: Scope, job: Job, ahead: Outlook, row: int) -> SiteBelief:
    """Return what is believed of the site, for one row of an outlook."""
    model = scope.knowledge.forecast_errors
    before = SiteErrors.before_readings(model, [ahead.surfaces[row].error_c])
    readings = scope.once(("readings", job.id), lambda session: queries.readings(session, job.id, _MOST))
    surfaces = {s.id: s for e in job.building.elevations for s in e.surfaces}
    asked = surfaces.get(ahead.surface_ids[row])
    gone = void_in(lines_of(scope, job))
    told = [r for r in readings if r.verdict.get("told") and r.id not in gone]
    hours = _by_hour(told)
    alike = [r for r in told if asked is not None and _is_alike(scope, surfaces.get(r.surface_id or ""), asked)]
    walls = tuple(_middle(hour, _surface_k) for hour in _by_hour(alike))
    shown = Shown(tuple(_middle(h, _air_k) for h in hours), tuple(_middle(h, _vapour_frac) for h in hours), (walls,))
    return SiteBelief(before.after(shown, model), len(hours))


def _is_alike(scope: Scope, measured: Surface | None, asked: Surface) -> bool:
    """Return whether what one surface showed of its model speaks for another: where they are clad alike."""
    if measured is None:
        return False
    claddings = [scope.knowledge.cladding_of(s.substrate, s.lies_on) for s in (measured, asked)]
    return claddings[0] == claddings[1]


def _by_hour(readings: Sequence[Reading]) -> list[list[Reading]]:
    by_hour: dict[int, list[Reading]] = {}
    for reading in readings:
        by_hour.setdefault(int(reading.taken_at.timestamp() // _HOUR_S), []).append(reading)
    return list(by_hour.values())


def _middle(readings: Sequence[Reading], residual: Any) -> float:
    return float(median(residual(r, r.verdict["told"]) for r in readings))


def _air_k(reading: Reading, told: dict[str, float]) -> float:
    return reading.air_temp_c - told["air_temp_c"]


def _vapour_frac(reading: Reading, told: dict[str, float]) -> float:
    measured = float(vapour_pressure_pa(reading.air_temp_c, reading.rel_humidity_pct))
    return float(np.log(measured / max(told["vapour_pa"], 1.0)))


def _surface_k(reading: Reading, told: dict[str, float]) -> float:
    """Return how much farther from its air a surface was than computed: that its air is another is told already."""
    return (reading.surface_temp_c - reading.air_temp_c) - (told["surface_temp_c"] - told["air_temp_c"])
