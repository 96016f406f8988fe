"""Areas of surfaces: less the openings that deduct, with profile and texture."""

from amber_gable.core import geometry
from amber_gable.core.geometry.profiles import factor_of
from amber_gable.core.knowledge import Knowledge
from amber_gable.core.takeoff import Face
from amber_gable.services.survey.building.rows import rect_of, region_of
from amber_gable.store.models import Elevation, Surface

# Smaller openings stay in as reserve where the house rule says so (handbook 11.13; the size is ours).
SMALL_OPENING_M2 = 1.0


def face_of(surface: Surface, elevation: Elevation, knowledge: Knowledge, deduct_from_m2: float = 0.0) -> Face:
    """Return a surface as take-off measures it: less the openings that deduct, unless it is one.

    Parameters
    ----------
    deduct_from_m2 : float
        Openings smaller than this stay in, as reserve.
    """
    profile, texture = knowledge.profiles[surface.profile], knowledge.textures[surface.texture]
    deducting = [rect_of(o) for o in elevation.openings if knowledge.openings[o.kind].deducts]
    return Face(
        name=surface.name,
        region=region_of(surface),
        openings=[] if surface.opening_id else [r for r in deducting if r.width * r.height >= deduct_from_m2],
        profile=factor_of(profile, surface.profile_mm),
        profile_label=profile.label,
        texture_factor=texture.factor,
        texture_label=texture.label,
    )


def net_area_m2(surface: Surface, elevation: Elevation, knowledge: Knowledge) -> float:
    face = face_of(surface, elevation, knowledge)
    return max(face.region.area_m2 - geometry.openings_area_m2(face.region, face.openings), 0.0)
