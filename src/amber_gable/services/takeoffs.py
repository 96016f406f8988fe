"""The take-off of a job: every surface's finish, and the sum."""

from dataclasses import dataclass

from amber_gable.core.takeoff import Paint, SurfaceTakeoff, coverage, take_off
from amber_gable.services.context import Context
from amber_gable.services.jobs import rules_of
from amber_gable.services.survey.areas import SMALL_OPENING_M2, face_of
from amber_gable.services.systems.coatings import Coating, coatings_of
from amber_gable.services.systems.specs import schools_of
from amber_gable.store.models import Job


@dataclass(frozen=True)
class JobTakeoff:
    """Take-offs by surface id in walking order, sums by product, and what is not counted here."""

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

    @property
    def by_product(self) -> dict[str, float]:
        """Litres in all of each product, the most first."""
        found: dict[str, float] = {}
        for t in self.by_surface.values():
            found[t.paint.name] = found.get(t.paint.name, 0.0) + t.litres_total
        return dict(sorted(found.items(), key=lambda pair: -pair[1]))


def _paint(context: Context, job: Job, coating: Coating) -> Paint:
    product, method = coating.product, context.knowledge.methods[rules_of(job).method]
    spread = coverage(product.volume_solids_pct, product.dry_film_um).theoretical_m2_per_l
    return Paint(product.name, spread, method.label, method.loss_pct, coating.coats)


def job_takeoff(context: Context, job: Job) -> JobTakeoff:
    """Return the finish for every painted surface of a job."""
    knowledge = context.knowledge
    leaves_in = schools_of(context, job).get("small-openings") == "leave-in"
    coatings = coatings_of(context, job)
    by_surface: dict[str, SurfaceTakeoff] = {}
    left_out: dict[str, int] = {}
    for elevation in job.building.elevations:
        for surface in elevation.surfaces:
            if surface.is_painted:
                face = face_of(surface, elevation, knowledge, SMALL_OPENING_M2 if leaves_in else 0.0)
                by_surface[surface.id] = take_off(face, _paint(context, job, coatings[surface.id]))
        for opening in elevation.openings:
            kind = knowledge.openings[opening.kind]
            if not kind.substrate:
                left_out[kind.label] = left_out.get(kind.label, 0) + 1
    return JobTakeoff(by_surface, left_out)
