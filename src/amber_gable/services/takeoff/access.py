"""How the walls of a job are reached: ladder sets, what hire costs, ways compared."""

from collections.abc import Mapping, Sequence
from dataclasses import dataclass, replace
from datetime import date, timedelta

from amber_gable.core.geometry.blocks import SIDES
from amber_gable.core.knowledge import Knowledge
from amber_gable.core.knowledge.shipped import shipped
from amber_gable.core.price.hire import access_in
from amber_gable.core.takeoff.ways_up import Wall, WallPlan, Way, compare, moving_by_wall, plan
from amber_gable.services.app.scope import Scope
from amber_gable.services.jobs.jobs import rules_of
from amber_gable.services.survey.around.features import suggestion
from amber_gable.services.survey.building.rows import shape_of
from amber_gable.services.systems.specs import Spec, house_of, specs_of
from amber_gable.store.models import Elevation, Job

# What grows at the foot of a wall.
_GROWING = ("plants", "tree")


def walls_of(job: Job, specs: Sequence[Spec], knowledge: Knowledge, access: str = "") -> list[Wall]:
    """Return the painted elevations of a job as somebody with a ladder sees them, in walking order.

    Parameters
    ----------
    access : str
        The way up to all that is not reached from the ground; empty for the job's own, wall by wall.
    """
    by_surface = {key: spec for spec in specs for key in spec.part.surfaces}
    walls = []
    for e in job.building.elevations:
        on_it = [by_surface[s.id] for s in e.surfaces if s.id in by_surface]
        if e.kind == "wall" and on_it:
            wall = _wall(job, e, on_it, knowledge)
            walls.append(replace(wall, access=access) if access and wall.access != "ground" else wall)
    return walls


def _wall(job: Job, e: Elevation, specs: Sequence[Spec], knowledge: Knowledge) -> Wall:
    shape = shape_of(e)
    left, _, right, _ = shape.region.bounds
    # Above the first storey, as if from the ground: what each way up makes longer.
    high = sum(w.hours / w.height * spec.part.extent.high_share for spec in specs for w in spec.works.values() if w.of != "once")
    coats = max((sum(1 for s in spec.system.steps if s.family and s.of == "m2") for spec in specs), default=0)
    here = [f for f in job.features if f.elevation_id == e.id]
    return Wall(
        key=e.id, name=e.name, left_m=left, width_m=right - left, top_m=shape.top_m,
        access=e.access or suggestion(job, e, knowledge).access, ground=knowledge.grounds[e.ground], slope_pct=e.ground_slope_pct,
        plants=tuple(f.note or knowledge.features[f.kind].label for f in here if f.kind in _GROWING),
        line_distance_m=min(
            (f.distance_m for f in here if knowledge.features[f.kind].clearance_m and f.distance_m is not None), default=None
        ),
        openings=tuple((o.left_m, o.left_m + o.width_m) for o in e.openings if knowledge.openings[o.kind].has_panes),
        passes=coats + 1, high_h=high, before=_before(job, e, left),
    )  # fmt: skip


def _before(job: Job, e: Elevation, left_m: float) -> tuple[tuple[float, float, str], ...]:
    """Return what is built against a wall and stays lower than it."""
    side = e.key.partition("/")[2]
    if e.block_id is None or side not in SIDES:
        return ()
    against = [
        b for b in job.building.blocks if b.parent_id == e.block_id and SIDES[b.side] == side and b.kind not in ("dormer", "chimney")
    ]
    return tuple((left_m + b.from_left_m, left_m + b.from_left_m + b.across_m, b.name) for b in against)


def access_plan(job: Job, specs: Sequence[Spec], knowledge: Knowledge, access: str = "") -> tuple[WallPlan, ...]:
    """Return where ladders, tower or lift stand, wall by wall."""
    return plan(walls_of(job, specs, knowledge, access), knowledge.access, knowledge.practice)


def moving_by_side(scope: Scope, job: Job) -> dict[str, float]:
    """Return painter-hours of moving ladders, towers and lifts by the id of the elevation."""
    knowledge = scope.knowledge

    def reckoned() -> dict[str, float]:
        return moving_by_wall(access_plan(job, specs_of(scope, job), knowledge), knowledge.access, knowledge.practice)

    return scope.cached(("moving", *house_of(scope, job)), reckoned)


@dataclass(frozen=True)
class WallReach:
    """Ways up of a job: as chosen wall by wall, and each single way for all walls."""

    plans: tuple[WallPlan, ...]
    ways: tuple[Way, ...]
    # Days on which what is hired must be reserved at the latest, where the schedule says when it is needed.
    reserve_by: Mapping[str, date]

    @property
    def sets(self) -> int:
        return sum(len(p.sets) for p in self.plans)

    @property
    def barred(self) -> tuple[WallPlan, ...]:
        return tuple(p for p in self.plans if p.barred)


def reached(scope: Scope, job: Job, specs: Sequence[Spec], first_day: date | None) -> WallReach:
    """Return how a job is reached.

    Parameters
    ----------
    first_day : date or None
        Of the work; None while nothing is scheduled.
    """
    knowledge, rules = scope.knowledge, rules_of(job)
    walls = walls_of(job, specs, knowledge)
    plans = plan(walls, knowledge.access, knowledge.practice)
    table = access_in(knowledge, job.country, shipped().access)
    higher = [w for w in walls if w.access != "ground"]
    ways = compare(higher, table, knowledge.practice, rules.painters, knowledge.money.labour_per_h)
    rows = knowledge.access
    hired = {p.wall.access for p in plans if p.sets and (rows[p.wall.access].hire_per_day or rows[p.wall.access].hire_per_m2)}
    by = {key: first_day - timedelta(days=knowledge.access[key].lead_days) for key in hired} if first_day else {}
    return WallReach(plans, ways, by)
