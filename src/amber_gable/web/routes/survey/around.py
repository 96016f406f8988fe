"""What stands round the house, access to each side, and the gates of lead, asbestos and silica."""

import math

from fastapi import APIRouter, Request
from fastapi.responses import HTMLResponse, Response

from amber_gable.services.app.scope import Scope
from amber_gable.services.changes import changes
from amber_gable.services.survey.around import features
from amber_gable.services.survey.around.features import FeatureFacts
from amber_gable.services.survey.evidence import gates
from amber_gable.services.systems.silica import all_gates
from amber_gable.store.models import Job
from amber_gable.web.deps import InScope, TheJob
from amber_gable.web.door.formroute import FormRoute
from amber_gable.web.forms import Typed, TypedForm, sent
from amber_gable.web.templating import page
from amber_gable.web.views.survey.surveyed import panel
from amber_gable.web.views.windows.hours import sun_plan_of

router = APIRouter(route_class=FormRoute, prefix="/jobs/{job_id}")


@router.get("/survey/around", name="around")
def around_page(request: Request, scope: InScope, job: TheJob) -> HTMLResponse:
    undoable = changes.undoable(scope, job.id)
    walls = [e for e in job.building.elevations if e.kind in ("wall", "deck")]
    return page(
        request, scope, "survey/around.html", job=job, stage="survey", part="around", undoable=undoable, kinds=scope.knowledge.features,
        walls=walls, names={e.id: e.name for e in job.building.elevations}, plan=sun_plan_of(job, []),
        near={f.id for f in job.features if features.is_near(f, scope.knowledge)},
        reach=[(e, features.suggestion(job, e, scope.knowledge)) for e in walls], access_table=scope.knowledge.access,
    )  # fmt: skip


def _feature(form: TypedForm, scope: Scope, job: Job) -> FeatureFacts:
    kind = form.choice("kind", scope.knowledge.features, "Choose what it is from the list.")
    distance = form.quantity("distance_m", "length", job.units) if form.raw("distance_m") else None
    sector: dict[str, float | None] = {"shade_from_deg": None, "shade_to_deg": None, "shade_up_to_deg": None}
    if kind in scope.knowledge.features and scope.knowledge.features[kind].throws_shade:
        for name in ("shade_from_deg", "shade_to_deg"):
            sector[name] = form.number(name, "Its edge as seen from the house, 0 to 360 degrees from north.")
        if form.raw("shade_up_to_deg"):
            sector["shade_up_to_deg"] = form.number("shade_up_to_deg", "How high it stands over the horizon, in degrees.")
        elif form.raw("height_m") and distance is not None:
            height = form.quantity("height_m", "length", job.units)
            if math.isfinite(height) and math.isfinite(distance):
                sector["shade_up_to_deg"] = features.angle_of(height, distance)
    facts = FeatureFacts(
        kind=kind,
        note=form.long_text("note", 500),
        elevation_id=form.raw("elevation_id") or None,
        distance_m=distance,
        hex=form.raw("hex").lower() or None,
        is_kept_off=form.flag("is_kept_off"),
        **sector,
    )
    form.done(lambda: facts.check(scope.knowledge))
    return facts


@router.post("/features", name="add_feature")
def add_feature(request: Request, scope: InScope, job: TheJob, form: Typed) -> Response:
    features.add_feature(scope, job.id, _feature(form, scope, job))
    return sent(request.url_for("around", job_id=job.id))


@router.post("/features/{feature_id}/remove", name="remove_feature")
def remove_feature(request: Request, scope: InScope, job_id: str, feature_id: str) -> Response:
    features.remove_feature(scope, job_id, feature_id)
    return sent(request.url_for("around", job_id=job_id))


@router.post("/elevations/{elevation_id}/access", name="set_access")
def set_access(request: Request, scope: InScope, job: TheJob, elevation_id: str, form: Typed) -> HTMLResponse:
    slope = form.number("ground_slope_pct", "The fall of the ground in %: 1 in 10 is 10.") if form.raw("ground_slope_pct") else 0.0
    form.done()
    features.set_access(scope, job.id, elevation_id, form.raw("access") or None, form.raw("ground"), slope, form.version())
    return panel(request, scope, job.id, elevation_id, "survey/_access_saved.html")


@router.get("/survey/gates", name="gates")
def gates_page(request: Request, scope: InScope, job: TheJob) -> HTMLResponse:
    undoable, records = changes.undoable(scope, job.id), gates.clearances_of(scope, job.id)
    components = gates.components_of(scope, job)
    return page(
        request,
        scope,
        "survey/gates.html",
        job=job,
        stage="survey",
        part="gates",
        undoable=undoable,
        records=records,
        components=components,
        names={c.id: c.name for c in components},
        gates=all_gates(scope, job),
    )


_DETAILS = ("tester", "qualification", "method", "result", "tested_on", "certificate", "notice", "containment",
            "shroud", "vacuum", "respirator", "checked_by")  # fmt: skip


@router.post("/clearances", name="add_clearance")
def add_clearance(request: Request, scope: InScope, job_id: str, form: Typed) -> Response:
    details = {name: form.long_text(name, 1000) for name in _DETAILS if form.raw(name)}
    form.done()
    gates.record(scope, job_id, form.raw("hazard"), form.raw("basis"), form.each("surface_id"), details)
    return sent(request.url_for("gates", job_id=job_id))


@router.post("/clearances/{clearance_id}/remove", name="remove_clearance")
def remove_clearance(request: Request, scope: InScope, job_id: str, clearance_id: str) -> Response:
    gates.withdraw(scope, job_id, clearance_id)
    return sent(request.url_for("gates", job_id=job_id))
