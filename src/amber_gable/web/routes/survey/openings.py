"""Openings of an elevation: adding, changing, copying, mirroring, repeating, removing."""

from fastapi import APIRouter, Request
from fastapi.responses import HTMLResponse

from amber_gable.services.app.scope import Scope
from amber_gable.services.survey.building import openings
from amber_gable.services.survey.building.openings import OpeningFacts, OpeningSet
from amber_gable.units import System
from amber_gable.web.deps import InScope, TheJob
from amber_gable.web.door.formroute import FormRoute
from amber_gable.web.forms import Typed, TypedForm
from amber_gable.web.templating import page
from amber_gable.web.views.survey.surveyed import panel, panel_values

router = APIRouter(route_class=FormRoute, prefix="/jobs/{job_id}")


# Wider and taller than any usual opening, and higher than any sill: in feet, most likely inches were meant.
_WIDE_M, _TALL_M, _HIGH_M = 6.2, 4.0, 12.0


def opening_facts(form: TypedForm, scope: Scope, system: System, is_set: bool = False) -> OpeningFacts:
    """Read an opening; every fault at once.

    Parameters
    ----------
    is_set : bool
        Of several at once, whose places are read apart.

    Raises
    ------
    FieldErrors
    """
    facts = OpeningFacts(
        kind=form.choice("kind", scope.knowledge.openings, "Choose what it is from the list."),
        width_m=form.plausible("width_m", "length", system, _WIDE_M),
        height_m=form.plausible("height_m", "length", system, _TALL_M),
        left_m=0.0 if is_set else form.quantity("left_m", "length", system),
        sill_m=form.plausible("sill_m", "length", system, _HIGH_M),
        panes_across=form.optional_whole("panes_across", 1, 20, "Between 1 and 20 panes or panels.") or 1,
        panes_up=form.optional_whole("panes_up", 1, 20, "Between 1 and 20 panes or panels.") or 1,
        moves=form.raw("moves") or "not-tried",
    )
    form.done()
    return facts


@router.post("/elevations/{elevation_id}/openings", name="add_opening")
def add_opening(request: Request, scope: InScope, job: TheJob, elevation_id: str, form: Typed) -> HTMLResponse:
    count = form.whole("count", 1, 40, "1 to 40 at once.") if form.raw("count") else 1
    lefts = form.lengths("left_m", job.units)
    rise = form.plausible("rise_m", "length", job.units, _HIGH_M) if form.raw("rise_m") else 0.0
    facts = opening_facts(form, scope, job.units, is_set=True)
    count = len(lefts) if len(lefts) > 1 and count == 1 else count
    wanted = OpeningSet(facts, count, lefts, form.flag("has_shutters"), form.flag("has_trim"), rise, form.flag("is_opposite"))
    openings.add_set(scope, job.id, elevation_id, wanted)
    return panel(request, scope, job.id, elevation_id, "survey/_changed.html")


@router.get("/openings/{opening_id}", name="opening_card")
def opening_card(request: Request, scope: InScope, job: TheJob, opening_id: str) -> HTMLResponse:
    place = next(((e, o) for e in job.building.elevations for o in e.openings if o.id == opening_id), (None, None))
    values = panel_values(scope, job, place[0].id if place[0] else "")
    return page(request, scope, "survey/_opening_card.html", opening=place[1], **values)


@router.post("/openings/{opening_id}", name="update_opening")
def update_opening(request: Request, scope: InScope, job: TheJob, opening_id: str, form: Typed) -> HTMLResponse:
    facts = opening_facts(form, scope, job.units)
    at = openings.update_opening(scope, job.id, opening_id, facts, form.version())
    return panel(request, scope, job.id, at, "survey/_changed.html")


@router.post("/openings/{opening_id}/copies", name="copy_opening")
def copy_opening(request: Request, scope: InScope, job: TheJob, opening_id: str, form: Typed) -> HTMLResponse:
    count = form.whole("count", 1, 40, "Copy it 1 to 40 times.")
    apart = form.quantity("apart_m", "length", job.units)
    form.done()
    at = openings.copy_along(scope, job.id, opening_id, count, apart)
    return panel(request, scope, job.id, at, "survey/_changed.html")


@router.post("/openings/{opening_id}/remove", name="remove_opening")
def remove_opening(request: Request, scope: InScope, job_id: str, opening_id: str) -> HTMLResponse:
    return panel(request, scope, job_id, openings.remove_opening(scope, job_id, opening_id), "survey/_changed.html")


@router.post("/elevations/{elevation_id}/storey", name="repeat_storey")
def repeat_storey(request: Request, scope: InScope, job: TheJob, elevation_id: str, form: Typed) -> HTMLResponse:
    low, high, rise = (form.quantity(name, "length", job.units) for name in ("sill_from_m", "sill_to_m", "rise_m"))
    form.done()
    openings.repeat_storey(scope, job.id, elevation_id, low, high, rise)
    return panel(request, scope, job.id, elevation_id, "survey/_changed.html")


@router.post("/elevations/{elevation_id}/mirror", name="mirror_openings")
def mirror_openings(request: Request, scope: InScope, job: TheJob, elevation_id: str, form: Typed) -> HTMLResponse:
    openings.mirror(scope, job.id, elevation_id, form.raw("from_elevation_id"))
    return panel(request, scope, job.id, elevation_id, "survey/_changed.html")
