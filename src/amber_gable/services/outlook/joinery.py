"""Windows of what goes round the house: windows, shutters and trim, each on its side, by its own label and its own weather.

They hang on a wall and warm by themselves: another colour, another wood, the same sun and wind.
Not here: surfaces (outlook).
"""

from dataclasses import replace

from amber_gable.core.systems.facts import Facts
from amber_gable.core.wall.climate import ClimateSurface
from amber_gable.errors import PlanError
from amber_gable.services.app.scope import Scope
from amber_gable.services.log.record import done_steps
from amber_gable.services.outlook.outlook import Outlook, held_up, rules_by_side, wearing, windows_of
from amber_gable.services.outlook.sightings import stock_of
from amber_gable.services.survey.around.shade import shades_of
from amber_gable.services.survey.building.sides import OnSide, sides_of
from amber_gable.services.systems.coatings import coatings_of
from amber_gable.services.systems.specs import Spec, specs_of
from amber_gable.store.models import Job

_UPRIGHT_DEG = 90.0


def rows_of(scope: Scope, job: Job) -> list[tuple[OnSide, Spec]]:
    """Return windows, shutters and trim of every side that have a system, in the order they stand in systems."""
    return [
        (side, spec) for spec in specs_of(scope, job) if not spec.part.surfaces for side in sides_of(job, spec.part.key, scope.knowledge)
    ]


def joinery(scope: Scope, job: Job, ahead: Outlook) -> Outlook:
    """Return the outlook of windows, shutters and trim, side by side, under the same weather.

    Raises
    ------
    PlanError
        If a job has none.
    """
    rows = rows_of(scope, job)
    if not rows:
        raise PlanError("No windows, shutters or trim of this job are painted.", "surfaces")
    coatings = coatings_of(scope, job)
    by_side = {sprayed: rules_by_side(scope, job, by_hand=not sprayed) for sprayed in (False, True)}
    each, done = [coatings[side.key] for side, _ in rows], done_steps(scope, job)
    surfaces = tuple(
        wearing(_hung(scope, job, side, spec.part.facts), coating.worn_lrv_pct(done.get(side.key, ())))
        for (side, spec), coating in zip(rows, each, strict=True)
    )
    products = tuple(coating.product for coating in each)
    rules = tuple(
        held_up(by_side[coating.is_sprayed][side.elevation.id], coating.held_by) for (side, _), coating in zip(rows, each, strict=True)
    )
    ids = [side.key for side, _ in rows]
    key = (*ahead.key, "joinery", tuple(ids), surfaces, products, rules)

    def compute() -> Outlook:
        near = None if ahead.near is None else joinery(scope, job, ahead.near)
        windows = windows_of(scope, ahead, near, surfaces, (), products, rules)
        return replace(
            ahead, key=key, surface_ids=ids, windows=windows, surfaces=surfaces, rules=rules, observations=(), turn="coats", near=near
        )  # fmt: skip

    return scope.cached(key, compute)


def _hung(scope: Scope, job: Job, side: OnSide, facts: Facts) -> ClimateSurface:
    knowledge, elevation = scope.knowledge, side.elevation
    return ClimateSurface.clad(
        side.name, elevation.azimuth_deg, _UPRIGHT_DEG, 1 - knowledge.practice.trim_lrv_pct / 100, knowledge.cladding_of(facts.substrate),
        shades=shades_of(job, elevation), stock=stock_of(facts, knowledge),
    )  # fmt: skip
