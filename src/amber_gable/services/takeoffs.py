"""The take-off of a job: every surface's paint, and the sum."""

from dataclasses import dataclass

from amber_gable.core import geometry
from amber_gable.core.knowledge import Knowledge
from amber_gable.core.profiles import factor_of
from amber_gable.core.takeoff import Face, Paint, SurfaceTakeoff, take_off
from amber_gable.services.jobs import rules_of
from amber_gable.services.rules import paint_of
from amber_gable.services.survey.rows import rect_of, region_of
from amber_gable.store.models import Elevation, Job, Surface


@dataclass(frozen=True)
class JobTakeoff:
    """Take-offs by surface id in walking order, sums, and what is not counted here."""

    paint: Paint
    by_surface: dict[str, SurfaceTakeoff]
    left_out: dict[str, int]

    @property
    def net_area_m2(self) -> float:
        return sum(t.net_area_m2 for t in self.by_surface.values())

    @property
    def litres_per_coat(self) -> float:
        return sum(t.litres_per_coat for t in self.by_surface.values())

    @property
    def litres_total(self) -> float:
        return sum(t.litres_total for t in self.by_surface.values())


def face_of(surface: Surface, elevation: Elevation, knowledge: Knowledge) -> Face:
    """Return a surface as take-off measures it: less the openings that deduct, unless it is one."""
    profile, texture = knowledge.profiles[surface.profile], knowledge.textures[surface.texture]
    openings = [] if surface.opening_id else [rect_of(o) for o in elevation.openings if knowledge.openings[o.kind].deducts]
    return Face(
        name=surface.name,
        region=region_of(surface),
        openings=openings,
        profile=factor_of(profile, surface.profile_mm),
        profile_label=profile.label,
        texture_factor=texture.factor,
        texture_label=texture.label,
    )


def job_takeoff(job: Job, knowledge: Knowledge) -> JobTakeoff:
    """Return the paint for every painted surface of a job."""
    paint = paint_of(rules_of(job), knowledge)
    by_surface: dict[str, SurfaceTakeoff] = {}
    left_out: dict[str, int] = {}
    for elevation in job.building.elevations:
        for surface in elevation.surfaces:
            if surface.is_painted:
                by_surface[surface.id] = take_off(face_of(surface, elevation, knowledge), paint)
        for opening in elevation.openings:
            kind = knowledge.openings[opening.kind]
            if not kind.substrate:
                left_out[kind.label] = left_out.get(kind.label, 0) + 1
    return JobTakeoff(paint, by_surface, left_out)


def net_area_m2(surface: Surface, elevation: Elevation, knowledge: Knowledge) -> float:
    face = face_of(surface, elevation, knowledge)
    return max(face.region.area_m2 - geometry.openings_area_m2(face.region, face.openings), 0.0)
