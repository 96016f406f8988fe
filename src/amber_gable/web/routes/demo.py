"""The demonstration's clock."""

from fastapi import APIRouter
from fastapi.responses import Response

from amber_gable.services.app.democlock import step_clock
from amber_gable.web.deps import InScope
from amber_gable.web.door.formroute import FormRoute
from amber_gable.web.forms import Typed

router = APIRouter(route_class=FormRoute)


@router.post("/demo/clock", name="step_clock")
def step(scope: InScope, form: Typed) -> Response:
    hours = form.number("hours", "By how many hours?")
    form.done()
    step_clock(scope.app, hours)
    return Response(status_code=200, headers={"HX-Refresh": "true"})
