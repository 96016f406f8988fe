"""The gauge on site: paired by the code on its display; its values put into the form of a reading."""

from fastapi import APIRouter, Request
from fastapi.responses import JSONResponse, Response

from amber_gable.errors import NotFoundError
from amber_gable.services.outlook.weather import gauge
from amber_gable.units import show
from amber_gable.web.deps import InScope, TheJob
from amber_gable.web.door.formroute import FormRoute
from amber_gable.web.forms import Typed, sent

router = APIRouter(route_class=FormRoute, prefix="/jobs/{job_id}")
# Fields of the form of a reading: quantity, kind of unit, name in words.
_FIELDS = {
    "air_temp_c": ("air_temp_c", "temperature", "air"), "rel_humidity_pct": ("rel_humidity_pct", "", "humidity"),
    "surface_temp_c": ("surface_temp_c", "temperature", "wall"), "moisture_pct": ("moisture_pct", "", "pins"),
    "wind_m_s": ("wind", "speed", "wind"),
}  # fmt: skip


@router.post("/log/gauge", name="pair_gauge")
def pair_gauge(request: Request, scope: InScope, job: TheJob, form: Typed) -> Response:
    gauge.pair(scope, form.text("code"))
    return sent(request.url_for("log", job_id=job.id))


@router.get("/log/gauge", name="read_gauge")
def read_gauge(scope: InScope, job: TheJob, surface: str = "") -> JSONResponse:
    """Return what the gauge shows at a wall, as the fields of the form take it."""
    found = next(((e, s) for e in job.building.elevations for s in e.surfaces if s.id == surface), None)
    if found is None:
        raise NotFoundError("Choose the wall that the probe is on.")
    elevation, wall = found
    # Pins are made for wood: what they show in render or metal means nothing.
    has_pins = scope.knowledge.substrates[wall.substrate].family == "wood"
    try:
        shown = gauge.read_gauge(scope, job, elevation, scope.clock.now())
    except gauge.GaugeError as fault:
        return JSONResponse({"fields": {}, "words": str(fault)})
    fields, words = {}, []
    for name, value in shown.values.items():
        if name == "moisture_pct" and not has_pins:
            continue
        field, kind, _ = _FIELDS[name]
        fields[field] = show(value, kind, job.units) if kind else f"{value:.1f}"
    low, high = min(shown.counts.values(), default=0), max(shown.counts.values(), default=0)
    count = f"{low} to {high}" if low < high else f"{low}"
    words.append(f"Middle of {count} samples." if shown.values else f"{shown.name} is silent.")
    silent = [_FIELDS[name][2] for name in shown.silent if has_pins or name != "moisture_pct"]
    if silent and shown.values:
        words.append(f"Silent: {', '.join(silent)}. Type what is missing.")
    return JSONResponse({"fields": fields, "words": " ".join(words), "instrument": shown.name})
