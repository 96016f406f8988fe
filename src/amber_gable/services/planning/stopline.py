"""The stop line of a wall that is being painted, and what somebody on site sees coming."""

from collections.abc import Mapping, Sequence
from dataclasses import dataclass
from datetime import datetime, timedelta

import numpy as np

from amber_gable.core.coat.drying import open_time_min
from amber_gable.core.planning.advice import next_run
from amber_gable.core.planning.coats import recoat_steps
from amber_gable.core.planning.stop_line import Joint, Side, StopLine, joints_of, net_area_between, section_m2, stop_line
from amber_gable.core.windows import SHUT
from amber_gable.core.windows.limits import film_over
from amber_gable.core.windows.states import LimitReason
from amber_gable.errors import FieldErrors, NotFoundError, PlanError
from amber_gable.services.app.scope import Scope
from amber_gable.services.changes.changes import changing
from amber_gable.services.jobs.jobs import rules_of
from amber_gable.services.outlook.outlook import Outlook
from amber_gable.services.outlook.skywatch import seen_on
from amber_gable.services.planning.kept import Visit
from amber_gable.services.planning.making.keeping import of_coat
from amber_gable.services.planning.onwalls import coat_before, coats_on
from amber_gable.services.survey.building.rows import rect_of, region_of
from amber_gable.services.systems.coatings import SurfaceCoating, coatings_of
from amber_gable.services.systems.specs import specs_of
from amber_gable.store.models import Elevation, Job, Opening, Surface

JOINT_KINDS: Mapping[str, str] = {"downspout": "downspout", "board-end": "end of boards"}
# Words of openings as one calls them from below.
_CALLED = {"entry-door": "door", "garage-door": "garage door", "sliding-door": "sliding door", "vent": "vent"}
_MOST_PAINTERS = 20


@dataclass(frozen=True)
class StopQuestion:
    """State of the work on a wall: the coat, the crew, the corner that it began from, the metres done from there."""

    coat: int = 1
    painters: int | None = None
    begins: Side = "left"
    done_m: float = 0.0


@dataclass(frozen=True)
class Stop:
    """All that a painter before the wall needs.

    Parameters
    ----------
    line : StopLine or None
        None while the wall is shut.
    now, limit_at : datetime
        The last stroke; where the wall is shut, when it opens next (None if not within the forecast).
    why : LimitReason or None
        What ends the window, or shuts the wall now.
    pace_m2_h : float
        Of the crew.
    at_m : float
        Where the wet edge stands along the wall.
    open_min, section_m2 : float
        How long the edge stays wet, and how much that lets one lay on.
    at_risk : tuple of Visit
        Coats that are not rain-resistant when the rain comes that somebody sees.
    dry_work : tuple of str
        What can go on under a roof.
    held_by : tuple of str
    coat_before_at : datetime or None
        When the coat before is ready for this one, where that is still to come.
    """

    surface: Surface
    elevation: Elevation
    asked: StopQuestion
    line: StopLine | None
    now: datetime
    limit_at: datetime | None
    why: LimitReason | None
    pace_m2_h: float
    at_m: float
    open_min: float
    section_m2: float
    rain: tuple[datetime, datetime] | None
    at_risk: tuple[Visit, ...]
    dry_work: tuple[str, ...]
    held_by: tuple[str, ...]
    coat_before_at: datetime | None = None

    def at(self, hours: float) -> datetime:
        return self.now + timedelta(hours=hours)


def _surface(job: Job, surface_id: str) -> tuple[Elevation, Surface]:
    place = next(((e, s) for e in job.building.elevations for s in e.surfaces if s.id == surface_id and s.is_painted), None)
    if place is None:
        raise NotFoundError("This surface is not painted (any more).")
    return place


def _inside(surface: Surface, openings: Sequence[Opening], scope: Scope) -> list[tuple[str, Opening]]:
    """Return the openings of an elevation that stand in one surface of it, with the word for each."""
    left, low, right, high = region_of(surface).bounds
    kinds = scope.knowledge.openings
    inside = [o for o in openings if kinds[o.kind].deducts and surface.opening_id is None]
    kept = [o for o in inside if left < o.left_m + o.width_m / 2 < right and low < o.sill_m + o.height_m / 2 < high]
    return [(_CALLED.get(o.kind, "window"), o) for o in kept]


def _joints(surface: Surface, elevation: Elevation, scope: Scope, begins: Side) -> list[Joint]:
    openings = [(word, rect_of(o)) for word, o in _inside(surface, elevation.openings, scope)]
    extra = [Joint(float(x), f"the {JOINT_KINDS[kind]}") for x, kind in elevation.joints]
    return joints_of(region_of(surface), openings, extra, begins)


def _pace(coating: SurfaceCoating, asked: StopQuestion, area_m2: float, crew: int) -> float:
    hours = coating.hours[min(asked.coat, len(coating.hours)) - 1] if coating.hours else 0.0
    if hours <= 0:
        raise PlanError("Nothing goes on this surface: its system has no coat.", "surface")
    return area_m2 / hours * crew


def _rain(scope: Scope, job: Job, ahead: Outlook) -> tuple[datetime, datetime] | None:
    now = scope.clock.now()
    seen = seen_on(scope, job, now).raining(now)
    return (datetime.fromtimestamp(seen[-1].from_s, ahead.zone), datetime.fromtimestamp(seen[-1].until_s, ahead.zone)) if seen else None


def _at_risk(scope: Scope, job: Job, ahead: Outlook, rain_from: datetime, now: datetime) -> tuple[Visit, ...]:
    """Return coats that are on by now and not rain-resistant when it rains."""
    return tuple(v for v in coats_on(scope, job) if _ready_at(ahead, v) > rain_from)


def met_by_rain(scope: Scope, job: Job, ahead: Outlook) -> tuple[Visit, ...]:
    """Return coats that rain which somebody saw has found on the wall, or under way, before they could bear it."""
    now = scope.clock.now()
    falls = [(r.from_s, r.until_s) for r in seen_on(scope, job, now).rain if r.from_s <= now.timestamp()]

    def is_met(visit: Visit) -> bool:
        on_s, ready_s = visit.starts_at.timestamp(), _ready_at(ahead, visit).timestamp()
        return any(on_s < until_s and from_s < ready_s for from_s, until_s in falls)

    return tuple(v for v in coats_on(scope, job) if is_met(v)) if falls else ()


def _ready_at(ahead: Outlook, visit: Visit) -> datetime:
    """Return when a coat that is on is rain-ready at the real weather, by the film that was put on last; the end of the data at most."""
    row, step = ahead.row(visit.surface_id), ahead.step_at(visit.ends_at)
    if row is None:
        return visit.ends_at
    climate = ahead.windows.climate.of_surfaces([row])
    film = film_over(climate, ahead.windows.products[row], ahead.rules[row])
    return ahead.local(int(film.ready_end[0, step]))


def under_a_roof(scope: Scope, job: Job) -> tuple[str, ...]:
    """Return what can go on under a roof: what is taken down, and what is always to be done."""
    taken = [s.part.name for s in specs_of(scope, job) if any(step.key == "take-down" for step in s.system.steps)]
    return (*(f"{name}, under a roof" for name in taken), "box and stir the next colour, clean tips and covers")


def _ready_for(scope: Scope, job: Job, ahead: Outlook, surface_id: str, coat: int) -> int:
    """Return the quarter-hour from which a coat may follow the one before it, by its real hours; 0 where nothing is known of it."""
    before = coat_before(scope, job, surface_id, coat)
    if before is None:
        return 0
    judged = of_coat(scope, job, ahead, coat - 1)
    row = judged.row(surface_id)
    assert row is not None, "every painted surface has a row"
    ready = recoat_steps(judged.windows)[row][ahead.step_at(before.ends_at)]
    return int(np.ceil(min(ready, judged.windows.states.shape[1])))


def stop_for(scope: Scope, job: Job, ahead: Outlook, surface_id: str, asked: StopQuestion) -> Stop:
    """Return how far a crew gets on a wall before it must stop.

    Raises
    ------
    NotFoundError, PlanError
    FieldErrors
        Where the wet edge does not lie on the wall.
    """
    elevation, surface = _surface(job, surface_id)
    ready = _ready_for(scope, job, ahead, surface_id, asked.coat)
    # Later coats go on the new colour, by their own label.
    ahead = of_coat(scope, job, ahead, asked.coat)
    row = ahead.row(surface_id)
    assert row is not None, "every painted surface has a row"
    crew = asked.painters or rules_of(job).painters
    if not 1 <= crew <= _MOST_PAINTERS:
        raise FieldErrors({"painters": f"1 to {_MOST_PAINTERS} painters."})
    region = region_of(surface)
    left, _, right, _ = region.bounds
    if not 0 <= asked.done_m <= right - left + 1e-6:
        raise FieldErrors({"done_m": "The wet edge must lie on this wall: measure from the corner you began at."})
    at = left + asked.done_m if asked.begins == "left" else right - asked.done_m
    coating = coatings_of(scope, job)[surface_id]
    openings = [rect_of(o) for _, o in _inside(surface, elevation.openings, scope)]
    pace = _pace(coating, asked, net_area_between(region, openings, left, right), crew)
    now = scope.clock.now().astimezone(ahead.zone)
    step = ahead.step_at(now)
    states = ahead.windows.states[row]
    climate = ahead.windows.climate
    is_early = ready > step
    is_shut = bool(states[step] == SHUT) or is_early
    # Shut: the next stretch that is worth setting up for. Open: the end of this one.
    coming = next_run(ahead.windows, row, max(step, ready)) if is_shut and ready < len(states) else None
    edges = np.flatnonzero(states[step:] == SHUT)
    end = (coming.first if coming else len(states)) if is_shut else (step + int(edges[0]) if len(edges) else len(states))
    limit_at = ahead.local(end) if end < len(states) else None
    reasons = ahead.windows.reasons(row, step if is_shut else min(end, len(states) - 1))
    line = None
    if not is_shut:
        limit_h = ((limit_at or ahead.local(len(states) - 1)) - now).total_seconds() / 3600
        line = stop_line(region, openings, _joints(surface, elevation, scope, asked.begins), at, asked.begins, pace, limit_h)
    kind = coating.product.kind
    practice = scope.knowledge.practice
    usual = practice.open_time_alkyd_min if kind == "alkyd" else practice.open_time_waterborne_min
    stays = open_time_min(
        kind, usual, float(climate.surface_temp_c[row, step]), float(climate.vapour_pa[step]), float(climate.wind_m_s[step])
    )
    rain = _rain(scope, job, ahead)
    return Stop(
        surface=surface, elevation=elevation, asked=asked, line=line, now=now, limit_at=limit_at, why=reasons[0] if reasons else None,
        pace_m2_h=pace, at_m=at, open_min=stays, section_m2=section_m2(stays, pace), rain=rain,
        at_risk=_at_risk(scope, job, ahead, rain[0], now) if rain else (), dry_work=under_a_roof(scope, job) if rain else (),
        held_by=coating.held_by, coat_before_at=ahead.local(min(ready, len(states) - 1)) if is_early else None,
    )  # fmt: skip


def add_joint(scope: Scope, job: Job, elevation_id: str, kind: str, x_m: float) -> None:
    """Note a place on a wall where work may stop: a downspout, or where boards end.

    Raises
    ------
    FieldErrors
    """
    faults = {}
    if kind not in JOINT_KINDS:
        faults["joint_kind"] = "Choose from the list."
    with changing(scope, f"a joint: {JOINT_KINDS.get(kind, kind)}", job.id) as change:
        row = change.find(Elevation, elevation_id, "wall")
        left, _, right, _ = region_of(row).bounds
        if not left < x_m < right:
            faults["joint_at"] = f"Between the corners: more than 0 and less than {right - left:.2f} m."
        if faults:
            raise FieldErrors(faults)
        change.follow(row, {"joints": sorted([*row.joints, [round(x_m, 3), kind]])})


def remove_joint(scope: Scope, job: Job, elevation_id: str, number: int) -> None:
    with changing(scope, "remove a joint", job.id) as change:
        row = change.find(Elevation, elevation_id, "wall")
        if not 0 <= number < len(row.joints):
            raise NotFoundError("This joint is not there (any more).")
        change.update(row, {"joints": [j for i, j in enumerate(row.joints) if i != number]})
