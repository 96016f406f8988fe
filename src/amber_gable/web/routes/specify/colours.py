"""Colours: the house in them by zone and light, boards for a choice; brush-outs and test patches with who signed."""

from fastapi import APIRouter, Request
from fastapi.responses import HTMLResponse, Response

from amber_gable.core.systems.samples import BRUSH_OUT, COLOUR, SampleFacts
from amber_gable.core.systems.zones import BOARD_COATS, BOARD_M
from amber_gable.errors import FieldErrors, NotFoundError
from amber_gable.services.app.scope import Scope
from amber_gable.services.systems import colours, samples
from amber_gable.services.systems.colours import ZoneColour
from amber_gable.services.systems.specs import specs_of
from amber_gable.store.models import Job
from amber_gable.web.deps import InScope, TheJob
from amber_gable.web.door.formroute import FormRoute
from amber_gable.web.forms import Typed, sent
from amber_gable.web.routes.specify.systems import stage_values
from amber_gable.web.templating import page
from amber_gable.web.views.specify.colours import worn_band

router = APIRouter(route_class=FormRoute, prefix="/jobs/{job_id}/systems")


def _colours(scope: Scope, job: Job) -> list[ZoneColour]:
    rows = samples.samples_of(scope, job.id)
    return colours.colours_of(scope, specs_of(scope, job), rows)


def _of_key(colours: list[ZoneColour], key: str) -> ZoneColour:
    chosen = next((c for c in colours if c.key == key), None)
    if chosen is None:
        raise NotFoundError("This colour is not on the house (any more). Look at the zones as they are now.")
    return chosen


@router.get("/colours", name="colours")
def colours_page(request: Request, scope: InScope, job: TheJob) -> HTMLResponse:
    zone_colours = _colours(scope, job)
    if not zone_colours:
        return page(request, scope, "systems/colours.html", zone_colours=[], chosen=None, **stage_values(scope, job, "colours"))
    day = colours.day_of(scope, job)
    light = request.query_params.get("light", "noon")
    step = day.hours.get(light)
    key = request.query_params.get("zone")
    chosen = _of_key(zone_colours, key) if key else max(zone_colours, key=lambda c: sum(s.part.extent.area_m2 for s in c.specs))
    candidates = [c for c in colours.candidates_of(scope, job.id) if c.zone == chosen.zone]
    return page(
        request, scope, "systems/colours.html", zone_colours=zone_colours, chosen=chosen, light=light if step is not None else "now",
        hours={name: day.local(at) for name, at in day.hours.items()}, candidates=candidates,
        trial=colours.trial_of(scope, job, chosen, candidates), board_m=BOARD_M, board_coats=BOARD_COATS,
        band=worn_band(job, scope.knowledge, zone_colours, day.lights(step) if step is not None else None),
        **stage_values(scope, job, "colours"),
    )  # fmt: skip


def _back(request: Request, job_id: str, zone: str) -> Response:
    return sent(f"{request.url_for('colours', job_id=job_id)}?zone={zone}")


@router.post("/colours", name="set_colours")
def set_colours(request: Request, scope: InScope, job: TheJob, form: Typed) -> Response:
    """Give every zone whose field was typed in another colour, at once."""
    typed = [(c, code) for c in _colours(scope, job) if (code := form.raw(f"hex-{c.key}")) and code.lower() != c.hex]
    if not typed:
        raise FieldErrors({"form": "No colour was changed: type one as # and six digits, like #a8b59a."})
    colours.set_colours(scope, job, typed, "hex-{key}")
    return sent(request.url_for("colours", job_id=job.id))


@router.post("/colours/{key}", name="set_colour")
def set_colour(request: Request, scope: InScope, job: TheJob, key: str, form: Typed) -> Response:
    code = form.raw("hex")
    if not code:
        raise FieldErrors({"hex": "Give the colour as # and six digits, like #a8b59a."})
    colour = _of_key(_colours(scope, job), key)
    colours.set_colour(scope, job, colour, code)
    return _back(request, job.id, f"{colour.zone}-{code.lstrip('#')}".lower().replace(" ", "-"))


@router.post("/colours/{key}/candidates", name="add_candidate")
def add_candidate(request: Request, scope: InScope, job: TheJob, key: str, form: Typed) -> Response:
    colour = _of_key(_colours(scope, job), key)
    colours.add_candidate(scope, job, colour.zone, form.raw("code"), form.raw("hex"))
    return _back(request, job.id, key)


@router.post("/colours/{key}/candidates/{candidate_id}/remove", name="remove_candidate")
def remove_candidate(request: Request, scope: InScope, job_id: str, key: str, candidate_id: str) -> Response:
    colours.remove_candidate(scope, job_id, candidate_id)
    return _back(request, job_id, key)


@router.get("/samples", name="samples")
def samples_page(request: Request, scope: InScope, job: TheJob) -> HTMLResponse:
    zone_colours = _colours(scope, job)
    rows = samples.samples_of(scope, job.id)
    return page(request, scope, "systems/samples.html", specs=specs_of(scope, job), rows=rows, colours=zone_colours,
                looks={c.key: colours.trial_of(scope, job, c, ()).looks for c in zone_colours},
                open=sum(not c.approved_by for c in zone_colours), today=samples.today_of(scope, job),
                **stage_values(scope, job, "samples"))  # fmt: skip


@router.post("/samples", name="add_sample")
def add_sample(request: Request, scope: InScope, job: TheJob, form: Typed) -> Response:
    details = {name: form.text(name) for name, _ in COLOUR} if form.raw("kind") == BRUSH_OUT else {}
    facts = SampleFacts(form.raw("kind"), form.raw("part"), form.raw("made_on"), details, form.raw("due_on") or None, form.text("note"))
    form.done()
    specs = {s.part.key: s for s in specs_of(scope, job)}
    tint = specs[facts.part].part.facts.new_hex if facts.part in specs else None
    samples.add(scope, job, facts, {key: s.part.name for key, s in specs.items()}, tint)
    return sent(request.url_for("samples", job_id=job.id))


@router.post("/samples/{sample_id}/result", name="sign_sample")
def sign_sample(request: Request, scope: InScope, job: TheJob, sample_id: str, form: Typed) -> Response:
    samples.sign(scope, job, sample_id, form.raw("result"), form.text("signed_by"), form.version())
    return sent(request.url_for("samples", job_id=job.id))


@router.post("/samples/{sample_id}/remove", name="remove_sample")
def remove_sample(request: Request, scope: InScope, job_id: str, sample_id: str) -> Response:
    samples.remove(scope, job_id, sample_id)
    return sent(request.url_for("samples", job_id=job_id))
