"""Blocks of the building and elevations that stand alone."""

from typing import Any

from fastapi import APIRouter, Request
from fastapi.responses import HTMLResponse, Response

from amber_gable.core.geometry import Outline, check_block
from amber_gable.core.geometry.alone import from_shapes, parse_corners
from amber_gable.errors import FieldErrors
from amber_gable.services.app.scope import Scope
from amber_gable.services.changes import changes
from amber_gable.services.survey import quick
from amber_gable.services.survey.building import blocks
from amber_gable.store.models import Elevation, Job
from amber_gable.units import QuantityError, System, parse
from amber_gable.web.deps import InScope, TheJob
from amber_gable.web.door.formroute import FormRoute
from amber_gable.web.forms import Typed, TypedForm, sent
from amber_gable.web.routes.jobs import DIRECTIONS
from amber_gable.web.templating import page
from amber_gable.web.views.house import survey_band
from amber_gable.web.views.survey import blockform
from amber_gable.web.views.windows.hours import sun_plan_of

router = APIRouter(route_class=FormRoute, prefix="/jobs/{job_id}")


def _values(request: Request, scope: Scope, job: Job, kind: str) -> dict[str, Any]:
    undoable = changes.undoable(scope, job.id)
    survey = str(request.url_for("survey", job_id=job.id))
    return {
        "job": job,
        "stage": "survey",
        "part": "blocks",
        "undoable": undoable,
        "kind": kind,
        "kinds": blockform.KIND_WORDS,
        "sides": blockform.SIDE_WORDS,
        "roofs": blockform.ROOF_WORDS[:-1],
        "ridges": blockform.RIDGE_WORDS,
        "fields_of": blockform.fields_of,
        "has_roof": blockform.has_roof_choice,
        "block_value": blockform.value_of,
        "directions": DIRECTIONS,
        "plan": sun_plan_of(job, []),
        "band": survey_band(job, scope.knowledge, [], lambda surface_id: f"{survey}?at={surface_id}"),
    }


@router.get("/survey/blocks", name="blocks")
def blocks_page(request: Request, scope: InScope, job: TheJob, kind: str = "wing") -> HTMLResponse:
    known_kind = kind if kind in dict(blockform.KIND_WORDS) else "wing"
    return page(request, scope, "survey/blocks.html", **_values(request, scope, job, known_kind))


@router.get("/survey/blocks/fields/{kind}", name="block_fields")
def block_fields(request: Request, scope: InScope, job: TheJob, kind: str) -> HTMLResponse:
    known_kind = kind if kind in dict(blockform.KIND_WORDS) else "wing"
    return page(request, scope, "survey/_new_block.html", **_values(request, scope, job, known_kind))


def _name(form: TypedForm, job: Job, kind: str, block_id: str = "") -> str:
    typed = form.text("name")
    if typed:
        return typed
    label = dict(blockform.KIND_WORDS).get(kind, "House").split(" ")[0].rstrip(",")
    alike = sum(b.kind == kind and b.id != block_id for b in job.building.blocks)
    return f"{label} {alike + 1}" if alike else label


@router.post("/blocks", name="add_block")
def add_block(request: Request, scope: InScope, job: TheJob, form: Typed) -> Response:
    kind = form.choice("kind", dict(blockform.KIND_WORDS), "Choose what it is.")
    block = blockform.read_block(form, kind if kind in dict(blockform.KIND_WORDS) else "wing", job.units, name=_name(form, job, kind))
    form.done(lambda: check_block(block, [b.id for b in job.building.blocks]))
    blocks.add_block(scope, job.id, block)
    return sent(request.url_for("blocks", job_id=job.id))


@router.post("/blocks/{block_id}", name="update_block")
def update_block(request: Request, scope: InScope, job: TheJob, block_id: str, form: Typed) -> Response:
    row = next((b for b in job.building.blocks if b.id == block_id), None)
    kind = row.kind if row else "wing"
    block = blockform.read_block(form, kind, job.units, key=block_id, name=_name(form, job, kind, block_id))
    form.done(lambda: check_block(block, [b.id for b in job.building.blocks if b.id != block_id]))
    blocks.update_block(scope, job.id, block, form.version())
    return sent(request.url_for("blocks", job_id=job.id))


@router.post("/blocks/{block_id}/remove", name="remove_block")
def remove_block(request: Request, scope: InScope, job_id: str, block_id: str) -> Response:
    blocks.remove_block(scope, job_id, block_id)
    return sent(request.url_for("blocks", job_id=job_id))


@router.post("/measured", name="measured")
def measured(request: Request, scope: InScope, job_id: str) -> Response:
    quick.measured(scope, job_id)
    return sent(request.url_for("blocks", job_id=job_id))


def _outline(form: TypedForm, system: System) -> Outline:
    """Return the outline typed as corners, or built from rectangle, gable and triangle."""
    text = form.raw("corners")
    if not text:
        figures = {}
        for name in ("width_m", "height_m", "gable_rise_m", "side_rise_m"):
            optional = name.endswith("rise_m") and not form.raw(name)
            figures[name] = 0.0 if optional else form.quantity(name, "length", system)
        form.done()
        return from_shapes(**figures)
    unit = "ft" if system == "us" else "m"
    try:
        return tuple((parse(x, "length", unit), parse(y, "length", unit)) for x, y in parse_corners(text))
    except QuantityError as fault:
        raise FieldErrors({"corners": str(fault)} | form.errors) from fault


@router.post("/alone", name="add_alone")
def add_alone(request: Request, scope: InScope, job: TheJob, form: Typed) -> Response:
    name = form.text("name", "Give it a name, for instance Garden wall.")
    azimuth = form.direction("azimuth_deg")
    outline = _outline(form, job.units)
    form.done()
    blocks.add_alone(scope, job.id, name, azimuth, outline)
    return sent(request.url_for("blocks", job_id=job.id))


def _row(job: Job, elevation_id: str) -> Elevation | None:
    return next((e for e in job.building.elevations if e.id == elevation_id), None)


@router.post("/alone/{elevation_id}", name="update_alone")
def update_alone(request: Request, scope: InScope, job: TheJob, elevation_id: str, form: Typed) -> Response:
    name = form.text("name", "Give it a name, for instance Garden wall.")
    azimuth = form.direction("azimuth_deg")
    outline = _outline(form, job.units)
    form.done()
    blocks.update_alone(scope, job.id, elevation_id, name, azimuth, outline, form.version())
    return sent(request.url_for("blocks", job_id=job.id))


@router.post("/alone/{elevation_id}/remove", name="remove_alone")
def remove_alone(request: Request, scope: InScope, job_id: str, elevation_id: str) -> Response:
    blocks.remove_alone(scope, job_id, elevation_id)
    return sent(request.url_for("blocks", job_id=job_id))
