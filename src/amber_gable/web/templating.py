"""Templates: the Jinja environment, filters for units and times, the values every page has."""

import hashlib
from collections.abc import Callable
from datetime import datetime, timedelta
from decimal import Decimal
from functools import cache, partial
from pathlib import Path
from typing import Any
from urllib.parse import quote
from zoneinfo import ZoneInfo

from fastapi import Request
from fastapi.responses import HTMLResponse
from fastapi.templating import Jinja2Templates
from jinja2 import pass_context
from jinja2.runtime import Context as JinjaContext
from markupsafe import Markup

from amber_gable import units
from amber_gable.core.survey.ages import Since
from amber_gable.drawing.patterns import definitions
from amber_gable.drawing.tokens import token
from amber_gable.services.app.scope import Scope
from amber_gable.services.changes.seen import seen_part, seen_rows
from amber_gable.services.jobs import jobs
from amber_gable.services.jobs.progress import stages_of
from amber_gable.services.survey.evidence.gates import gates_of
from amber_gable.store.models import Job
from amber_gable.units import System, in_one_system
from amber_gable.web.door.formroute import with_keys
from amber_gable.web.help import help_for

HERE = Path(__file__).parent
STATIC = HERE / "static"

templates = Jinja2Templates(directory=HERE / "templates")
# They change with the application alone: nobody asks the disk about each of them for each page.
templates.env.auto_reload = False


@cache
def static_url(path: str) -> str:
    """Return the address of a static file, with a mark that changes when the file does."""
    mark = hashlib.blake2b((STATIC / path).read_bytes(), digest_size=4).hexdigest()
    return f"/static/{path}?v={mark}"


@cache
def version() -> str:
    """Return a mark that changes whenever a style, script or template does: what a page of an older version is told by."""
    mark = hashlib.blake2b(digest_size=6)
    for folder in (STATIC, HERE / "templates"):
        for file in sorted(folder.rglob("*.*")):
            mark.update(file.read_bytes())
    return mark.hexdigest()


@cache
def icon(name: str) -> Markup:
    """Return an icon as inline SVG, so that it takes the colour of its text."""
    text = (STATIC / "vendor" / "icons" / f"{name}.svg").read_text(encoding="utf-8")
    return Markup(text.replace("<svg ", '<svg aria-hidden="true" focusable="false" ', 1))


def age(span: timedelta) -> str:
    """Return a time span as one reads it: "50 min", "1 h 20 min", "3 h", "2 days"."""
    minutes = max(int(span.total_seconds() // 60), 0)
    if minutes < 60:
        return f"{minutes} min"
    if minutes < 120:
        return f"1 h {minutes - 60:02d} min" if minutes > 60 else "1 h"
    if minutes < 48 * 60:
        return f"{minutes / 60:.0f} h"
    return f"{minutes // (24 * 60)} days"


def all_of(count: int) -> str:
    """Return all of some things, of more than one, as one says it."""
    return "Both" if count == 2 else f"All {count}"


def clock_time(moment: datetime, zone: ZoneInfo | None = None) -> str:
    return f"{moment.astimezone(zone) if zone else moment:%H:%M}"


def day_word(moment: datetime, now: datetime) -> str:
    """Return "today", "tomorrow", or the weekday; both in the same zone."""
    days = (moment.date() - now.date()).days
    if days in (0, 1):
        return ("today", "tomorrow")[days]
    return f"{moment:%A}" if 1 < days < 7 else f"{moment:%a} {moment.day} {moment:%b}"


def moment_word(moment: datetime, now: datetime) -> str:
    """Return a moment as one says it on site: "16:40", "tomorrow 09:15"."""
    local = moment.astimezone(now.tzinfo)
    return f"{local:%H:%M}" if local.date() == now.date() else f"{day_word(local, now)} {local:%H:%M}"


def zone_of(job: Job) -> ZoneInfo:
    return ZoneInfo(job.time_zone)


@pass_context
def url_for(context: JinjaContext, name: str, /, **params: Any) -> str:
    """Return the address of a route, as the framework's own `url_for` does, which walks all routes each time.

    The shape of each address is asked for once, with marks in place of its parameters.
    """
    request: Request = context["request"]
    base = str(request.base_url)
    shapes: dict[tuple[str, ...], str] = request.app.state.__dict__.setdefault("address_shapes", {})
    key = (base, name, *params)
    if key not in shapes:
        shapes[key] = str(request.url_for(name, **{p: f"-{i}-mark-" for i, p in enumerate(params)}))
    address = shapes[key]
    for i, value in enumerate(params.values()):
        address = address.replace(f"-{i}-mark-", quote(str(value), safe="/"))
    return address


def _formatted(text: str, *values: Any) -> str:
    """Return a text with values in it; of a single number it still knows the exact value."""
    shown = str(text) % values
    return units.Shown(shown, float(values[0])) if len(values) == 1 and isinstance(values[0], int | float) else shown


templates.env.globals["url_for"] = url_for
templates.env.globals.update(fill_definitions=Markup(definitions()))
templates.env.globals.update(
    token=token,
    version=version,
    static_url=static_url,
    icon=icon,
    show=units.show,
    show_parts=units.show_parts,
    symbol=units.symbol,
    seen_rows=seen_rows,
    seen_part=seen_part,
    both=units.both,
)
templates.env.filters.update(
    age=age,
    all_of=all_of,
    clock_time=clock_time,
    moment_word=moment_word,
    short_day=lambda day: f"{day:%a} {day.day} {day:%b}",
    # Rows of the knowledge as (value, text) for a list to choose from.
    since=lambda row: str(Since(row.coated_year, row.coated_month)) if row.coated_year else "",
    label_pairs=lambda rows: [(key, row.label) for key, row in rows.items()],
    name_pairs=lambda rows: [(key, row.name) for key, row in rows.items()],
    self_pairs=lambda names: [(name, name) for name in names],
    way_names=lambda ways: [(key, way.label) for key, way in ways.items()],
    id_names=lambda rows: [(row.id, row.name) for row in rows],
    small=lambda mm, unit: units.Shown(f"{units.convert(mm, 'mm', unit):.4g}" if unit == "in" else f"{mm:g}", mm),
    lower_first=lambda words: words[:1].lower() + words[1:],
    format=_formatted,
    in_map=lambda key, mapping: mapping[key],
    zip=lambda first, second: list(zip(first, second, strict=True)),
)
templates.env.trim_blocks = True
templates.env.lstrip_blocks = True

STAGES = (
    ("survey", "Survey", "rulers"),
    ("systems", "Systems", "layers"),
    ("takeoff", "Take-off", "basket"),
    ("windows", "Windows", "sun"),
    ("schedule", "Schedule", "calendar3"),
    ("log", "Site log", "journal-text"),
    ("handover", "Handover", "house-check"),
)


def writer(scope: Scope) -> Callable[..., str]:
    """Return what writes money as this contractor does: `money(12.5)`, `money(1250, cents=False)`."""
    knowledge = scope.knowledge.money

    def money(value: float | Decimal, cents: bool = True) -> str:
        return units.show_money(value, knowledge.currency, knowledge.locale, cents=cents)

    return money


def shower(scope: Scope) -> Callable[..., str]:
    """Return what writes quantities as this contractor does: `show(12.5, "area", "us")`."""
    return partial(units.show, locale=scope.knowledge.money.locale)


def shared_values(request: Request, scope: Scope, values: dict[str, Any]) -> dict[str, Any]:
    """Return what every template may use; `job` among `values` makes it a job's: its zone, units and stages."""
    job: Job | None = values.get("job")
    now = scope.clock.now()
    zone = zone_of(job) if job is not None else (values.pop("zone", None) or jobs.home_zone(scope))
    local = now.astimezone(zone) if zone else now
    return {
        "request": request,
        "now": local,
        "zone": zone,
        "system": values.pop("system", None) or (job.units if job is not None else scope.owner.units),
        "stages": STAGES,
        "stage_states": stages_of(scope, job) if job is not None and "stage" in values else {},
        # Lead and asbestos stay in sight in every stage; a page that knows of more gives its own.
        "gates": gates_of(scope, job) if job is not None and "stage" in values and "gates" not in values else [],
        "help_words": help_for(getattr(request.scope.get("route"), "name", ""), str(values.get("stage", ""))),
        "money": writer(scope),
        "show": shower(scope),
        "actor": scope.actor,
        "is_demo": scope.settings.demo and scope.clock.is_set,
        "theme": "glare" if request.cookies.get("theme") == "glare" else "linen",
        "job_states": jobs.STATES,
    }


def fragment(request: Request, scope: Scope, template: str, **values: Any) -> Markup:
    """Return a part of a page that may be kept and put into several: its forms get their keys with the page."""
    shared = shared_values(request, scope, values)
    return Markup(in_one_system(templates.get_template(template).render({**shared, **values}), shared["system"]))


def page(request: Request, scope: Scope, template: str, status_code: int = 200, **values: Any) -> HTMLResponse:
    """Return a page or fragment with what every template may use.

    Parameters
    ----------
    request : Request
    scope : Scope
    template : str
    **values
        `job` makes it a job's page: its zone, units and stages.
    """
    shared = shared_values(request, scope, values)
    # All is read: no connection waits for the drawing of a page.
    scope.release()
    html = templates.get_template(template).render({**shared, **values})
    return HTMLResponse(with_keys(in_one_system(html, shared["system"])), status_code)


def printed(template: str, units_of_reader: System, /, **values: Any) -> str:
    """Return a paper as HTML, its quantities in one system of units; it is no page and has no forms."""
    return in_one_system(templates.get_template(template).render(**values), units_of_reader)
