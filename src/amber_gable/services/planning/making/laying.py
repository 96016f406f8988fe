"""Laying out a job: what is left of its work as stints, each with the hours in which it may begin and what it waits for."""

import math
from collections.abc import Iterator, Mapping
from dataclasses import dataclass
from functools import partial

import numpy as np
from numpy.typing import NDArray

from amber_gable.core.air.humid import Array
from amber_gable.core.coat.drying import Kind, drying_rate, progress_h, ready_index
from amber_gable.core.knowledge import Wait
from amber_gable.core.knowledge.assumptions import assumed
from amber_gable.core.planning.crew.machines import gear_key
from amber_gable.core.planning.crew.values import AfterTask, CrewTask
from amber_gable.core.planning.state import State
from amber_gable.core.planning.stints import After, Place, Stint, left_of, stints_of, tails_h
from amber_gable.core.planning.work import GROUND, WaitsFor, WorkTask
from amber_gable.core.windows import SHUT
from amber_gable.core.windows.run import FILM_RISK
from amber_gable.core.windows.steps import step_windows
from amber_gable.services.app.scope import Scope
from amber_gable.services.jobs.jobs import rules_of
from amber_gable.services.log.standing import Standing, ready_by, rows_by_place, sound_index, standing_work, waits_h
from amber_gable.services.office.fleet import fleet_of
from amber_gable.services.outlook import outlook as outlooks
from amber_gable.services.outlook.joinery import joinery, rows_of
from amber_gable.services.outlook.outlook import Outlook
from amber_gable.services.planning.making.far import far_outlook, loud_hours, working_hours
from amber_gable.services.planning.making.soaking import Soaking, place_of
from amber_gable.services.systems.coatings import Turn, coatings_of
from amber_gable.services.systems.specs import schools_of
from amber_gable.services.takeoff.access import moving_by_side
from amber_gable.store.models import Job

_MOST_H, _EACH_H, _LIGHT_MM_H = assumed("stint_most_h"), assumed("stint_each_h"), assumed("light_rain_mm_h")
# Machines that are heard next door.
_LOUD = ("sprayer", "pressure-washer", "rotating-washer", "grinder-shrouded", "sander", "hepa-vacuum")
# Less than a minute and a half is nothing left.
_LEAST_H = 0.025
_SKILL_OF = {"lift": {"lift"}, "ladder": {"ladder", "tower", "scaffold"}}


@dataclass(frozen=True)
class Frame:
    """The steps of a plan: quarter-hours from a moment on, so many."""

    start_s: float
    count: int
    step_s: float = 900.0

    def at_s(self, step: int) -> float:
        return self.start_s + step * self.step_s


@dataclass(frozen=True)
class Piece:
    """What is left of a piece of a stint.

    Parameters
    ----------
    stint : str
    hours : float
        Painter-hours without moving ladders.
    of : int
        How many pieces the whole stint has.
    is_begun : bool
        The record says that part of it is done.
    """

    stint: str
    hours: float
    of: int
    is_begun: bool


@dataclass(frozen=True)
class Laid:
    """A job laid out.

    Parameters
    ----------
    job_id : str
    standing : Standing
    stints : dict of str to Stint
        What is left, by id; those that a gate holds up too.
    tasks : tuple of CrewTask
        Pieces of stints that a plan may place; ids end in "#" and the number of the piece.
    works : ndarray of bool, shape (Q,)
        Quarter-hours in which somebody is at work here.
    pieces : dict of str to Piece
        Of all stints, by id: what is left. A piece keeps its number while those before it are done.
    """

    job_id: str
    standing: Standing
    stints: dict[str, Stint]
    tasks: tuple[CrewTask, ...]
    works: NDArray[np.bool_]
    pieces: dict[str, Piece]


def pieces_left(full: Stint, rest: Stint, painters: int) -> dict[str, Piece]:
    """Return what is left of a stint, piece by piece, by id.

    Parameters
    ----------
    full, rest : Stint
        As a whole, and without what is done.
    painters : int
        How many there are: all that may work at it do.
    """
    count = max(1, math.ceil(full.hours / full.painters(painters, _EACH_H) / _MOST_H - 1e-6))
    done = full.hours - rest.hours
    out: dict[str, Piece] = {}
    for piece in range(count):
        ends_h = full.hours * (piece + 1) / count
        left_h = ends_h - max(full.hours * piece / count, done)
        # Of what takes nobody's time the last piece stands for all.
        if left_h > _LEAST_H or (piece == count - 1 and not out):
            out[f"{rest.id}#{piece}"] = Piece(rest.id, max(left_h, 0.0), count, left_h < full.hours / count - _LEAST_H)
    return out


def places_in(job: Job) -> dict[str, Place]:
    """Return what a plan has to know of each place of a job by the part of a task's id before its step."""
    own = {s.id: Place(s.kind) for e in job.building.elevations for s in e.surfaces}
    round_it = {f"{part}@{e.id}": Place(None, part) for part in ("windows", "shutters", "trim") for e in job.building.elevations}
    return own | round_it | {part: Place(None, part) for part in ("windows", "shutters", "trim")}


def lay_out(scope: Scope, job: Job, ahead: Outlook, frame: Frame, painters: int) -> Laid:
    """Return a job laid out on the steps of a plan.

    Parameters
    ----------
    frame : Frame
    painters : int
        How many there are.
    """
    standing = standing_work(scope, job, ahead)
    far = far_outlook(scope, ahead)
    trim_first = schools_of(scope, job).get("trim-order") == "trim-first"
    every = stints_of(standing.tasks, places_in(job), trim_first=trim_first)
    over = [i for i, state in standing.states.items() if state.state.is_over]
    begun = {i: state.done_frac for i, state in standing.states.items() if state.state is State.UNDER_WAY}
    rest = left_of(every, begun, over)
    full = {s.id: s for s in every}
    parts = {i: piece for s in rest for i, piece in pieces_left(full[s.id], s, painters).items()}
    made = _Laying(scope, job, ahead, far, frame, painters, standing)
    return Laid(job.id, standing, {s.id: s for s in rest}, tuple(made.tasks(rest, parts)), made.works, parts)


def _framed_ready(by_end: Array, shift: int, count: int) -> NDArray[np.int32]:
    """Return instants of the weather's grid, by the instant at which work ended, as steps of the plan by its steps.

    Parameters
    ----------
    shift : int
        Of the plan's first step on that grid.
    count : int
        Steps of the plan.
    """
    ends = np.arange(count + 1)
    ready = by_end[np.minimum(ends + shift, len(by_end) - 1)] - shift
    never = np.isinf(ready)
    return np.where(never, count + 1, np.ceil(np.where(never, 0, ready))).astype(np.int32)


class _Laying:
    """The windows and waits of one job's stints."""

    def __init__(
        self, scope: Scope, job: Job, ahead: Outlook, far: Outlook, frame: Frame, painters: int, standing: Standing
    ) -> None:  # fmt: skip
        self._scope, self._job, self._frame, self._painters, self._standing = scope, job, frame, painters, standing
        self._far = far
        self._hung = joinery(scope, job, far) if rows_of(scope, job) else None
        self._row_of = rows_by_place(job, far)
        self._coatings = coatings_of(scope, job)
        self._ready_by = ready_by(ahead, rows_by_place(job, ahead), scope.knowledge)
        self._working = working_hours(far, rules_of(job), set_up_h=scope.knowledge.practice.setup_h, country=job.country)
        self._loud = loud_hours(far, rules_of(job))
        self._moving = self._moving_shares()
        self._states: dict[tuple[str, str, str], NDArray[np.bool_]] = {}
        self._progress: dict[tuple[int, str], Array] = {}
        self._readies: dict[tuple[int | None, Kind | None, float, float | None], NDArray[np.int32] | None] = {}
        self._risks: dict[tuple[str, ...], Array] = {}
        epoch = far.windows.climate.grid.epoch_s
        # Steps of the plan on the grid of the weather.
        self._shift = round((frame.start_s - epoch[0]) / frame.step_s)
        # No method of this layout's own: each would hold the other, and both all their weather, until garbage is looked for.
        self._as_steps = partial(_framed_ready, shift=self._shift, count=frame.count)
        self._soaking = Soaking(far, scope.knowledge, self._as_steps)

    def _moving_shares(self) -> dict[str, float]:
        """Return by side what moving ladders adds to each hour that is worked from them."""
        climbed: dict[str, float] = {}
        for task in self._standing.tasks:
            if task.way_up != GROUND:
                climbed[task.side] = climbed.get(task.side, 0.0) + task.hours
        moving = moving_by_side(self._scope, self._job)
        return {side: moving.get(side, 0.0) / hours for side, hours in climbed.items() if hours}

    @property
    def works(self) -> NDArray[np.bool_]:
        return self._framed(self._working)

    def tasks(self, rest: tuple[Stint, ...], parts: Mapping[str, Piece]) -> Iterator[CrewTask]:
        held, fleet = self._held(rest), fleet_of(self._scope)
        own: dict[str, list[str]] = {}
        for piece_id, piece in parts.items():
            if piece.stint not in held:
                own.setdefault(piece.stint, []).append(piece_id)
        last_piece = {stint_id: ids[-1] for stint_id, ids in own.items()}
        tail = tails_h({s.id: s.hours for s in rest}, {s.id: [a.stint for a in s.after] for s in rest})
        for stint in rest:
            if stint.id in held:
                continue
            may = self._framed(self._hours(stint))
            waits, release = self._waits(stint, last_piece)
            waits += tuple(self._soaking.waits(stint, rest, last_piece))
            low = max((t.crew[0] for t in stint.tasks if t.hours), default=1)
            high = max((t.crew[1] for t in stint.tasks if t.hours), default=1)
            gear = tuple(gear_key(k, fleet[k], self._job.id) for k in (*stint.equipment, *stint.ways_up) if k in fleet)
            moving = self._moving_h(stint) / stint.hours if stint.hours else 0.0
            for n, piece_id in enumerate(own[stint.id]):
                before = (AfterTask(own[stint.id][n - 1], None, "the piece before"),) if n else waits
                needs, one_with = _skills(stint)
                yield CrewTask(
                    piece_id, self._job.id, stint.side, parts[piece_id].hours * (1 + moving), (min(low, self._painters), high), gear,
                    may, before, release, stint.wets, tail[stint.id], needs, one_with, self._risk(stint),
                )  # fmt: skip

    def _moving_h(self, stint: Stint) -> float:
        """Return the painter-hours of moving ladders or the tower during a stint: its share of those of its side."""
        climbed = sum(task.hours for task in stint.tasks if task.way_up != GROUND)
        return self._moving.get(stint.side, 0.0) * climbed

    def _framed(self, values: NDArray[np.bool_]) -> NDArray[np.bool_]:
        """Return values of the weather's grid on the steps of the plan; False beyond it."""
        out = np.zeros(self._frame.count, dtype=bool)
        part = values[self._shift : self._shift + self._frame.count]
        out[: len(part)] = part
        return out

    def _held(self, rest: tuple[Stint, ...]) -> set[str]:
        """Return the stints that a gate holds up, or that wait for one that is."""
        held: set[str] = set()
        for stint in rest:
            if stint.held_by or any(after.stint in held for after in stint.after):
                held.add(stint.id)
        return held

    def _waits(self, stint: Stint, last_piece: Mapping[str, str]) -> tuple[tuple[AfterTask, ...], int]:
        """Return what a stint waits for that is still to be done, and the step at which waits for what is done are over."""
        waits, release = [], 0
        for after in stint.after:
            if after.task is not None and self._standing.states[after.task.id].state.is_over:
                release = max(release, self._over_at(after.task, after.wait))
            elif after.stint in last_piece:
                waits.append(AfterTask(last_piece[after.stint], self._ready_at(after), after.why))
        return tuple(waits), release

    def _over_at(self, task: WorkTask, wait: Wait) -> int:
        since = self._standing.states[task.id].since_s
        if since is None:
            return 0
        ready = self._ready_by(task, WaitsFor(task.id, wait), since)
        if math.isinf(ready):
            return self._frame.count
        return max(0, math.ceil((ready - self._frame.start_s) / self._frame.step_s - 1e-6))

    def _ready_at(self, after: After) -> NDArray[np.int32] | None:
        """Return, by the step a stint ended at, the step at which the wait after it is over; None where there is nothing to wait for."""
        if after.task is None:
            return None
        hours, kind = waits_h(after.task, WaitsFor(after.task.id, after.wait), self._scope.knowledge)
        row = self._row_of(place_of(after.task))
        # Many steps of a wall wait alike: one array for them all.
        key = (row, kind, hours, after.wait.hours if after.wait.law == "moisture" else None)
        if key not in self._readies:
            ready = self._reckoned_ready(row, kind, hours, after.wait)
            self._readies[key] = None if ready is None else ready.astype(np.int32, copy=False)
        return self._readies[key]

    def _reckoned_ready(self, row: int | None, kind: Kind | None, hours: float, wait: Wait) -> NDArray[np.integer] | None:
        ends = np.arange(self._frame.count + 1)
        if wait.law == "moisture" and row is not None and (sound := sound_index(self._far, row)) is not None:
            return np.maximum(self._as_steps(sound), ends + math.ceil(wait.hours * 3600 / self._frame.step_s))
        if not hours:
            return None
        if kind is None or row is None:
            return ends + math.ceil(hours * 3600 / self._frame.step_s)
        climate = self._far.windows.climate
        if (row, kind) not in self._progress:
            rate = drying_rate(kind, climate.surface_temp_c[row : row + 1], climate.vapour_pa, climate.wind_m_s)
            self._progress[row, kind] = progress_h(rate, climate.grid.step_s)
        return self._as_steps(ready_index(self._progress[row, kind], hours)[0])

    def _hours(self, stint: Stint) -> NDArray[np.bool_]:
        """Return the quarter-hours in which a stint may be worked at."""
        may = self._working.copy()
        for task in stint.tasks:
            may &= self._may(task)
        return may & self._loud if any(name in _LOUD for name in stint.equipment) else may

    def _risk(self, stint: Stint) -> Array | None:
        """Return how likely a stroke of a coat is spoilt by the weather after it; None of what is no coat."""
        if not stint.wets:
            return None
        places = tuple(sorted({place_of(task) for task in stint.tasks}))
        if places not in self._risks:
            self._risks[places] = self._risk_at(places)
        return self._risks[places]

    def _risk_at(self, places: tuple[str, ...]) -> Array:
        worst = np.zeros(len(self._working))
        for place in places:
            base = self._hung if self._hung is not None and self._hung.row(place) is not None else self._far
            row = base.row(place)
            if row is not None:
                shares = base.windows.check(FILM_RISK).values
                assert shares is not None, "they are what it judges by"
                np.maximum(worst, 1 - shares[row], out=worst)
        out = np.zeros(self._frame.count)
        part = worst[self._shift : self._shift + self._frame.count]
        out[: len(part)] = part
        return out

    def _may(self, task: WorkTask) -> NDArray[np.bool_]:
        place = place_of(task)
        turn = self._turn(task)
        key = (place, task.weather, turn or "")
        if key not in self._states:
            self._states[key] = self._judged(place, task.weather, turn)
        return self._states[key]

    def _turn(self, task: WorkTask) -> Turn | None:
        coating = self._coatings.get(place_of(task))
        return coating.turn_of(task.step) if coating and task.is_coat else None

    def _judged(self, place: str, weather: str, turn: Turn | None) -> NDArray[np.bool_]:
        """Return the quarter-hours that the weather leaves for a kind of work at a place."""
        hung = self._hung if self._hung is not None and self._hung.row(place) is not None else None
        base = hung or self._far
        row = base.row(place) if hung else self._row_of(place)
        climate = base.windows.climate
        if turn is not None and row is not None:
            judged = outlooks.of_turn(self._scope, self._job, base, turn)
            own = judged.row(place)
            if own is not None:
                return _open(judged.windows.states[own])
        if weather in self._scope.knowledge.step_weather and row is not None:
            rules = outlooks.rules_for(self._scope, self._job, by_hand=True)
            return _open(step_windows(climate.of_surfaces([row]), self._scope.knowledge.step_weather[weather], rules).states[0])
        is_dry_enough = climate.rain_mm_h < _LIGHT_MM_H
        told = climate.thunder_probability_pct
        result: NDArray[np.bool_] = climate.sky.is_day & is_dry_enough
        return result if told is None else result & (told < self._scope.knowledge.limits.thunder_pct)


def _skills(stint: Stint) -> tuple[tuple[str, ...], tuple[str, ...]]:
    """Return the skills that each painter at a stint must have, and those that one of them must have (handbook 8 and 12)."""
    ways = set(stint.ways_up)
    needs = tuple(name for name, ways_up in _SKILL_OF.items() if ways & ways_up)
    one_with = ["sprayer"] if "sprayer" in stint.equipment else []
    one_with += ["lead"] if any(task.step.startswith("rules-") for task in stint.tasks) else []
    return needs, tuple(one_with)


def _open(states: NDArray[np.int8]) -> NDArray[np.bool_]:
    result: NDArray[np.bool_] = states != SHUT
    return result
