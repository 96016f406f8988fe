"""Colours of a job: by zone, in the light of a day, and the boards on which candidates are tried."""

from collections.abc import Sequence
from dataclasses import dataclass
from datetime import UTC, datetime, timedelta
from zoneinfo import ZoneInfo

import numpy as np

from amber_gable.core.air.sun import Irradiance, Place, Shade, Sky, on_planes, rise_and_set, sky, unhidden
from amber_gable.core.coat.colour import lrv_pct
from amber_gable.core.coat.light import Light, lights_at, seen_hex
from amber_gable.core.systems.samples import BRUSH_OUT
from amber_gable.core.systems.zones import MOST, ZONES, BoardPlan, board_plan, looks
from amber_gable.core.takeoff import coverage
from amber_gable.errors import FieldErrors, PlanError
from amber_gable.services.app.scope import Scope
from amber_gable.services.changes.changes import changing
from amber_gable.services.outlook.outlook import place_of
from amber_gable.services.survey.around.shade import shades_of
from amber_gable.services.systems.choices import choice_of
from amber_gable.services.systems.specs import Spec
from amber_gable.store import queries
from amber_gable.store.models import Candidate, Job, Sample, Surface
from amber_gable.store.types import new_id

# The sun must be as high as this before a colour is worth judging [°].
_LIGHT_ENOUGH_DEG = 5.0
# Morning and evening light: this long after sunrise and before sunset.
_AFTER_SUNRISE = timedelta(hours=2)
_STEP_S = 900.0


@dataclass(frozen=True)
class ZoneColour:
    """One new colour in one zone of the house: approved once, for all parts that wear it."""

    zone: str
    hex: str | None
    old_hex: str | None
    sheen: str
    specs: tuple[Spec, ...]
    approved_by: str

    @property
    def key(self) -> str:
        """Return what an address calls it."""
        lrv = self.largest.part.facts.new_lrv_pct
        return f"{self.zone}-{self.hex.lstrip('#') if self.hex else f'lrv-{lrv}'}".lower().replace(" ", "-")

    @property
    def largest(self) -> Spec:
        return max(self.specs, key=lambda s: s.part.extent.area_m2)


def colours_of(scope: Scope, specs: Sequence[Spec], rows: Sequence[Sample]) -> list[ZoneColour]:
    """Return the colours of a job by zone, each with who approved a brush-out of it on one of its parts."""
    approved = [r for r in rows if r.kind == BRUSH_OUT and r.result == "approved"]
    alike: dict[tuple[object, ...], list[Spec]] = {}
    for spec in specs:
        facts = spec.part.facts
        alike.setdefault((ZONES[facts.kind], facts.new_hex, facts.new_lrv_pct), []).append(spec)
    colours = []
    for group in alike.values():
        largest = max(group, key=lambda s: s.part.extent.area_m2)
        facts, keys = largest.part.facts, {s.part.key for s in group}
        # A signature stands for the tint that was brushed out, not for what came after.
        signed = next((r.signed_by or "" for r in approved if r.part in keys and r.details.get("tint", facts.new_hex) == facts.new_hex), "")
        colours.append(ZoneColour(ZONES[facts.kind], facts.new_hex, facts.old_hex, _sheen(scope, largest), tuple(group), signed))
    return colours


def _sheen(scope: Scope, spec: Spec) -> str:
    product = scope.knowledge.products.get(spec.products.get("coat 1", ""))
    return product.sheen if product else ""


def set_colour(scope: Scope, job: Job, colour: ZoneColour, hex_code: str) -> None:
    """Give all parts of one colour another one.

    Raises
    ------
    FieldErrors
        If it is no colour.
    """
    set_colours(scope, job, [(colour, hex_code)])


def set_colours(scope: Scope, job: Job, chosen: Sequence[tuple[ZoneColour, str]], field: str = "hex") -> None:
    """Give the parts of several colours others, in one change.

    Parameters
    ----------
    chosen : sequence of (ZoneColour, str)
    field : str
        Of the form, for faults; "{key}" in it stands for the colour's.

    Raises
    ------
    FieldErrors
        Every fault at once; nothing is changed.
    """
    codes, faults = [], {}
    for colour, hex_code in chosen:
        try:
            codes.append((colour, _checked(hex_code)))
        except FieldErrors as fault:
            faults[field.format(key=colour.key)] = fault.errors["hex"]
    if faults:
        raise FieldErrors(faults)
    with changing(scope, ", ".join(f"{colour.zone}: {code}" for colour, code in codes[:3]), job.id) as change:
        whole = change.whole_job()
        for colour, code in codes:
            for spec in colour.specs:
                row = queries.of_job(change.session, Surface, spec.part.key, job.id)
                if row is not None:
                    change.follow(row, {"hex": code, "lrv_pct": round(lrv_pct(code), 2)})
                else:
                    change.follow(choice_of(change, whole, spec.part.key), {"hex": code})


def _checked(hex_code: str) -> str:
    try:
        lrv_pct(hex_code.strip())
    except PlanError as fault:
        raise FieldErrors({"hex": str(fault)}) from fault
    return hex_code.strip().lower()


def candidates_of(scope: Scope, job_id: str) -> Sequence[Candidate]:
    """Return the colours that are being considered for a job."""
    with scope.reading() as session:
        return queries.candidates(session, job_id)


def add_candidate(scope: Scope, job: Job, zone: str, code: str, hex_code: str) -> None:
    """Put a colour among those that the owner chooses from for a zone.

    Raises
    ------
    FieldErrors
        If it is no colour, has no name, is there already, or there are four.
    """
    if zone not in ZONES.values():
        raise FieldErrors({"zone": "Choose a zone of the house."})
    faults: dict[str, str] = {}
    try:
        hex_code = _checked(hex_code)
    except FieldErrors as fault:
        faults |= fault.errors
    code = code.strip()
    if not 1 <= len(code) <= 60:
        faults["code"] = "Give the name or number it has on the card, up to 60 characters."
    with changing(scope, f"{zone}: candidate {code}", job.id) as change:
        there = [c for c in queries.candidates(change.session, job.id) if c.zone == zone]
        if len(there) >= MOST:
            faults["code"] = f"{MOST} are as many as one can compare on a wall: take one away first."
        if any(c.hex == hex_code for c in there):
            faults.setdefault("hex", "This colour is among them.")
        if faults:
            raise FieldErrors(faults)
        change.add(Candidate(id=new_id(), version=1, job_id=job.id, zone=zone, code=code, hex=hex_code, added_at=change.at))


def remove_candidate(scope: Scope, job_id: str, candidate_id: str) -> None:
    with changing(scope, "remove the candidate", job_id) as change:
        row = change.find(Candidate, candidate_id, "candidate")
        change.label = f"remove {row.code} from the candidates"
        change.delete(row)


@dataclass(frozen=True)
class LightDay:
    """The clear sky of one day over a house, in quarter-hours from local midnight, and what reaches each elevation."""

    midnight: datetime
    sky: Sky
    planes: Irradiance
    rows: dict[str, int]
    hours: dict[str, int]

    def local(self, step: int) -> datetime:
        return datetime.fromtimestamp(self.midnight.timestamp() + step * _STEP_S, UTC).astimezone(self.midnight.tzinfo)

    def lights(self, step: int) -> dict[str, Light]:
        """Return the light on each elevation by its id."""
        lights = lights_at(self.sky, self.planes, step)
        return {key: lights[row] for key, row in self.rows.items()}


def day_of(scope: Scope, job: Job) -> LightDay:
    """Return the clear sky over a job today."""
    midnight = scope.clock.now().astimezone(ZoneInfo(job.time_zone)).replace(hour=0, minute=0, second=0, microsecond=0)
    elevations = job.building.elevations
    facing = tuple((e.id, e.azimuth_deg, e.tilt_deg, shades_of(job, e)) for e in elevations)
    place = place_of(job)
    return scope.cached(("clear day", place, midnight, facing), lambda: _day(place, midnight, facing))


def _day(place: Place, midnight: datetime, facing: Sequence[tuple[str, float, float, tuple[Shade, ...]]]) -> LightDay:
    # To the next midnight, so that a day of 23 or 25 hours is whole.
    seconds = ((midnight + timedelta(days=1)).astimezone(UTC) - midnight.astimezone(UTC)).total_seconds()
    above = sky(place, midnight.timestamp() + np.arange(0, seconds, _STEP_S), 0.0)
    planes = on_planes(above, [f[1] for f in facing], [f[2] for f in facing], seen=unhidden(above, [f[3] for f in facing]))
    rise, fall = rise_and_set(place, midnight)

    def step_at(moment: datetime) -> int:
        return int((moment.timestamp() - midnight.timestamp()) // _STEP_S)

    hours = {"noon": int(np.argmax(above.elevation_deg))}
    if rise is not None and fall is not None and fall - rise > 2 * _AFTER_SUNRISE:
        hours = {"morning": step_at(rise + _AFTER_SUNRISE), **hours, "evening": step_at(fall - _AFTER_SUNRISE)}
    return LightDay(midnight, above, planes, {f[0]: row for row, f in enumerate(facing)}, hours)


@dataclass(frozen=True)
class TrialLook:
    """A trial of colours: hours and walls to look at, with each candidate in that light."""

    wall: str
    at: datetime
    light: str
    seen: tuple[str, ...]


@dataclass(frozen=True)
class ColourTrial:
    """The boards of a zone: what to make, where to hang them, when to look."""

    plan: BoardPlan
    walls: tuple[str, ...]
    looks: tuple[TrialLook, ...]


def trial_of(scope: Scope, job: Job, colour: ZoneColour, candidates: Sequence[Candidate]) -> ColourTrial:
    """Return how candidates for a zone are tried: on the wall with most sun and on the one with least."""
    day = day_of(scope, job)
    names = {e.id: e.name for e in job.building.elevations}
    is_light = day.sky.elevation_deg > _LIGHT_ENOUGH_DEG
    sun = {key: int((day.planes.direct_sun[day.rows[key]] & is_light).sum()) for key in _elevations(scope, job, colour)}
    walls = list(dict.fromkeys([max(sun, key=lambda k: sun[k]), min(sun, key=lambda k: sun[k])])) if sun else []
    trials = []
    for key in walls:
        for look in looks(day.planes.direct_sun[day.rows[key]], is_light):
            light = day.lights(look.step)[key]
            trials.append(TrialLook(names[key], day.local(look.step), look.light, tuple(seen_hex(c.hex, light) for c in candidates)))
    product = scope.knowledge.products.get(colour.largest.products.get("coat 1", ""))
    spread = coverage(product.volume_solids_pct, product.dry_film_um).practical_m2_per_l if product else 10.0
    plan = board_plan(len(candidates), max(len(walls), 1), spread)
    return ColourTrial(plan, tuple(names[key] for key in walls), tuple(sorted(trials, key=lambda look: look.at)))


def _elevations(scope: Scope, job: Job, colour: ZoneColour) -> list[str]:
    """Return the ids of the elevations on which a zone is seen."""
    surfaces = {s for spec in colour.specs for s in spec.part.surfaces}
    kinds = scope.knowledge.openings
    parts = {spec.part.key for spec in colour.specs}
    names = []
    for e in job.building.elevations:
        has_pieces = ("windows" in parts and any(kinds[o.kind].has_panes for o in e.openings)) or (
            "shutters" in parts and any(o.kind == "shutter" for o in e.openings)
        )
        if any(s.id in surfaces for s in e.surfaces) or has_pieces or ("trim" in parts and e.kind == "wall"):
            names.append(e.id)
    return names
