"""The house band of each stage: the same drawing, filled by the stage's own question."""

from collections.abc import Callable, Mapping, Sequence
from dataclasses import replace
from datetime import datetime

from markupsafe import Markup

from amber_gable.core.knowledge import Knowledge
from amber_gable.core.takeoff.ways_up import LadderSet, WallPlan
from amber_gable.core.windows import STATE_NAMES
from amber_gable.drawing.house.band import BandStyle, house_band
from amber_gable.drawing.house.building import DrawnSurface, Look, LookOf
from amber_gable.drawing.house.ladders import Stand
from amber_gable.drawing.patterns import FILLS, FILM_FILLS
from amber_gable.services.log.coats.fresh import FreshFilm
from amber_gable.services.outlook.outlook import Outlook
from amber_gable.services.planning.kept import SavedSchedule
from amber_gable.services.survey.building.rows import region_of
from amber_gable.services.takeoff.job import JobTakeoff
from amber_gable.store.models import Elevation, Finding, Job
from amber_gable.units import show
from amber_gable.web.views.drawn import drawn_house


def _bare(surface: DrawnSurface) -> Look:
    """Return the look of what is not painted: masonry and roofs in their own colour."""
    fill = {"plinth": "var(--masonry)", "chimney": "var(--masonry)", "roof": "var(--roof)", "railing": "transparent"}.get(surface.kind)
    return Look(fill or "var(--paper)", f"{surface.name}: not painted")


def _band(job: Job, knowledge: Knowledge, style: BandStyle) -> Markup:
    return Markup(house_band(drawn_house(job, knowledge), style))


def survey_band(
    job: Job,
    knowledge: Knowledge,
    findings: Sequence[Finding],
    at: Callable[[str], str],
    selected: str | None = None,
    sunny: str | None = None,
) -> Markup:
    """Filled by what will be painted; findings as pins, the side with most sun marked. `at` gives a surface's address."""
    look = survey_look(at)
    captions = {}
    for e in job.building.elevations:
        count = sum(knowledge.openings[o.kind].deducts for o in e.openings)
        openings = f"{count} opening{'s' if count != 1 else ''} · " if count else ""
        captions[e.id] = f"{openings}faces {e.azimuth_deg:.0f}°"
    drawn = drawn_house(job, knowledge, findings, href="")
    style = BandStyle(look, captions, selected=selected, height=212.0, is_quick=job.building.is_quick, sunny=sunny)
    return Markup(house_band(drawn, style))


def survey_look(at: Callable[[str], str]) -> LookOf:
    def look(surface: DrawnSurface) -> Look:
        if not surface.is_painted:
            return replace(_bare(surface), href=at(surface.id))
        fill = "transparent" if surface.kind == "railing" else "var(--wash)"
        return Look(fill, f"{surface.name}: to be painted", at(surface.id))

    return look


def takeoff_band(job: Job, takeoff: JobTakeoff, knowledge: Knowledge) -> Markup:
    """Filled by litres per coat: the deeper, the more paint."""
    most = max((t.litres_per_coat for t in takeoff.by_surface.values()), default=1.0) or 1.0

    def look(surface: DrawnSurface) -> Look:
        measured = takeoff.by_surface.get(surface.id)
        if measured is None:
            return _bare(surface)
        # Five depths, each its own class, so that the theme can choose the colours.
        depth = min(int(5 * measured.litres_per_coat / most), 4)
        amount = show(measured.litres_per_coat, "volume", job.units)
        return Look(f"var(--depth-{depth})", f"{surface.name}: {amount} a coat", f"#line-{surface.id}")

    captions = {}
    for e in job.building.elevations:
        litres = sum(takeoff.by_surface[s.id].litres_per_coat for s in e.surfaces if s.id in takeoff.by_surface)
        captions[e.id] = f"{show(litres, 'volume', job.units)} a coat"
    return _band(job, knowledge, BandStyle(look, captions))


def _stand(plan: WallPlan, at: LadderSet, elevation: Elevation, reach_m: float) -> Stand:
    top = region_of(elevation).top_at(at.x_m)
    return Stand(at.number, at.x_m, elevation.base_m + min(top, reach_m), plan.wall.access, bool(plan.barred))


def ladder_band(job: Job, plans: Sequence[WallPlan], knowledge: Knowledge) -> Markup:
    """The walls with the places one stands at, numbered in walking order."""

    def look(surface: DrawnSurface) -> Look:
        return Look("var(--wash)" if surface.is_painted else "var(--paper)", surface.name)

    by_id = {e.id: e for e in job.building.elevations}
    stands = {p.wall.key: [_stand(p, s, by_id[p.wall.key], knowledge.access[p.wall.access].reach_m) for s in p.sets] for p in plans}
    captions = {
        p.wall.key: f"{len(p.sets)} × {knowledge.access[p.wall.access].label.lower()}" if p.sets else "from the ground" for p in plans
    }
    return _band(job, knowledge, BandStyle(look, captions, height=230.0, stands=stands))


def station_drawing(job: Job, elevation_id: str, knowledge: Knowledge) -> Markup:
    """One side of the house as one stands before it; the whole house where no side is meant."""
    drawn = drawn_house(job, knowledge)
    chosen = next((e for e in drawn if e.id == elevation_id), None)

    def look(surface: DrawnSurface) -> Look:
        is_here = chosen is None or any(surface is s for s in chosen.surfaces)
        return Look("var(--amber)" if is_here and surface.is_painted else "var(--paper)", surface.name)

    title = chosen.name if chosen else "The whole house"
    style = BandStyle(look, width=330, height=170, is_labelled=False, title=title, prefix="station")
    return Markup(house_band([e for e in drawn if chosen is None or e.view == chosen.view], style))


def _state_look(job: Job, outlook: Outlook, step: int, href: Callable[[str], str | None]) -> Callable[[DrawnSurface], Look]:
    def look(surface: DrawnSurface) -> Look:
        row = outlook.row(surface.id)
        if row is None:
            return _bare(surface)
        state = STATE_NAMES[int(outlook.windows.states[row, step])]
        return Look(FILLS[state], f"{surface.name}: {state}", href(surface.id))

    return look


def windows_band(job: Job, outlook: Outlook, step: int, selected: str | None, knowledge: Knowledge) -> Markup:
    """Filled by the state at an hour; the page's script refills it as the hour is moved."""
    look = _state_look(job, outlook, step, lambda surface_id: f"?surface={surface_id}")
    return _band(job, knowledge, BandStyle(look, selected=selected, height=212.0))


def thumbnail(job: Job, outlook: Outlook | None, step: int, elevation_id: str | None, knowledge: Knowledge) -> Markup:
    """One view of the house, small, in its states now."""
    drawn = drawn_house(job, knowledge)
    chosen = next((e for e in drawn if e.id == elevation_id), None) or max(drawn, key=lambda e: (e.kind == "wall", e.region.area_m2))
    look = _bare if outlook is None else _state_look(job, outlook, step, lambda _id: None)
    style = BandStyle(look, width=190, height=132, is_labelled=False, title=chosen.name, prefix=f"thumb-{job.id[:8]}")
    return Markup(house_band([e for e in drawn if e.view == chosen.view], style))


def schedule_band(job: Job, schedule: SavedSchedule | None, knowledge: Knowledge) -> Markup:
    """Filled by how many coats are placed; the caption says on which days."""
    placed: dict[str, list[str]] = {}
    days: dict[str, list[str]] = {}
    for visit in schedule.visits if schedule else []:
        day = f"{visit.starts_at:%a} {visit.starts_at.day}"
        placed.setdefault(visit.surface_id, []).append(day)
        side = days.setdefault(visit.elevation_id, [])
        if day not in side:
            side.append(day)

    def look(surface: DrawnSurface) -> Look:
        coats = placed.get(surface.id, [])
        if not surface.is_painted:
            return _bare(surface)
        fill = ("var(--paper)", "var(--depth-1)", "var(--depth-3)")[min(len(coats), 2)]
        return Look(fill, f"{surface.name}: {', '.join(coats) or 'not placed'}", f"#row-{surface.id}")

    captions = {e.id: " · ".join(days.get(e.id, [])) or "not placed" for e in job.building.elevations}
    return _band(job, knowledge, BandStyle(look, captions))


def film_words(film: FreshFilm) -> str:
    """Return the story of a film: "young until 16:10, then tender until Wed 09:00, inspect from 15:30"."""

    def at(moment: datetime | None) -> str:
        return "beyond the forecast" if moment is None else f"{moment:%a %H:%M}"

    inspect = f", dry to inspect from {at(film.dry_at)}" if film.dry_at is not None else ""
    if film.stage == "ready":
        return f"film ready since {at(film.ready_at)}{inspect}"
    tender = f"tender until {at(film.ready_at)}: dew or rain may mark it"
    if film.stage == "tender":
        return f"film {tender}{inspect}"
    return f"film young until {at(film.tender_at)}: no rain, no dew; then {tender}{inspect}"


def log_band(job: Job, verdicts: Mapping[str, bool], knowledge: Knowledge, films: Sequence[FreshFilm] = ()) -> Markup:
    """Filled by how far fresh films have come, elsewhere by today's readings: teal where one said yes, hatched where it said no."""
    fresh = {film.surface.id: film for film in films}

    def look(surface: DrawnSurface) -> Look:
        if not surface.is_painted:
            return _bare(surface)
        if surface.id in fresh:
            film = fresh[surface.id]
            return Look(FILM_FILLS[film.stage], f"{surface.name}: {film_words(film)}", f"?surface={surface.id}")
        if surface.id not in verdicts:
            return Look("var(--paper)", f"{surface.name}: no reading today", f"?surface={surface.id}")
        state = "open" if verdicts[surface.id] else "shut"
        word = "may be painted" if verdicts[surface.id] else "not to be painted"
        return Look(FILLS[state], f"{surface.name}: last reading today, {word}", f"?surface={surface.id}")

    return _band(job, knowledge, BandStyle(look, height=180.0))
