"""The heat a new colour brings to a surface, beside that of the old one."""

from dataclasses import dataclass, replace

from amber_gable.core.wall.peak_heat import peak_surface_temp_c
from amber_gable.services.app.scope import Scope
from amber_gable.services.outlook.outlook import climate_surface, place_of
from amber_gable.services.survey.around.shade import lit_tables, shades_of
from amber_gable.services.systems.parts import Part
from amber_gable.store.models import Job

# What softens and warps, or burns a hand: others are not asked about (handbook 3 and 5).
_FAMILIES = ("vinyl", "metal")


@dataclass(frozen=True)
class Peak:
    """Highest surface temperature in the new colour and, where it is known, in the old one [°C]."""

    new_c: float
    old_c: float | None


def peak_of(scope: Scope, job: Job, part: Part) -> Peak | None:
    """Return the peak heat of a part of metal or vinyl that the sun reaches; None for others."""
    family = scope.knowledge.substrates[part.facts.substrate].family
    pair = next(((e, s) for e in job.building.elevations for s in e.surfaces if s.id == part.key), None)
    if family not in _FAMILIES or not part.facts.is_sunny or pair is None:
        return None
    elevation, surface = pair
    new = climate_surface(
        surface, elevation, shades_of(job, elevation), scope.knowledge, lit_tables(scope, job).get(surface.id), is_heated=job.is_heated
    )
    old_lrv = surface.old_lrv_pct
    colours = [new] if old_lrv is None else [new, replace(new, solar_absorptance=1 - old_lrv / 100)]
    peak = scope.cached(("peak", place_of(job), tuple(colours)), lambda: peak_surface_temp_c(place_of(job), colours))
    return Peak(float(peak[0]), float(peak[1]) if len(peak) > 1 else None)
