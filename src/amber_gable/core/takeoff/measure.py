"""Measure: what a surface has to be coated: its outline less openings, times profile and texture.

Not here: outlines (geometry), profile factors (profiles), how much paint that takes (quantity).
"""

from collections.abc import Sequence
from dataclasses import dataclass

from amber_gable.core.geometry import Rect, Region, openings_area_m2
from amber_gable.core.geometry.profiles import Factor
from amber_gable.errors import PlanError


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
class Measured:
    """Areas of one surface, and the factors that led there.

    `uptake_m2` is the net area times profile and texture: what the paint sees.
    """

    face: Face
    gross_area_m2: float
    openings_area_m2: float
    net_area_m2: float

    @property
    def uptake_m2(self) -> float:
        return self.net_area_m2 * self.face.profile.value * self.face.texture_factor


def measure(face: Face) -> Measured:
    """Return the areas of one surface.

    Raises
    ------
    PlanError
        If the openings take more than there is.

    References
    ----------
    Handbook 7.
    """
    gross = face.region.area_m2
    openings = openings_area_m2(face.region, face.openings)
    net = gross - openings
    if net < -1e-6:
        raise PlanError(f"The openings of {face.name} take more than the surface has. Check their sizes.", "openings")
    return Measured(face, gross, openings, max(net, 0.0))
