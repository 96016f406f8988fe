"""Take-off: how much paint a surface takes, each line with its arithmetic.

Pure functions; every figure keeps the numbers it came from.
Not here: outlines (geometry), profile factors (profiles), container sizes or prices.
"""

from collections.abc import Sequence
from dataclasses import dataclass

from amber_gable.core.geometry import Rect, Region, openings_area_m2
from amber_gable.core.profiles import Factor
from amber_gable.errors import PlanError


@dataclass(frozen=True)
class Coverage:
    """Spreading of a paint: in theory, in practice, and the wet film that gives the dry one."""

    theoretical_m2_per_l: float
    practical_m2_per_l: float
    wet_film_um: float


@dataclass(frozen=True)
class Paint:
    """What is put on, and how: the paint side of a take-off."""

    name: str
    spread_m2_per_l: float
    method: str
    loss_pct: float
    coats: int


@dataclass(frozen=True)
class Face:
    """A surface to be measured: its region, the openings of its elevation, its factors."""

    name: str
    region: Region
    openings: Sequence[Rect]
    profile: Factor
    profile_label: str
    texture_factor: float
    texture_label: str


@dataclass(frozen=True)
class SurfaceTakeoff:
    """Areas and litres of one surface, and the factors that led there.

    `uptake_m2` is the net area times profile and texture: what the paint sees.
    """

    face: Face
    paint: Paint
    gross_area_m2: float
    openings_area_m2: float
    net_area_m2: float
    uptake_m2: float
    litres_per_coat: float
    litres_total: float


def coverage(
    volume_solids_pct: float,
    dry_film_um: float,
    loss_pct: float = 0.0,
    profile_factor: float = 1.0,
    texture_factor: float = 1.0,
) -> Coverage:
    """Return the spreading rate of a paint from its solids and film.

    Parameters
    ----------
    volume_solids_pct : float
        Volume solids [%], above 0 to 100.
    dry_film_um : float
        Wanted dry film [µm], above 0.
    loss_pct : float
        Share of the paint that does not end in the film [%], 0 to 95.
    profile_factor, texture_factor : float
        Face per outline area and uptake of the texture, at least 1.

    References
    ----------
    Handbook 7: m2/L = 10 x solids % / dry film µm; wet film = dry film / solids fraction.
    """
    theoretical = 10 * volume_solids_pct / dry_film_um
    practical = theoretical * (1 - loss_pct / 100) / profile_factor / texture_factor
    return Coverage(theoretical, practical, dry_film_um * 100 / volume_solids_pct)


def take_off(face: Face, paint: Paint) -> SurfaceTakeoff:
    """Return the paint for one surface.

    Raises
    ------
    PlanError
        If the openings leave nothing to paint.

    References
    ----------
    Handbook 7; litres per coat = net x profile x texture / spread / (1 - loss).
    """
    gross = face.region.area_m2
    openings = openings_area_m2(face.region, face.openings)
    net = gross - openings
    if net < -1e-6:
        raise PlanError(f"The openings of {face.name} take more than the surface has. Check their sizes.", "openings")
    uptake = max(net, 0.0) * face.profile.value * face.texture_factor
    per_coat = uptake / paint.spread_m2_per_l / (1 - paint.loss_pct / 100)
    return SurfaceTakeoff(face, paint, gross, openings, max(net, 0.0), uptake, per_coat, per_coat * paint.coats)
