"""Wet films by the comb: readings against what the product asks, and what the wall is short of.

Not here: what a film does in the weather after it (coat.after_coat).
"""

from collections.abc import Sequence
from dataclasses import dataclass

import shapely

from amber_gable.core.knowledge import Product
from amber_gable.errors import FieldErrors
from amber_gable.services.survey.building.rows import region_of
from amber_gable.store.models import Job, Surface
from amber_gable.units import both

# What a comb can show [µm].
_LEAST_UM, _MOST_UM = 10.0, 2500.0
_MOST_READINGS = 20
# Within so much of the target a film is as it should be.
_NEAR_FRAC = 0.1


@dataclass(frozen=True)
class Film:
    """What comb readings come to.

    Parameters
    ----------
    mean_um, thinnest_um, target_um : float
    short_l : float
        Paint that the wall still takes; 0 where it has enough.
    """

    mean_um: float
    thinnest_um: float
    target_um: float
    short_l: float

    @property
    def is_thin(self) -> bool:
        return self.mean_um < (1 - _NEAR_FRAC) * self.target_um

    @property
    def is_thick(self) -> bool:
        return self.mean_um > (1 + 3 * _NEAR_FRAC) * self.target_um


def checked_readings(readings_um: Sequence[float], field: str = "comb") -> list[float]:
    """Return comb readings.

    Raises
    ------
    FieldErrors
        If there are too many, or one cannot be a wet film's.
    """
    if len(readings_um) > _MOST_READINGS:
        raise FieldErrors({field: f"At most {_MOST_READINGS} readings of one coat."})
    bad = next((um for um in readings_um if not _LEAST_UM <= um <= _MOST_UM), None)
    if bad is not None:
        raise FieldErrors({field: both(f"{bad:g} µm is no wet film: {_LEAST_UM:g} to {_MOST_UM:g} µm (0.4 to 100 mil).")})
    return [round(um, 1) for um in readings_um]


def film_of(product: Product, readings_um: Sequence[float], area_m2: float) -> Film:
    """Return what comb readings of a coat come to.

    Parameters
    ----------
    product : Product
        Its wet film is its dry one over its share of solids (handbook 7).
    readings_um : sequence of float
        At least one.
    area_m2 : float
        Painted area, openings off.
    """
    target = product.dry_film_um / (product.volume_solids_pct / 100)
    mean = sum(readings_um) / len(readings_um)
    # A micrometre on a square metre is a millilitre.
    return Film(mean, min(readings_um), target, max(target - mean, 0.0) * area_m2 / 1000)


def painted_m2(job: Job, surface: Surface) -> float:
    """Return the area of a surface without the openings in it [m2]."""
    openings = [o for e in job.building.elevations if e.id == surface.elevation_id for o in e.openings]
    boxes = [shapely.box(o.left_m, o.sill_m, o.left_m + o.width_m, o.sill_m + o.height_m) for o in openings]
    return float(region_of(surface).polygon.difference(shapely.union_all(boxes)).area)
