"""The Windows page: which hours of which surfaces for which work, in which order; one surface's card; two ways side by side."""

from collections.abc import Container
from dataclasses import dataclass
from datetime import datetime
from typing import Any

from markupsafe import Markup

from amber_gable.core.windows import STATE_NAMES
from amber_gable.core.windows.chances import Chances
from amber_gable.core.windows.words import spoken
from amber_gable.drawing.hours import ribbons
from amber_gable.errors import NotFoundError
from amber_gable.services.app.scope import Scope
from amber_gable.services.changes import changes
from amber_gable.services.jobs.jobs import rules_of
from amber_gable.services.log.record import done_steps
from amber_gable.services.log.siteerrors import belief_of
from amber_gable.services.outlook import outlook, sightings
from amber_gable.services.outlook.compare import ComparedSide, Comparison
from amber_gable.services.outlook.drift import overspray_at
from amber_gable.services.outlook.joinery import joinery
from amber_gable.services.outlook.joinery import rows_of as joinery_rows
from amber_gable.services.outlook.outlook import Outlook, day_start
from amber_gable.services.outlook.remedies import better
from amber_gable.services.outlook.series import at_moment, by_opening
from amber_gable.services.outlook.stepwindows import COATS, kinds, outlook_for, step_card
from amber_gable.services.outlook.weather import files as weatherfiles
from amber_gable.services.outlook.windowcard import best_start, card
from amber_gable.services.planning import morning
from amber_gable.services.survey.building.sides import named
from amber_gable.services.systems.coatings import TURNS, SurfaceCoating, coatings_of
from amber_gable.store.models import Job
from amber_gable.units import show
from amber_gable.web.sentences import next_step
from amber_gable.web.templating import zone_of
from amber_gable.web.views.house import windows_band
from amber_gable.web.views.windows import surfacecard
from amber_gable.web.views.windows.hours import curves_of, hours_of, plan_of
from amber_gable.web.views.windows.sky import sky_of

# Reflectances this near to each other warm a wall alike.
_SAME_PCT = 2.0
# A difference of the site's air that nobody would name.
_HARDLY_K = 0.1


@dataclass(frozen=True)
class WindowsQuery:
    """Query of the Windows page: surface, number of days, order ("round" the house or "next" to open), kind of work."""

    surface: str
    days: int
    order: str
    work: str
    # Windows, shutters and trim side by side, in place of surfaces.
    is_round: bool = False


def values_of(scope: Scope, job: Job, asked: WindowsQuery) -> tuple[str, dict[str, Any]]:
    """Return the template of the page and what it shows."""
    about = morning.job_morning(scope, job)
    now = scope.clock.now().astimezone(zone_of(job))
    shared: dict[str, Any] = {"job": job, "stage": "windows", "status": about.status, "sentence": next_step(about, now)}
    if about.ahead is None:
        return "windows/none.html", shared
    has_round = bool(joinery_rows(scope, job))
    base = joinery(scope, job, about.ahead) if asked.is_round and has_round else about.ahead
    ahead = outlook_for(scope, job, base, asked.work)
    hours = hours_of(scope, job, ahead, day_start(ahead, now), 24 * asked.days)
    proposed = about.visit.surface_id if about.visit else about.ahead.surface_ids[about.run.surface if about.run else 0]
    selected = next((i for i in (asked.surface, proposed) if ahead.row(i) is not None), ahead.surface_ids[0])
    step = ahead.step_at(now)
    by_key = {row.surface_id: row for row in hours.rows}
    ordered = [by_key[key] for key in (by_opening(ahead, step) if asked.order == "next" else ahead.surface_ids)]
    return "windows/page.html", shared | {
        "hours": hours,
        "rows": ordered,
        "asked": asked,
        "works": kinds(scope, job, base),
        "has_round": has_round,
        "selected": selected,
        "band": windows_band(job, ahead, step, selected, scope.knowledge),
        "plan": plan_of(job, ahead, day_start(ahead, now)),
        "now_step": step - hours.axis.first,
        "file": weatherfiles.current(scope, job),
        "sky": sky_of(scope, job),
        "undoable": changes.undoable(scope, job.id),
        "palms": sightings.latest_palms(scope, job, now),
    }


def surface_of(
    scope: Scope, job: Job, coats: Outlook, surface_id: str, moment: datetime, days: int, work: str, *, is_round: bool = False
) -> tuple[str, dict[str, Any]]:
    """Return the template of one surface's card at a moment and what it shows.

    Raises
    ------
    NotFoundError
    """
    ahead = outlook_for(scope, job, coats, work)
    row = ahead.row(surface_id)
    if row is None:
        raise NotFoundError("This surface is not painted (any more).")
    now = scope.clock.now().astimezone(zone_of(job))
    axis = hours_of(scope, job, ahead, day_start(ahead, now), 24 * days).axis
    step, system = ahead.step_at(moment), job.units
    climate = ahead.windows.climate
    svg, levels = curves_of(ahead, axis, row, system)
    shared = {
        "job": job,
        "surface_id": surface_id,
        "name": named(job, scope.knowledge)[surface_id][0],
        "is_round": is_round,
        "moment": ahead.local(step),
        "at_s": moment.timestamp(),
        "state": STATE_NAMES[int(ahead.windows.states[row, step])],
        "states": STATE_NAMES,
        "reasons": [spoken(r, system) for r in ahead.windows.reasons(row, step)],
        "here": at_moment(ahead, row, step),
        "curves": svg,
        "levels": levels,
        "work": work,
        "worn": worn_words(coatings_of(scope, job)[surface_id], ahead, done_steps(scope, job).get(surface_id, ())),
    }
    if work not in TURNS:
        about = step_card(scope, job, ahead, surface_id, work, step)
        moments = {"ready": about.ready_at, "face": about.face_dry_at, "sound": about.sound_at}
        ready = {name: None if at is None else surfacecard.when(at, now, at) for name, at in moments.items()}
        return "windows/_step.html", shared | {"card": about, "ready": ready}
    about_coat = card(scope, job, ahead, surface_id, step)
    stretches = [(s, spoken(s.binding, system) if s.binding else None, spoken(s.closest, system)) for s in about_coat.stretches]
    sprayed = rules_of(job).method == "sprayer"
    return "windows/_surface.html", shared | {
        "better": None if is_round else better(scope, job, ahead, surface_id, step),
        "card": about_coat,
        "stretches": stretches,
        "says": lambda m: surfacecard.when(m, now, ahead.local(len(climate.grid.epoch_s) - 1)),
        "stages": surfacecard.stages_of(about_coat.after, ahead, now),
        "damages": surfacecard.damages_of(about_coat.after.damages, ahead, now),
        "film": surfacecard.film_of(about_coat.after, ahead, step, now, system),
        "traces": surfacecard.traces_of(ahead, axis, row, system),
        "drift": surfacecard.drift_lines(overspray_at(scope, job, ahead, surface_id, step), system) if sprayed and not is_round else [],
        "palms": sightings.PALMS,
        "felt": sightings.latest_palms(scope, job, now).get(surface_id),
    }


def worn_words(coating: SurfaceCoating, ahead: Outlook, done: Container[str]) -> str:
    """Return which colour the temperatures are reckoned with once some steps are done; empty where it stays, or nobody knows."""
    coat, present = coating.of(ahead.turn), coating.worn_lrv_pct(done)
    worn = present if ahead.turn == COATS or coat is None else coat.worn_lrv_pct
    lrvs = [c.worn_lrv_pct for c in coating.each if c.worn_lrv_pct is not None]
    if worn is None or max(lrvs) - min(lrvs) < _SAME_PCT:
        return ""
    return f"Reckoned in the colour that {'is on it now' if worn == present else 'is on it by then'}: it reflects {worn:.0f} %."


def best_of(chances: Chances, ahead: Outlook, moment: datetime) -> dict[str, Any]:
    """Return what is said beside a chance: the first of the best starts of that day, where it is better by more than a tenth."""
    return {"at": moment.astimezone(ahead.zone), "best": best_start(chances, ahead, moment)}


def learned_of(scope: Scope, job: Job, ahead: Outlook, surface_id: str) -> str:
    """Return what readings on site have taught the chances; empty where there are none."""
    row = ahead.row(surface_id)
    believed = None if row is None else belief_of(scope, job, ahead, row)
    if believed is None or not believed.hours:
        return ""
    off = believed.air_k.mean
    count = f"{believed.hours} hours of readings here" if believed.hours > 1 else "one reading here"
    if abs(off) < _HARDLY_K:
        return f"Reckoned with {count}: the air is as told."
    how_far = show(abs(off), "temperature difference", job.units)
    return f"Reckoned with {count}: the air is {how_far} {'warmer' if off > 0 else 'colder'} than told."


@dataclass(frozen=True)
class Compared:
    label: str
    hours: float
    ribbon: Markup


def comparison_of(scope: Scope, job: Job, ahead: Outlook, surface_id: str, result: Comparison) -> dict[str, Any]:
    """Return two ways as ribbons on one axis, with the hours of each."""
    now = scope.clock.now().astimezone(zone_of(job))
    hours = hours_of(scope, job, ahead, day_start(ahead, now), 240)
    climate = ahead.windows.climate
    row = ahead.row(surface_id)

    def drawn(side: ComparedSide) -> Compared:
        strip = ribbons.ribbon(hours.axis, side.windows.runs(0), climate.sky.is_day, climate.direct_sun[row], climate.wet[row])
        return Compared(side.way.label, side.hours, Markup(strip))

    return {
        "job": job, "stage": "windows", "surface_id": surface_id, "result": result, "head": hours.head,
        "sides": [drawn(result.first), drawn(result.second)], "surfaces": outlook.painted_surfaces(job),
    }  # fmt: skip
