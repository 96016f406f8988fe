"""The first run: one page that asks whose books these are, and offers the sample jobs."""

from fastapi import APIRouter, Request
from fastapi.responses import HTMLResponse, Response

from amber_gable.services.jobs import beginning
from amber_gable.services.jobs.beginning import FirmFacts
from amber_gable.services.outlook.weather import address
from amber_gable.web.deps import InScope
from amber_gable.web.door.formroute import FormRoute
from amber_gable.web.forms import Typed, sent
from amber_gable.web.templating import page

router = APIRouter(route_class=FormRoute)


@router.get("/begin", name="begin")
def begin_page(request: Request, scope: InScope) -> HTMLResponse:
    return page(request, scope, "begin.html", is_first=beginning.is_first_run(scope), countries=scope.knowledge.countries,
                rates=scope.knowledge.money, has_samples=scope.app.samples is not None, weather=address.address(scope))  # fmt: skip


@router.post("/begin", name="begin_firm")
def begin_firm(request: Request, scope: InScope, form: Typed) -> Response:
    country = scope.knowledge.countries.get(form.raw("country"))
    facts = FirmFacts(
        name=form.text("name", "Give the firm a name: it stands on every paper."),
        country=form.raw("country"),
        units="us" if (form.raw("units") or (country.units if country else "")) == "us" else "metric",
        currency=(form.raw("currency") or (country.currency if country else "")).upper(),
        painters=[name for part in form.text("painters").split(",") if (name := " ".join(part.split()))],
        labour_per_h=form.number("labour_per_h", "What an hour costs, like 55."),
        margin_pct=form.number("margin_pct", "Percent, like 12."),
        tax_pct=form.number("tax_pct", "Percent, like 5.5; 0 where there is none."),
    )
    weather_url = form.raw("weather_url")
    form.done(lambda: facts.check(scope), lambda: _checked(weather_url))
    if weather_url and not address.address(scope).is_fixed:
        address.change(scope, weather_url)
    beginning.begin(scope, facts, with_samples=form.flag("samples"))
    return sent(request.url_for("jobs" if form.flag("samples") else "new_job"))


def _checked(weather_url: str) -> None:
    address.checked(weather_url)
