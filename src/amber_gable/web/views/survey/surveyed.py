"""The survey's page and panel: the house, one elevation drawn large, what is known of it."""

from typing import Any
from urllib.parse import parse_qsl, urlsplit

from fastapi import Request
from fastapi.responses import HTMLResponse
from markupsafe import Markup

from amber_gable.core.geometry.profiles import SHAPES, factor_of
from amber_gable.core.survey.site_tests import CARDS, card_for
from amber_gable.drawing.house.elevation import DimensionWords, elevation_drawing
from amber_gable.services.app.scope import Scope
from amber_gable.services.changes import changes
from amber_gable.services.jobs import jobs
from amber_gable.services.survey.around.features import suggestion
from amber_gable.services.survey.around.sunside import sun_side
from amber_gable.services.survey.building.areas import areas_of, opening_areas_of, totals_of
from amber_gable.services.survey.building.openings import MOVES
from amber_gable.services.survey.evidence.findings import findings_of
from amber_gable.services.survey.evidence.photos import photos_of
from amber_gable.services.survey.evidence.site_tests import tests_of
from amber_gable.store.models import Elevation, Job, Surface
from amber_gable.units import show
from amber_gable.web.templating import page, zone_of
from amber_gable.web.views.drawn import drawn_elevation, pins_of
from amber_gable.web.views.house import survey_band, survey_look

MOVE_WORDS = tuple(zip(MOVES, ("not tried yet", "opens freely", "painted shut"), strict=True))


def chosen(job: Job, at: str) -> tuple[Elevation, Surface | None]:
    """Return the elevation and surface that an id names; the largest that is painted where it names none."""
    for elevation in job.building.elevations:
        for surface in elevation.surfaces:
            if surface.id == at:
                return elevation, surface
    fallback = max(
        job.building.elevations, key=lambda e: (any(s.is_painted for s in e.surfaces), e.kind != "roof", max(x for x, _ in e.outline))
    )
    elevation = next((e for e in job.building.elevations if e.id == at), None) or fallback
    return elevation, elevation.surfaces[0] if elevation.surfaces else None


def _measured(elevation: Elevation, system: Any) -> DimensionWords:
    xs, ys = [x for x, _ in elevation.outline], [y for _, y in elevation.outline]
    levels = sorted({y for y in (elevation.plinth_m, elevation.gable_from_m, max(ys)) if y > 0})
    said, below = [], 0.0
    for level in levels:
        said.append((level, show(level - below, "length", system)))
        below = level
    spans = tuple((o.left_m, o.left_m + o.width_m, show(o.width_m, "length", system)) for o in elevation.openings)
    return DimensionWords(show(max(xs), "length", system), tuple(said), spans)


def panel_values(scope: Scope, job: Job, at: str, *, with_dimensions: bool = False) -> dict[str, Any]:
    """Return everything the survey's page and its fragments show."""
    knowledge = scope.knowledge
    undoable = changes.undoable(scope, job.id)
    findings, photos, tests = findings_of(scope, job.id), photos_of(scope, job.id), tests_of(scope, job.id)
    elevation, surface = chosen(job, at)
    areas = areas_of(job, knowledge)
    look = survey_look(lambda surface_id: f"?at={surface_id}")
    drawn = drawn_elevation(elevation, knowledge, pins_of(findings, elevation.id, knowledge))
    measured = _measured(elevation, job.units) if with_dimensions else None
    drawing = elevation_drawing(drawn, look, surface.id if surface else None, measured)
    surface_ids = {s.id for s in elevation.surfaces}
    profile = knowledge.profiles.get(surface.profile) if surface else None
    suggested = suggestion(job, elevation, knowledge)
    family = knowledge.substrates[surface.substrate].family if surface else ""
    return {
        "job": job,
        "access": {"suggestion": suggested, "suggestion_label": knowledge.access[suggested.access].label},
        "cards": [card for card in CARDS if family in card.families],
        "card_of": card_for,
        "factor": factor_of(profile, surface.profile_mm) if surface and profile else None,
        "stage": "survey",
        "part": "walls",
        "knowledge": knowledge,
        "band": survey_band(
            job,
            knowledge,
            findings,
            lambda surface_id: f"?at={surface_id}",
            surface.id if surface else None,
            sun_side(scope, job, scope.clock.now().astimezone(zone_of(job))),
        ),
        "drawing": Markup(drawing),
        "with_dimensions": with_dimensions,
        "undoable": undoable,
        "elevation": elevation,
        "surface": surface,
        "dimensions": SHAPES[profile.shape].dimensions if profile else (),
        "profile_row": profile,
        "areas": areas,
        "findings": [f for f in findings if f.elevation_id == elevation.id],
        "photos": photos,
        "tests": [t for t in tests if t.surface_id in surface_ids],
        "moves": MOVE_WORDS,
        "totals": totals_of(job, knowledge),
        "pieces": opening_areas_of(elevation, knowledge),
    }


def panel(request: Request, scope: Scope, job_id: str, at: str, template: str, **more: Any) -> HTMLResponse:
    """Return a fragment of the survey after a change, everything read anew."""
    job = jobs.whole(scope, job_id)
    return page(request, scope, template, oob=True, **panel_values(scope, job, _shown(request, job, at)), **more)


def _shown(request: Request, job: Job, at: str) -> str:
    """Return the surface that the page shows which asks, where it is still on the elevation at hand; else `at`."""
    asked = dict(parse_qsl(urlsplit(request.headers.get("hx-current-url", "")).query)).get("at", "")
    elevation, _ = chosen(job, at)
    return asked if any(s.id == asked for s in elevation.surfaces) else at
