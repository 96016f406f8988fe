"""The house band of each stage: the same drawing, filled by the stage's own question."""

from collections.abc import Callable, Mapping
from dataclasses import replace

from markupsafe import Markup

from amber_gable.core.knowledge import Knowledge
from amber_gable.core.windows import STATE_NAMES
from amber_gable.drawing.band import BandElevation, BandStyle, BandSurface, Look, house_band
from amber_gable.drawing.patterns import FILLS
from amber_gable.services.outlook import Outlook
from amber_gable.services.schedules import SavedSchedule
from amber_gable.services.survey import outline_of, rect_of
from amber_gable.services.takeoffs import JobTakeoff
from amber_gable.store.models import Elevation, Job
from amber_gable.units import show


def _elevation(job: Job, elevation: Elevation) -> BandElevation:
    building = job.building
    return BandElevation(
        id=elevation.id,
        name=elevation.name,
        is_gable=elevation.is_gable,
        outline=outline_of(elevation),
        surfaces=[BandSurface(s.id, s.name, s.kind, outline_of(s), s.is_painted) for s in elevation.surfaces],
        openings=[(o.kind, rect_of(o)) for o in elevation.openings],
        ridge_height_m=building.ridge_height_m,
        overhang_m=building.overhang_m,
    )


def _bare(surface: BandSurface) -> Look:
    """Return the look of what is not painted: masonry in its own colour."""
    return Look("var(--masonry)" if surface.kind == "plinth" else "var(--paper)", f"{surface.name}: not painted")


def _band(job: Job, style: BandStyle) -> Markup:
    return Markup(house_band([_elevation(job, e) for e in job.building.elevations], style))


def survey_band(job: Job, knowledge: Knowledge) -> Markup:
    """Filled by what will be painted; unpainted masonry in its own colour."""

    def look(surface: BandSurface) -> Look:
        if not surface.is_painted:
            return replace(_bare(surface), href=f"#surface-{surface.id}")
        return Look("var(--wash)", f"{surface.name}: to be painted", f"#surface-{surface.id}")

    captions = {
        e.id: f"{sum(o.kind != 'shutter' for o in e.openings)} openings · faces {e.azimuth_deg:.0f}°" for e in job.building.elevations
    }
    return _band(job, BandStyle(look, captions))


def takeoff_band(job: Job, takeoff: JobTakeoff) -> Markup:
    """Filled by litres per coat: the deeper, the more paint."""
    most = max((t.litres_per_coat for t in takeoff.by_surface.values()), default=1.0) or 1.0

    def look(surface: BandSurface) -> Look:
        found = takeoff.by_surface.get(surface.id)
        if found is None:
            return _bare(surface)
        # Five depths, each its own class, so that the theme can choose the colours.
        depth = min(int(5 * found.litres_per_coat / most), 4)
        amount = show(found.litres_per_coat, "volume", job.units)  # type: ignore[arg-type]
        return Look(f"var(--depth-{depth})", f"{surface.name}: {amount} a coat", f"#line-{surface.id}")

    captions = {}
    for e in job.building.elevations:
        litres = sum(takeoff.by_surface[s.id].litres_per_coat for s in e.surfaces if s.id in takeoff.by_surface)
        captions[e.id] = f"{show(litres, 'volume', job.units)} a coat"  # type: ignore[arg-type]
    return _band(job, BandStyle(look, captions))


def _state_look(job: Job, outlook: Outlook, step: int, href: Callable[[str], str | None]) -> Callable[[BandSurface], Look]:
    def look(surface: BandSurface) -> Look:
        row = outlook.row(surface.id)
        if row is None:
            return _bare(surface)
        state = STATE_NAMES[int(outlook.windows.states[row, step])]
        return Look(FILLS[state], f"{surface.name}: {state}", href(surface.id))

    return look


def windows_band(job: Job, outlook: Outlook, step: int, selected: str | None) -> Markup:
    """Filled by the state at an hour; the page's script refills it as the hour is moved."""
    look = _state_look(job, outlook, step, lambda surface_id: f"?surface={surface_id}")
    return _band(job, BandStyle(look, selected=selected, height=212.0))


def thumbnail(job: Job, outlook: Outlook | None, step: int, elevation_id: str | None) -> Markup:
    """One side of the house, small, in its states now."""
    sides = job.building.elevations
    chosen = next((e for e in sides if e.id == elevation_id), sides[0])
    look = _bare if outlook is None else _state_look(job, outlook, step, lambda _id: None)
    style = BandStyle(look, width=190, height=132, is_labelled=False, title=chosen.name)
    return Markup(house_band([_elevation(job, chosen)], style))


def schedule_band(job: Job, schedule: SavedSchedule | None) -> Markup:
    """Filled by how many coats are placed; the caption says on which days."""
    placed: dict[str, list[str]] = {}
    days: dict[str, list[str]] = {}
    for visit in schedule.visits if schedule else []:
        day = f"{visit.starts_at:%a} {visit.starts_at.day}"
        placed.setdefault(visit.surface_id, []).append(day)
        side = days.setdefault(visit.elevation_id, [])
        if day not in side:
            side.append(day)

    def look(surface: BandSurface) -> Look:
        coats = placed.get(surface.id, [])
        if not surface.is_painted:
            return _bare(surface)
        fill = ("var(--paper)", "var(--depth-1)", "var(--depth-3)")[min(len(coats), 2)]
        return Look(fill, f"{surface.name}: {', '.join(coats) or 'not placed'}", f"#row-{surface.id}")

    captions = {e.id: " · ".join(days.get(e.id, [])) or "not placed" for e in job.building.elevations}
    return _band(job, BandStyle(look, captions))


def log_band(job: Job, verdicts: Mapping[str, bool]) -> Markup:
    """Filled by today's readings: teal where one said yes, hatched where it said no."""

    def look(surface: BandSurface) -> Look:
        if not surface.is_painted:
            return _bare(surface)
        if surface.id not in verdicts:
            return Look("var(--paper)", f"{surface.name}: no reading today", f"?surface={surface.id}")
        state = "open" if verdicts[surface.id] else "shut"
        word = "may be painted" if verdicts[surface.id] else "not to be painted"
        return Look(FILLS[state], f"{surface.name}: last reading today, {word}", f"?surface={surface.id}")

    return _band(job, BandStyle(look, height=180.0))
