"""Systems: what goes on each part and why, changes by hand, schools, the shelf, cards; label and limits."""

import re
from typing import Any, cast, get_args

from fastapi import APIRouter, Request
from fastapi.responses import HTMLResponse, Response
from markupsafe import Markup

from amber_gable.core.planning.waits import wait_words
from amber_gable.core.systems.overrides import Edit, Op
from amber_gable.drawing.paint.strokes import strokes_svg
from amber_gable.errors import NotFoundError
from amber_gable.exchange.pdf import pdf_of
from amber_gable.services.app.scope import Scope
from amber_gable.services.changes import changes
from amber_gable.services.jobs import jobs
from amber_gable.services.jobs.rules import JobRules, house_rules, product_of
from amber_gable.services.planning.making.far import is_region
from amber_gable.services.systems import choices
from amber_gable.services.systems.cards import chemistry_of, hazards_of
from amber_gable.services.systems.choices import Wish
from amber_gable.services.systems.heat import peak_of
from amber_gable.services.systems.pieces import pieces_of
from amber_gable.services.systems.silica import all_gates
from amber_gable.services.systems.specs import Spec, difference, schools_of, specs_of, total
from amber_gable.services.takeoff.job import job_takeoff
from amber_gable.store.models import Job
from amber_gable.web.deps import InScope, TheJob
from amber_gable.web.door.formroute import FormRoute
from amber_gable.web.forms import Typed, sent
from amber_gable.web.templating import STATIC, page, printed
from amber_gable.web.views.specify.systems import (
    about,
    grouped,
    hours_of_schools,
    own_preparation,
    stretches,
    systems_band,
    takes,
    uses,
    weather_words,
)

router = APIRouter(route_class=FormRoute, prefix="/jobs/{job_id}")


def stage_values(scope: Scope, job: Job, part: str) -> dict[str, Any]:
    """Return what every page of this stage has."""
    undoable = changes.undoable(scope, job.id)
    gates = all_gates(scope, job)
    return {"job": job, "stage": "systems", "part": part, "knowledge": scope.knowledge, "undoable": undoable, "gates": gates}


def _chosen(specs: list[Spec], key: str | None) -> Spec | None:
    if key:
        chosen = next((s for s in specs if s.part.key == key), None)
        if chosen is None:
            raise NotFoundError("This part is not painted (any more).")
        return chosen
    # Where work is stopped, or most is to be done, is looked at first.
    return max(specs, key=lambda s: (s.system.refusals != (), len(s.system.steps)), default=None)


@router.get("/systems", name="systems")
def systems(request: Request, scope: InScope, job: TheJob) -> HTMLResponse:
    specs = specs_of(scope, job)
    spec = _chosen(specs, request.query_params.get("part"))
    groups = grouped(specs)
    values = stage_values(scope, job, "steps")
    return page(
        request, scope, "systems/page.html", specs=specs, spec=spec, groups=groups, takeoff=job_takeoff(scope, job),
        waiting_days=total(specs).waiting_days, rules=jobs.rules_of(job),
        band=systems_band(job, scope.knowledge, groups, spec.part.key if spec else None),
        stretches=stretches(spec.system.steps if spec else ()),
        peak=peak_of(scope, job, spec.part) if spec else None,
        held=sum(s.is_blocked for s in specs), choice=choices.decided(scope, job.id, spec.part.key) if spec else None,
        about=about(spec, scope.knowledge) if spec else [], wait_words=wait_words,
        own_preparation=own_preparation, takes=takes, uses=uses, weather_words=weather_words, **values,
    )  # fmt: skip


def _back(request: Request, job_id: str, part: str) -> Response:
    return sent(f"{request.url_for('systems', job_id=job_id)}?part={part}")


@router.post("/systems/parts/{part}/edits", name="edit_system")
def edit_system(request: Request, scope: InScope, job_id: str, part: str, form: Typed) -> Response:
    op = form.choice("op", get_args(Op), "Choose what to change.")
    form.done()
    made = Edit(cast(Op, op), form.raw("step"), form.raw("after"), form.raw("instead"), form.text("note"))
    choices.edit(scope, job_id, part, made)
    return _back(request, job_id, part)


@router.post("/systems/parts/{part}/edits/{index}/forget", name="forget_edit")
def forget_edit(request: Request, scope: InScope, job_id: str, part: str, index: int) -> Response:
    choices.forget_edit(scope, job_id, part, index)
    return _back(request, job_id, part)


@router.post("/systems/parts/{part}/wanted", name="want_on_part")
def want_on_part(request: Request, scope: InScope, job_id: str, part: str, form: Typed) -> Response:
    since = form.since("coated_year")
    form.done()
    wish = Wish(form.raw("wanted"), form.flag("is_heat_reflective"), form.flag("is_vinyl_safe"), form.raw("old_hex") or None,
                form.raw("coating"), since.year if since else None)  # fmt: skip
    choices.want(scope, job_id, part, wish, form.version())
    return _back(request, job_id, part)


@router.get("/systems/schools", name="schools")
def schools(request: Request, scope: InScope, job: TheJob) -> HTMLResponse:
    return page(request, scope, "systems/schools.html", own=schools_of(scope, job), of_job=jobs.rules_of(job).schools,
                hours=hours_of_schools(scope, job), **stage_values(scope, job, "schools"))  # fmt: skip


@router.get("/systems/schools/{key}", name="school_difference")
def school_difference(request: Request, scope: InScope, job: TheJob, key: str) -> HTMLResponse:
    option = request.query_params.get("option", "")
    changed = difference(scope, job, key, option)
    school = scope.knowledge.systems.schools[key]
    return page(
        request, scope, "systems/_difference.html", job=job, now_option=schools_of(scope, job).get(key, school.default), key=key,
        school=school, option=option, changed=changed, knowledge=scope.knowledge,
    )  # fmt: skip


@router.post("/systems/schools/{key}", name="set_school")
def set_school(request: Request, scope: InScope, job_id: str, key: str, form: Typed) -> Response:
    choices.set_school(scope, job_id, key, form.raw("option"), for_all=form.raw("for") == "all")
    return sent(request.url_for("schools", job_id=job_id))


@router.get("/systems/cards", name="system_cards")
def system_cards(request: Request, scope: InScope, job: TheJob) -> HTMLResponse:
    specs = specs_of(scope, job)
    knowledge = scope.knowledge
    return page(request, scope, "systems/cards.html", hazards=hazards_of(specs, knowledge), chemistry=chemistry_of(specs, knowledge),
                **stage_values(scope, job, "cards"))  # fmt: skip


@router.get("/systems/cards.pdf", name="cards_pdf")
def cards_pdf(scope: InScope, job: TheJob) -> Response:
    specs, knowledge = specs_of(scope, job), scope.knowledge
    html = printed(
        "systems/cards_print.html",
        job.units,
        job=job,
        system=job.units,
        hazards=hazards_of(specs, knowledge),
        chemistry=chemistry_of(specs, knowledge),
    )
    headers = {"content-disposition": 'attachment; filename="safety-and-chemistry.pdf"'}
    return Response(pdf_of(html, STATIC.as_uri() + "/"), media_type="application/pdf", headers=headers)


@router.get("/systems/strokes", name="strokes")
def strokes(request: Request, scope: InScope, job: TheJob) -> HTMLResponse:
    pieces = pieces_of(scope, job)
    key = request.query_params.get("piece")
    piece = next((p for p in pieces if p.key == key), pieces[0] if pieces and not key else None)
    if key and piece is None:
        raise NotFoundError("This piece is not there (any more).")
    drawn = Markup(strokes_svg(piece.order, f"Order of strokes: {piece.name}")) if piece else ""
    return page(request, scope, "systems/strokes.html", pieces=pieces, piece=piece, drawn=drawn, **stage_values(scope, job, "strokes"))


@router.get("/systems/limits", name="limits")
def limits(request: Request, scope: InScope, job: TheJob) -> HTMLResponse:
    rules = jobs.rules_of(job)
    return page(
        request, scope, "systems/limits.html", rules=rules, product=product_of(rules, scope.knowledge),
        limits=house_rules(rules, scope.knowledge, schools_of(scope, job)), **stage_values(scope, job, "limits"),
    )  # fmt: skip


@router.post("/rules", name="update_rules")
def update_rules(request: Request, scope: InScope, job: TheJob, form: Typed) -> Response:
    before = jobs.rules_of(job)
    values: dict[str, Any] = {
        "product": form.choice("product", {"", *scope.knowledge.products}, "Choose a product from the list."),
        "method": form.choice("method", scope.knowledge.methods, "Choose a method from the list."),
        "access": form.choice("access", scope.knowledge.access, "Choose an access from the list."),
        "sun_rule": form.choice("sun_rule", ("shade", "surface-cap"), "Choose how you treat the sun."),
        "max_rain_probability_pct": form.number("max_rain_probability_pct", "A chance of 0 to 100 %."),
        "coats": form.optional_whole("coats", 1, 4, "One to four coats; empty as each system says."),
        "painters": form.whole("painters", 1, 20, "1 to 20 painters."),
        "day_starts_h": form.whole("day_starts_h", 0, 23, "A full hour, 0 to 23."),
        "day_ends_h": form.whole("day_ends_h", 1, 24, "A full hour, 1 to 24."),
        "works_sundays": form.flag("works_sundays"),
        "loud_from_h": form.whole("loud_from_h", 0, 23, "A full hour, 0 to 23.") if form.has("loud_from_h") else before.loud_from_h,
        "loud_until_h": form.whole("loud_until_h", 1, 24, "A full hour, 1 to 24.") if form.has("loud_until_h") else before.loud_until_h,
        "region": form.text("region").upper() if form.has("region") else before.region,
        "promised": form.text("promised") if form.has("promised") else before.promised,
        "late_per_day": form.number("late_per_day", "An amount of money, 0 for nothing.") if form.raw("late_per_day") else 0.0,
    }
    if not 0 <= values["max_rain_probability_pct"] <= 100:
        form.errors["max_rain_probability_pct"] = "A chance of 0 to 100 %."
    if not re.fullmatch(r"(\d{4}-\d{2}-\d{2})?", values["promised"]):
        form.errors["promised"] = "Give a day as 2026-10-09, or nothing."
    if values["region"] and not is_region(job.country, values["region"]):
        form.errors["region"] = "No part of this country is called so. Empty for the holidays of the whole country."
    if values["late_per_day"] < 0:
        form.errors["late_per_day"] = "An amount of money, 0 for nothing."
    form.done()
    kept = before.model_dump(include={"schools", "products", "technique"})
    jobs.update_rules(scope, job.id, JobRules(**values, **kept).model_dump(), form.version())
    return sent(request.url_for("limits", job_id=job.id))
