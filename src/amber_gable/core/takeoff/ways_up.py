"""Access plan: where a ladder stands along each wall, how often it is moved, and what each way up takes and costs.

Pure functions.
Not here: which way up is safe on a wall (access).
"""

from collections.abc import Mapping, Sequence
from dataclasses import dataclass

from amber_gable.core.knowledge import Access, Ground, Practice
from amber_gable.core.knowledge.assumptions import assumed
from amber_gable.core.survey.access import LINE_CLEARANCE_M
from amber_gable.core.takeoff.quantity import whole
from amber_gable.units import both, both_of

_BESIDE_M = assumed("beside_window_m")
# How far a scaffold stands past the ends of a wall and above its top (our assumption).
_GUARD_M = 1.0


def ladder_sets(wall_width_m: float, reach_each_side_m: float, extension_m: float = 0.0) -> int:
    """Return how often a ladder is set along a wall: width / (2 x (reach + extension)), rounded up.

    Parameters
    ----------
    wall_width_m : float
    reach_each_side_m : float
        From a ladder without leaning out [m].
    extension_m : float
        Of a pole or gun [m].
    """
    return whole(wall_width_m / (2 * (reach_each_side_m + extension_m)))


@dataclass(frozen=True)
class Wall:
    """An elevation as somebody with a ladder sees it.

    Parameters
    ----------
    key, name : str
    left_m, width_m, top_m : float
    access : str
        By which it is to be reached.
    ground : Ground
    slope_pct : float
    plants : tuple of str
        What grows at its foot.
    line_distance_m : float or None
        Of the nearest wire.
    openings : tuple of (left, right)
        What no ladder leans on [m].
    passes : int
        How often one goes along it: preparation, and each coat.
    high_h : float
        Painter-hours above the first storey, as if from the ground.
    before : tuple of (left, right, name)
        What is built against it and lower: a porch, a bay [m].
    """

    key: str
    name: str
    left_m: float
    width_m: float
    top_m: float
    access: str
    ground: Ground
    slope_pct: float = 0.0
    plants: tuple[str, ...] = ()
    line_distance_m: float | None = None
    openings: tuple[tuple[float, float], ...] = ()
    passes: int = 1
    high_h: float = 0.0
    before: tuple[tuple[float, float, str], ...] = ()


@dataclass(frozen=True)
class LadderSet:
    """A place where the ladder (or tower, or lift) stands: its number over the whole house, where, what to mind."""

    number: int
    x_m: float


@dataclass(frozen=True)
class WallPlan:
    """The sets along one wall, what to mind there, and why none may stand (empty where one may)."""

    wall: Wall
    sets: tuple[LadderSet, ...]
    minds: tuple[str, ...]
    barred: str


def _beside(x: float, wall: Wall, shift_m: float) -> float:
    """Return the nearest place that does not stand before a window, if there is one within reach."""
    for left, right in wall.openings:
        if left < x < right:
            low, high = left - _BESIDE_M, right + _BESIDE_M
            near = low if x - low <= high - x else high
            inside = wall.left_m < near < wall.left_m + wall.width_m
            return near if abs(near - x) <= shift_m and inside else x
    return x


def _minds(wall: Wall, row: Access) -> tuple[tuple[str, ...], str]:
    barred = ""
    if wall.line_distance_m is not None and wall.line_distance_m < LINE_CLEARANCE_M:
        barred = both("a wire is nearer than 3 m (10 ft): nothing stands here until it is isolated or shielded")
    minds = []
    if wall.line_distance_m is not None and not barred:
        minds.append(f"a wire at {both_of(wall.line_distance_m, 'run')}: nothing comes nearer to it than {both('3 m (10 ft)')}")
    if wall.slope_pct > row.max_slope_pct:
        minds.append(f"falls {wall.slope_pct:g} %: {row.label.lower()} stands on up to {row.max_slope_pct:g} %; level it or choose another")
    if not wall.ground.is_firm:
        ground = wall.ground.label.lower().replace(":", ",")
        minds.append(f"{ground}: boards under the feet" + (", not for this one" if row.needs_firm_ground else ""))
    minds += [f"{plant.lower()}: cut back or tied before" for plant in wall.plants]
    return tuple(minds), barred


def _over(wall: Wall, sets: Sequence[LadderSet]) -> list[str]:
    """Return which sets would stand where something is built against the wall."""
    reaches = []
    for left, right, name in wall.before:
        there = [str(s.number) for s in sets if left < s.x_m < right]
        if there:
            reaches.append(f"{' and '.join(there)} over the {name.lower()}: from beside it, or boards laid on its roof")
    return reaches


def plan(walls: Sequence[Wall], table: Mapping[str, Access], practice: Practice) -> tuple[WallPlan, ...]:
    """Return where ladders stand, numbered round the house in walking order.

    Parameters
    ----------
    walls : sequence of Wall
        In walking order.
    table : mapping of str to Access
        Ways up, by key.

    References
    ----------
    Handbook 8: width over twice the reach with its extension; 12: reposition rather than lean out.
    """
    plans, number = [], 0
    for wall in walls:
        row = table[wall.access]
        minds, barred = _minds(wall, row)
        reach = practice.reach_side_m if wall.access in ("ladder", "step-ladder") else row.reach_side_m
        extension = practice.extension_m if wall.access in ("ladder", "step-ladder") else 0.0
        # A scaffold stands along the whole wall, once.
        along = 1 if row.hire_per_m2 else ladder_sets(wall.width_m, reach, extension)
        count = 0 if wall.access == "ground" else along
        sets = []
        for i in range(count):
            number += 1
            middle = wall.left_m + wall.width_m * (i + 0.5) / count
            sets.append(LadderSet(number, _beside(middle, wall, reach)))
        plans.append(WallPlan(wall, tuple(sets), (*_over(wall, sets), *minds), barred))
    return tuple(plans)


@dataclass(frozen=True)
class Way:
    """Cost of reaching the whole house by one way.

    Parameters
    ----------
    access : str
    faults : tuple of str
        Walls it does not reach or may not stand at; empty where it serves.
    sets : int
    moving_h, high_h : float
        Painter-hours of moving it, and of the work above the first storey.
    hire_days : int
    hire, labour : float
        In the contractor's money.
    lead_days : int
        Ahead of which it is reserved.
    """

    access: str
    label: str
    faults: tuple[str, ...]
    sets: int
    moving_h: float
    high_h: float
    hire_days: int
    hire: float
    labour: float
    lead_days: int

    @property
    def cost(self) -> float:
        return self.hire + self.labour

    @property
    def serves(self) -> bool:
        return not self.faults


def _faults(wall: Wall, row: Access) -> list[str]:
    faults = []
    if wall.top_m > row.reach_m:
        reach, top = (both_of(v, "run") for v in (row.reach_m, wall.top_m))
        faults.append(f"{wall.name}: reaches {reach}, the top is at {top}")
    if wall.slope_pct > row.max_slope_pct:
        faults.append(f"{wall.name}: the ground falls {wall.slope_pct:g} %")
    if row.needs_firm_ground and not wall.ground.is_firm:
        faults.append(f"{wall.name}: {wall.ground.label.lower()}")
    return faults


def moving_h(plans: Sequence[WallPlan], table: Mapping[str, Access], practice: Practice) -> float:
    """Return painter-hours of setting ladders, towers and lifts, every pass along every wall."""
    return sum(moving_by_wall(plans, table, practice).values())


def moving_by_wall(plans: Sequence[WallPlan], table: Mapping[str, Access], practice: Practice) -> dict[str, float]:
    """Return painter-hours of setting ladders, towers and lifts by wall; putting one up counts at the first wall that it serves.

    Parameters
    ----------
    plans : sequence of WallPlan
        As `plan` made them.
    table : mapping of str to Access
        Hours a set takes.
    """
    hours: dict[str, float] = {}
    erected: set[str] = set()
    for wall_plan in plans:
        wall, row = wall_plan.wall, table[wall_plan.wall.access]
        each = practice.ladder_move_h if wall.access == "ladder" else row.set_h
        hours[wall.key] = len(wall_plan.sets) * each * wall.passes
        if wall.access not in erected and wall_plan.sets:
            erected.add(wall.access)
            hours[wall.key] += row.erect_h
    return hours


def face_m2(wall: Wall) -> float:
    """Return the face of a scaffold along a wall [m2]: a metre past either end and above the top, for its guard."""
    return (wall.width_m + 2 * _GUARD_M) * (wall.top_m + _GUARD_M)


def hire_of(plans: Sequence[WallPlan], table: Mapping[str, Access], practice: Practice, painters: int) -> dict[str, tuple[int, float]]:
    """Return days and money of each way up that is hired.

    Parameters
    ----------
    plans : sequence of WallPlan
        Each with its wall's hours above reach [painter-hours] and its sets.
    table : mapping
        Ways up by key: hire [money per day], delivery [money], hours to erect and to move a set.
    practice : Practice
        Its working day [h], less setting up.
    painters : int
        Who share the hours of a day.

    Returns
    -------
    dict of (int, float)
        By way up: whole days, and money for hire and delivery.
    """
    hours: dict[str, float] = {}
    faces: dict[str, float] = {}
    for wall_plan in plans:
        row = table[wall_plan.wall.access]
        if wall_plan.sets and row.hire_per_m2:
            faces[wall_plan.wall.access] = faces.get(wall_plan.wall.access, 0.0) + face_m2(wall_plan.wall)
        if wall_plan.sets and (row.hire_per_day or row.hire_per_m2):
            work = wall_plan.wall.high_h * row.upper_factor + len(wall_plan.sets) * row.set_h * wall_plan.wall.passes
            hours[wall_plan.wall.access] = hours.get(wall_plan.wall.access, row.erect_h) + work
    left = max(practice.day_h - practice.setup_h, 0.25) * painters
    out = {}
    for access, amount in hours.items():
        days = max(whole(amount / left), 1)
        row = table[access]
        # A week has five days of work; what stands longer than the weeks in its price costs by the week.
        weeks_more = max(days / 5 - row.weeks_in, 0.0)
        by_face = faces.get(access, 0.0) * (row.hire_per_m2 + weeks_more * row.hire_per_m2_week)
        out[access] = (days, days * row.hire_per_day + by_face + row.delivery)
    return out


def compare(
    walls: Sequence[Wall], table: Mapping[str, Access], practice: Practice, painters: int, labour_per_h: float
) -> tuple[Way, ...]:  # fmt: skip
    """Return what each way up would take for all walls, the cheapest that serves first.

    Parameters
    ----------
    walls : sequence of Wall
        Whatever way up they have now.
    table, practice, painters
        As of `hire_of`.
    labour_per_h : float
        Of one painter [money/h]: moving is paid like painting.
    """
    ways = []
    for key, row in table.items():
        if key == "ground":
            continue
        moved = [Wall(**{**wall.__dict__, "access": key}) for wall in walls]
        plans = plan(moved, table, practice)
        moving = moving_h(plans, table, practice)
        high = sum(wall.high_h for wall in walls) * row.upper_factor
        days, hire = hire_of(plans, table, practice, painters).get(key, (0, 0.0))
        faults = tuple(fault for wall in walls for fault in _faults(wall, row))
        sets = sum(len(p.sets) for p in plans)
        ways.append(Way(key, row.label, faults, sets, moving, high, days, hire, (moving + high) * labour_per_h, row.lead_days))
    return tuple(sorted(ways, key=lambda way: (not way.serves, way.cost)))
