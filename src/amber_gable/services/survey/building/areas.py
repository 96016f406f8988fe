"""Areas of surfaces: less the openings that deduct, with profile and texture."""

from dataclasses import dataclass

from amber_gable.core import geometry
from amber_gable.core.geometry.profiles import factor_of
from amber_gable.core.knowledge import Knowledge
from amber_gable.core.takeoff import Face
from amber_gable.core.takeoff.items import item_area_m2, opening_area_m2
from amber_gable.services.survey.building.rows import rect_of, region_of
from amber_gable.store.models import Elevation, Job, Surface

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


def areas_of(job: Job, knowledge: Knowledge) -> dict[str, float]:
    """Return the net area of every surface by its id [m2]."""
    return {s.id: net_area_m2(s, e, knowledge) for e in job.building.elevations for s in e.surfaces}


def opening_areas_of(elevation: Elevation, knowledge: Knowledge) -> dict[str, float]:
    """Return the painted area of every opening of an elevation by its id [m2]."""
    kinds = knowledge.openings
    return {o.id: opening_area_m2(kinds[o.kind], rect_of(o), o.panes_across, o.panes_up) for o in elevation.openings}


def item_areas_of(job: Job, knowledge: Knowledge) -> dict[str, float]:
    """Return the area of every item of a job by its id, painted or not [m2]."""
    return {i.id: item_area_m2(knowledge.items[i.kind], i.count, i.length_m, i.girth_m) for i in job.building.items}


@dataclass(frozen=True)
class SurveyTotals:
    """Areas of a job: painted surfaces, painted trim, windows and shutters [m2]; and the number of painted sides."""

    painted: float
    trim: float
    pieces: float
    walls: int


def totals_of(job: Job, knowledge: Knowledge) -> SurveyTotals:
    """Return the areas of a job together."""
    areas, items = areas_of(job, knowledge), item_areas_of(job, knowledge)
    pieces = 0.0
    for e in job.building.elevations:
        by_id = opening_areas_of(e, knowledge)
        # A door with a substrate is a surface of its own.
        pieces += sum(by_id[o.id] for o in e.openings if not knowledge.openings[o.kind].substrate)
    painted = sum(areas[s.id] for e in job.building.elevations for s in e.surfaces if s.is_painted)
    walls = sum(any(s.is_painted for s in e.surfaces) for e in job.building.elevations)
    return SurveyTotals(painted, sum(items[i.id] for i in job.building.items if i.is_painted), pieces, walls)
