"""Where and when to look: sides whose last coat is dry enough to judge, the best light on each, what has been looked over.

Not here: marks (marks); the physics of sun and film (core).
"""

from collections.abc import Sequence
from dataclasses import dataclass
from datetime import datetime, timedelta
from zoneinfo import ZoneInfo

import numpy as np
from numpy.typing import NDArray

from amber_gable.core.air.sun import on_planes
from amber_gable.core.knowledge import Phase, Wait
from amber_gable.core.planning.state import State, Told
from amber_gable.core.planning.work import WaitsFor, WorkTask
from amber_gable.errors import FieldErrors
from amber_gable.services.app.scope import Scope
from amber_gable.services.changes.changes import changing
from amber_gable.services.log.coats.fresh import FreshFilm
from amber_gable.services.log.entries import Written, put, standing_lines
from amber_gable.services.log.inspection.marks import Mark, marks_of, open_on
from amber_gable.services.log.record import Said, enter, recorded, rows_of, void_of
from amber_gable.services.log.standing import Standing, ready_by, rows_by_place, standing_work
from amber_gable.services.outlook.outlook import Outlook
from amber_gable.store.models import Elevation, Job, Surface

INSPECT = "inspect"
# From where a wall is looked at (handbook 10).
LOOKS = {"left": "from the left end", "right": "from the right end", "off": "off-angle, eye beside the light", "above": "from above"}
_COATS = (Phase.PRIME, Phase.COAT, Phase.SEAL)
# Sun that grazes a wall shows laps and ridges: its angle to the wall's normal [°]; a low one besides [°].
_GRAZING_DEG, _LOW_DEG = (65.0, 88.0), 35.0
# In daylight, but near its ends, a wall without sun shows most.
_DUSK = timedelta(hours=1.5)
_REACH = timedelta(hours=48)
_LADDERS = ("ladder", "tower", "lift")


@dataclass(frozen=True)
class Light:
    """A stretch of good light on a side, in the site's zone; `is_sun` where the sun itself grazes it."""

    starts_at: datetime
    ends_at: datetime
    is_sun: bool


@dataclass(frozen=True)
class WallToLook:
    """A surface and its newest coat.

    Parameters
    ----------
    coat : int
        Which one is on, from 1, of `of`.
    is_dry : bool
        Dry enough to judge; from `dry_at`, None where nobody knows.
    """

    surface: Surface
    coat: int
    of: int
    label: str
    is_dry: bool
    dry_at: datetime | None
    batch: str
    # Id of the task of the coat that is on.
    task: str = ""

    @property
    def is_last(self) -> bool:
        return self.coat == self.of


@dataclass(frozen=True)
class SideToLook:
    """A side of the house as it is looked over."""

    elevation: Elevation
    walls: tuple[WallToLook, ...]
    marks: tuple[Mark, ...]
    light: Light | None
    # Steps "inspect" of its parts that are still to be done.
    steps: tuple[WorkTask, ...]
    is_done: bool
    from_above: bool

    @property
    def is_finished(self) -> bool:
        """Whether the last coat of every wall with a coat is on."""
        return all(wall.is_last for wall in self.walls)

    @property
    def is_dry(self) -> bool:
        return bool(self.walls) and all(wall.is_dry for wall in self.walls)

    @property
    def dry_at(self) -> datetime | None:
        ready = [wall.dry_at for wall in self.walls if not wall.is_dry]
        return None if not ready or None in ready else max(at for at in ready if at is not None)

    @property
    def open_marks(self) -> list[Mark]:
        return [mark for mark in self.marks if not mark.is_closed]


def sides_to_look(scope: Scope, job: Job, ahead: Outlook | None) -> list[SideToLook]:
    """Return the sides that have a coat on, in walking order."""
    standing, marks = standing_work(scope, job, ahead), marks_of(scope, job)
    walls = _walls(scope, job, ahead, standing)
    out = []
    for elevation in job.building.elevations:
        own = tuple(walls[s.id] for s in elevation.surfaces if s.id in walls)
        if not own:
            continue
        steps = [t for t in standing.tasks if t.step == INSPECT and t.side == elevation.id]
        left = tuple(t for t in steps if not standing.states[t.id].state.is_over)
        above = any(word in (t.way_up or "") for t in standing.tasks if t.side == elevation.id for word in _LADDERS)
        of_side = tuple(m for m in marks if m.surface_id in {s.id for s in elevation.surfaces})
        light = best_light(ahead, elevation, scope.said_at(), max((w.dry_at or scope.said_at() for w in own), default=scope.said_at()))
        out.append(SideToLook(elevation, own, of_side, light, left, bool(steps) and not left, above))
    return out


def _walls(scope: Scope, job: Job, ahead: Outlook | None, standing: Standing) -> dict[str, WallToLook]:
    rows = rows_of(scope, job)
    gone = void_of(rows)
    batches = {row.task: row.batch for row in rows if row.entry not in gone and row.batch}
    row_of = (lambda place: None) if ahead is None else rows_by_place(job, ahead)
    ready, out = ready_by(ahead, row_of, scope.knowledge), dict[str, WallToLook]()
    surfaces = {s.id: s for e in job.building.elevations for s in e.surfaces}
    chains: dict[str, list[WorkTask]] = {}
    for task in standing.tasks:
        if task.is_coat and task.phase in _COATS and task.id.rpartition(":")[0] in surfaces:
            chains.setdefault(task.id.rpartition(":")[0], []).append(task)
    for place, chain in chains.items():
        done = [i for i, task in enumerate(chain) if standing.states[task.id].state in (State.DONE, State.DRYING)]
        if not done:
            continue
        task = chain[done[-1]]
        ended_s = standing.states[task.id].since_s
        product = scope.knowledge.products.get(task.product)
        wait = WaitsFor(task.id, Wait(law="label", hours=product.recoat_h if product else 4.0))
        dry_s = ready(task, wait, ended_s) if ended_s is not None else None
        known = dry_s is not None and np.isfinite(dry_s)
        dry_at = datetime.fromtimestamp(dry_s, scope.clock.now().tzinfo) if known and dry_s is not None else None
        is_dry = dry_at is not None and dry_at <= scope.said_at()
        out[place] = WallToLook(surfaces[place], done[-1] + 1, len(chain), task.label, is_dry, dry_at, batches.get(task.id, ""), task.id)
    return out


def best_light(ahead: Outlook | None, elevation: Elevation, now: datetime, dry_at: datetime) -> Light | None:
    """Return the next stretch of light in which a side shows most: sun that grazes it; without any, the ends of the day."""
    if ahead is None:
        return None
    grid, climate = ahead.windows.climate.grid, ahead.windows.climate
    times = grid.epoch_s[0] + np.arange(len(climate.sky.elevation_deg)) * grid.step_s
    within = (times >= max(now, dry_at).timestamp()) & (times <= (max(now, dry_at) + _REACH).timestamp())
    plane = on_planes(climate.sky, [elevation.azimuth_deg], [90.0])
    # Trees and the house's own eaves hide the sun as they do from its walls.
    row = next((r for s in elevation.surfaces if (r := ahead.row(s.id)) is not None), None)
    seen = climate.direct_sun[row] if row is not None else plane.direct_sun[0]
    grazes = seen & (plane.incidence_deg[0] >= _GRAZING_DEG[0]) & (plane.incidence_deg[0] <= _GRAZING_DEG[1])
    grazes &= climate.sky.elevation_deg <= _LOW_DEG
    span = _first_run(grazes & within)
    if span is None:
        day = climate.sky.elevation_deg > 0
        step = round(_DUSK.total_seconds() / grid.step_s)
        near_end = day & ~(np.roll(day, step) & np.roll(day, -step))
        span = _first_run(near_end & within)
        if span is None:
            return None
    start, end = (datetime.fromtimestamp(float(times[i]), ahead.zone) for i in span)
    return Light(start, end, bool(grazes[span[0]]))


def _first_run(flags: NDArray[np.bool_]) -> tuple[int, int] | None:
    on = np.flatnonzero(flags)
    if not len(on):
        return None
    off = np.flatnonzero(~flags[on[0] :])
    return int(on[0]), int(on[0] + off[0]) if len(off) else len(flags) - 1


def look_over(scope: Scope, job: Job, side: SideToLook, looks: Sequence[str], painters: Sequence[str], entry: str = "") -> str:
    """Record that a side was looked over and is good; return the entry's id.

    Raises
    ------
    FieldErrors
        If it is not dry, its last coat is not on, a mark is open, or it was not looked at from both ends.
    """
    wet = next((w for w in side.walls if not w.is_dry), None)
    if wet is not None:
        when = f"from {wet.dry_at.astimezone(ZoneInfo(job.time_zone)):%A %H:%M}" if wet.dry_at else "later"
        raise FieldErrors({"form": f"{wet.surface.name} is judged dry: {when}."})
    if side.open_marks:
        numbers = ", ".join(str(m.number) for m in side.open_marks)
        raise FieldErrors({"form": f"Open: {numbers}. Mend them and look again, or let somebody accept them by name."})
    missing = [LOOKS[key] for key in ("left", "right", "off", *(("above",) if side.from_above else ())) if key not in looks]
    if missing:
        raise FieldErrors({"looks": f"Look {' and '.join(missing)} too."})
    seen_from = sorted(set(looks) & LOOKS.keys())
    if not side.is_finished or not side.steps:
        # A coat before the last is looked over too, but the work is judged after the last.
        coats = ", ".join(f"{w.surface.name} coat {w.coat} of {w.of}" for w in side.walls)
        written = Written(
            "over", f"{side.elevation.name}: {coats}", {"looks": seen_from, "coats": [w.task for w in side.walls]}, entry=entry
        )
        with changing(scope, f"{side.elevation.name} is looked over", job.id) as change:
            return put(scope, change, job, written)[0]
    now = scope.said_at()
    said = Said(Told.DONE, now, now, painters=tuple(painters), entry=entry, details={"looks": seen_from})
    return enter(scope, job, list(side.steps), said)


def is_looked_over(scope: Scope, job: Job, film: FreshFilm) -> bool:
    """Return whether a coat was looked over: by itself, or with the inspection of its finished part."""
    if any(film.task in line.details.get("coats", ()) for line in standing_lines(scope, job) if line.kind == "over"):
        return True
    told = recorded(scope, job).get(f"{film.surface.id}:{INSPECT}")
    return told is not None and told.ended_s is not None and told.ended_s >= film.ended_at.timestamp()


def check_markable(job: Job, side: SideToLook, surface_id: str, kind: str) -> None:
    """Refuse a mark on a film that cannot be judged yet; damage is damage, wet or dry.

    Raises
    ------
    FieldErrors
    """
    wall = next((w for w in side.walls if w.surface.id == surface_id), None)
    surface = next((s for s in side.elevation.surfaces if s.id == surface_id), None)
    if wall is None and surface is not None and kind != "damage":
        raise FieldErrors({"mark": f"No coat of {surface.name.lower()} is on record: only damage can be marked there."})
    if wall is not None and not wall.is_dry and kind != "damage":
        when = f"from {wall.dry_at.astimezone(ZoneInfo(job.time_zone)):%H:%M}" if wall.dry_at else "once it is dry"
        raise FieldErrors({"mark": f"{wall.surface.name} is judged dry, {when}: while wet, brush it out."})


def check_dry_again(scope: Scope, job: Job, ahead: Outlook | None, mark: Mark) -> None:
    """Refuse to call a mended mark good while what mended it is wet.

    Raises
    ------
    FieldErrors
    """
    if mark.state != "mended" or mark.mended_at is None:
        return
    standing = standing_work(scope, job, ahead)
    task = next((t for t in standing.tasks if t.id == mark.task), None)
    if task is None:
        return
    row_of = (lambda place: None) if ahead is None else rows_by_place(job, ahead)
    product = scope.knowledge.products.get(task.product)
    wait = WaitsFor(task.id, Wait(law="label", hours=product.recoat_h if product else 4.0))
    dry_s = ready_by(ahead, row_of, scope.knowledge)(task, wait, mark.mended_at.timestamp())
    if dry_s > scope.said_at().timestamp():
        zone = ZoneInfo(job.time_zone)
        when = f"from {datetime.fromtimestamp(dry_s, zone):%A %H:%M}" if np.isfinite(dry_s) else "later"
        raise FieldErrors({"form": f"Mark {mark.number} was mended {mark.mended_at.astimezone(zone):%H:%M}: it is judged dry, {when}."})


def refuse_open(scope: Scope, job: Job, tasks: Sequence[WorkTask]) -> None:
    """Refuse to close the inspection of a part that has open marks.

    Raises
    ------
    FieldErrors
    """
    places = {t.id.rpartition(":")[0] for t in tasks if t.step == INSPECT}
    marks = open_on(scope, job, sorted(places))
    if marks:
        numbers = ", ".join(f"{m.number} ({m.place})" for m in marks)
        raise FieldErrors({"form": f"Marks are open: {numbers}. They are mended and looked at again, or accepted by name."})
