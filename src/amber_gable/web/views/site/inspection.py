"""Inspection as it is shown: the side to look at as the answer, its drawing with marks, what to do with each of them."""

from collections.abc import Sequence
from dataclasses import dataclass
from datetime import datetime
from typing import Any

from markupsafe import Markup

from amber_gable.drawing.house.building import DrawnSurface, Look
from amber_gable.drawing.house.marks import DrawnMark, marked_elevation
from amber_gable.drawing.patterns import FILLS
from amber_gable.services.app.scope import Scope
from amber_gable.services.log.entries import photos_by_entry
from amber_gable.services.log.inspection.looking import SideToLook
from amber_gable.services.log.inspection.marks import Mark, marks_of
from amber_gable.services.log.inspection.ownerwalk import OwnerWalk, owner_walk
from amber_gable.services.office import stock
from amber_gable.store.models import Job, StockRow
from amber_gable.units import both, show
from amber_gable.web.sentences import Sentence
from amber_gable.web.templating import clock_time, day_word, zone_of
from amber_gable.web.views.drawn import drawn_elevation

_STATE_WORDS = {"open": "to be mended", "mended": "mended, to be looked at again", "good": "good", "accepted": "accepted as it is"}


@dataclass(frozen=True)
class MarkRow:
    """A mark as a line of the list."""

    mark: Mark
    label: str
    words: str
    mend: str
    state: str
    photos: Sequence[str]
    cans: Sequence[StockRow]


@dataclass(frozen=True)
class SideRow:
    """A side as a tab: its name and what is left of it."""

    id: str
    name: str
    words: str
    is_shown: bool


def inspect_values(scope: Scope, job: Job, sides: Sequence[SideToLook], side_id: str, *, is_walk: bool) -> dict[str, Any]:
    """Return what the page of inspection shows: one side, the answer for it, the marks of the whole job."""
    now, walk = scope.clock.now().astimezone(zone_of(job)), owner_walk(scope, job)
    shown = next((s for s in sides if s.elevation.id == side_id), None) or _first(sides)
    marks = marks_of(scope, job)
    rows = [_row(scope, job, mark) for mark in marks]
    own = {s.id for s in shown.elevation.surfaces} if shown else set()
    # On the owner's list is what the owner found, and what is open anyway.
    listed = [r for r in rows if ((r.mark.is_owners or not r.mark.is_closed) if is_walk else r.mark.surface_id in own)]
    batches = sorted({w.batch for w in shown.walls if w.batch}) if shown else []
    sentence = walk_sentence(walk, marks, now) if is_walk else side_sentence(shown, now)
    return {
        "sides": [SideRow(s.elevation.id, s.elevation.name, _left(s), s is shown) for s in sides],
        "side": shown, "sentence": sentence, "drawing": _drawing(scope, job, shown, marks) if shown else None,
        "kinds": scope.knowledge.site_log.marks, "mark_rows": listed,
        "elsewhere": sum(not m.is_closed for m in marks if m.surface_id not in own), "walk": walk, "is_walk": is_walk,
        "light": _light(shown, now), "menders": scope.owner.painters, "batches": batches,
        "left": sum(not m.is_closed for m in marks), "all_done": bool(sides) and all(s.is_done for s in sides),
        "size_unit": "in" if job.units == "us" else "mm",
    }  # fmt: skip


def _first(sides: Sequence[SideToLook]) -> SideToLook | None:
    """Return the side that asks most: marks to mend, then one that can be judged now, then any."""
    ready = [s for s in sides if s.is_dry and not s.is_done]
    return next((s for s in sides if s.open_marks), next(iter(ready), next(iter(sides), None)))


def _left(side: SideToLook) -> str:
    if side.open_marks:
        return f"{len(side.open_marks)} open"
    return "looked over" if side.is_done else "dry" if side.is_dry else "still dries"


def side_sentence(side: SideToLook | None, now: datetime) -> Sentence:
    """Return what to do about a side now."""
    if side is None:
        return Sentence("Nothing to inspect yet.", "A side is looked over once a coat of it is on record and dry.")
    name = side.elevation.name
    to_mend = [m for m in side.open_marks if m.state == "open"]
    if not side.is_dry:
        ready = side.dry_at.astimezone(now.tzinfo) if side.dry_at else None
        when = f"from {f'{day_word(ready, now)} ' if ready.date() != now.date() else ''}{ready:%H:%M}" if ready else "once it is dry"
        return Sentence(f"Inspect {name.lower()} {when}.", "A film is judged dry: while wet, misses are brushed out and runs laid off.")
    if to_mend:
        return Sentence(
            f"{name}: {len(to_mend)} to mend.", "From the same box, feathered out to a corner or a joint; then looked at again, dry."
        )
    if side.open_marks:
        return Sentence(f"{name}: look at {len(side.open_marks)} again.", "Dry, in the light that showed it.")
    if side.is_done:
        return Sentence(f"{name} is looked over.", "No mark is open.")
    early = next((w for w in side.walls if not w.is_last), None)
    if early is not None:
        which = f"{early.surface.name} has coat {early.coat} of {early.of}"
        rest = f"{which}: patches are no fault yet, it is judged after the last. Runs and misses are."
        return Sentence(f"{name}: look for runs and misses.", rest)
    return Sentence(
        f"Look over {name.lower()} now.",
        "From both ends, from above where a ladder stands, with the eye beside the light. Shadows look like misses: check twice.",
    )


def walk_sentence(walk: OwnerWalk, marks: Sequence[Mark], now: datetime) -> Sentence:
    """Return where the owner's walk stands."""
    left = [m for m in marks if not m.is_closed]
    if walk.final is not None:
        signed = walk.final.at.astimezone(now.tzinfo)
        return Sentence(
            f"Signed by {walk.final.details['name']}.", f"{signed:%A} {signed.day} {signed:%B} {signed:%H:%M}. The work is accepted."
        )
    if not walk.is_daylight:
        return Sentence("Too dark for the owner's walk.", both("Walls are judged by daylight, from 2 m (6 ft)."), alarm=True)
    if walk.unfinished:
        names = f"{', '.join(walk.unfinished[:3])}{' and more' if len(walk.unfinished) > 3 else ''}"
        rest = f"{len(walk.unfinished)} parts still take coats: {names}."
        return Sentence("Not yet: the work is not finished.", rest)
    if walk.listed is None:
        return Sentence(
            "Walk round with the owner.",
            both("By daylight, from 2 m (6 ft): what is seen from there goes on the one list. Then the owner signs it."),
        )
    if left:
        return Sentence(
            f"{len(left)} of the list are open.", f"Signed by {walk.listed.details['name']}: nothing is added to it. Mend them, look again."
        )
    return Sentence("The list is done: the owner signs.", both("Walk round once more, by daylight, from 2 m (6 ft)."))


def _light(side: SideToLook | None, now: datetime) -> str:
    if side is None or side.light is None:
        return ""
    start, end = side.light.starts_at.astimezone(now.tzinfo), side.light.ends_at.astimezone(now.tzinfo)
    day = "" if start.date() == now.date() else f"{day_word(start, now)} "
    why = "the sun grazes it" if side.light.is_sun else "no sun reaches it low: the day's end shows most"
    return f"Best light {day}{start:%H:%M} to {end:%H:%M}: {why}."


def _row(scope: Scope, job: Job, mark: Mark) -> MarkRow:
    kind, zone = scope.knowledge.site_log.marks[mark.kind], zone_of(job)
    size = (
        f", {show(1000 * mark.size_m, 'small length', job.units) if mark.size_m < 1 else show(mark.size_m, 'length', job.units)}"
        if mark.size_m
        else ""
    )
    said = f"{mark.place}{size}{f': {mark.text}' if mark.text else ''}"
    by = f"{mark.by}, {mark.at.astimezone(zone):%a} {clock_time(mark.at, zone)}{f'; for {mark.mender}' if mark.mender else ''}"
    last = mark.last
    told = f"{last.said_by} {clock_time(last.at, zone)}{f': {last.text}' if last.text else ''}" if last is not None else ""
    name = last.details.get("name", "") if last is not None else ""
    state = f"{_STATE_WORDS[mark.state]}{f' by {name}' if name else ''}{f' ({told})' if told else ''}"
    cans = [row for row in stock.rows(scope) if row.job_id in (None, job.id) and row.litres > 0]
    photos = [p.id for entry in (mark.entry, last.entry if last else "") for p in photos_by_entry(scope, job).get(entry, [])]
    return MarkRow(mark, kind.label, f"{said}. {by}", kind.mend, state, photos, cans)


def _drawing(scope: Scope, job: Job, side: SideToLook, marks: Sequence[Mark]) -> Markup:
    walls = {w.surface.id: w for w in side.walls}
    kinds = scope.knowledge.site_log.marks

    def look(surface: DrawnSurface) -> Look:
        wall = walls.get(surface.id)
        if wall is None:
            return Look("var(--paper)", f"{surface.name}: no coat on record")
        word = f"{surface.name}: coat {wall.coat} of {wall.of}, {'dry' if wall.is_dry else 'still drying'}"
        return Look("var(--depth-1)" if wall.is_dry else FILLS["shut"], word)

    drawn = [
        DrawnMark(m.number, kinds[m.kind].sign, m.x_m, m.y_m, m.state, f"{m.number}: {kinds[m.kind].label}, {_STATE_WORDS[m.state]}")
        for m in marks
        if m.surface_id in {s.id for s in side.elevation.surfaces}
    ]
    return Markup(marked_elevation(drawn_elevation(side.elevation, scope.knowledge), look, drawn))
