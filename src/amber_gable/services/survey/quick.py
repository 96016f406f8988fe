"""Quick survey: a job made from what is counted on the spot; measured later without typing again."""

from amber_gable.core.survey.quick import QuickFacts, block_of, openings_for
from amber_gable.core.survey.walk import QUICK
from amber_gable.errors import FieldErrors, check_all
from amber_gable.services.app.scope import Scope
from amber_gable.services.changes.changes import changing
from amber_gable.services.jobs import jobs
from amber_gable.services.jobs.jobs import JobFacts
from amber_gable.services.survey.building.matching import match_surfaces
from amber_gable.services.survey.building.rows import shape_of
from amber_gable.store.models import Opening, WalkAnswer
from amber_gable.store.types import new_id


def create(scope: Scope, facts: JobFacts, quick: QuickFacts) -> str:
    """Make a job with an estimated building, its openings spread over the walls; return its id.

    Raises
    ------
    FieldErrors
        Faults of both together.
    """

    def substrate() -> None:
        if quick.substrate not in scope.knowledge.substrates:
            raise FieldErrors({"substrate": "Choose what the walls are made of."})

    check_all(lambda: facts.check(scope.knowledge), quick.check, substrate)
    job_id = jobs.create(scope, facts, block_of(quick), quick.front_azimuth_deg, is_quick=True)
    with changing(scope, "the quick survey's openings", job_id) as change:
        job = change.whole_job()
        row = scope.knowledge.substrates[quick.substrate]
        for e in job.building.elevations:
            for s in e.surfaces:
                if s.kind in ("wall", "gable"):
                    change.follow(s, {"substrate": quick.substrate, "profile": row.profile, "texture": row.texture})
        walls = sorted(
            (e for e in job.building.elevations if e.kind == "wall"),
            key=lambda e: ("front", "back", "left", "right").index(e.key.split("/")[1]),
        )
        sizes = {e.key: (max(x for x, _ in e.outline), e.gable_from_m or max(y for _, y in e.outline)) for e in walls}
        placed = openings_for(quick, sizes)
        for e in walls:
            made = []
            for kind, rect in placed[e.key]:
                opening_kind = scope.knowledge.openings[kind]
                opening = Opening(
                    id=new_id(), version=1, elevation_id=e.id, kind=kind, width_m=rect.width, height_m=rect.height, left_m=rect.left,
                    sill_m=rect.bottom, panes_across=opening_kind.panes_across, panes_up=opening_kind.panes_up, moves="not-tried",
                )  # fmt: skip
                change.add(opening)
                made.append(opening)
            match_surfaces(change, e, shape_of(e), made, e.surfaces, e.surfaces, scope.knowledge)
        left_out = sum(quick.counts.values()) - sum(len(rects) for rects in placed.values())
        said = {"grade": quick.grade, "storeys": str(quick.storeys), "no-room": str(left_out)}
        for question, value in said.items():
            change.add(
                WalkAnswer(id=new_id(), version=1, job_id=job_id, station=QUICK, question=question, answer=value, answered_at=change.at)
            )
    return job_id


def measured(scope: Scope, job_id: str) -> None:
    """Say that a quick survey's building has been measured: it is no estimate any more."""
    with changing(scope, "the building is measured", job_id) as change:
        job = change.whole_job()
        change.follow(job.building, {"is_quick": False})
