"""My day: the list of the painter who holds the phone; who that is, is chosen once on the device."""

from datetime import UTC, date, timedelta
from typing import Any

from fastapi import APIRouter, Request
from fastapi.responses import HTMLResponse, Response

from amber_gable.services.app.scope import OFFICE
from amber_gable.services.jobs import jobs
from amber_gable.services.log.alarms import alarms
from amber_gable.services.log.closing import close_day
from amber_gable.services.log.entries import MOST_LETTERS
from amber_gable.services.planning.myday import my_day
from amber_gable.web.deps import InScope
from amber_gable.web.door.formroute import FormRoute
from amber_gable.web.forms import Typed, sent
from amber_gable.web.templating import page, zone_of
from amber_gable.web.views.site.today import answer_ahead, answer_of, before_leaving, first_to_do, other_days, rows_in_words, wall_of

router = APIRouter(route_class=FormRoute)
# So far ahead a plan is shown on the phone.
_AHEAD_DAYS = 6


@router.post("/today/close", name="close_day")
def close(request: Request, scope: InScope, form: Typed) -> Response:
    """Close the day of the painter who holds the phone."""
    # Those that the page had: sent the next morning, it is still the day before that is closed.
    jobs_of_day = [jobs.whole(scope, job_id) for job_id in dict.fromkeys(form.each("job"))]
    litres = {}
    for name in (n for n in form.values if n.startswith("litres-") and form.raw(n)):
        unit = next((("gal" if job.units == "us" else "L") for job in jobs_of_day), "L")
        litres[name.removeprefix("litres-")] = form.si(name, "volume", unit)
    text = form.long_text("text", MOST_LETTERS)
    form.done()
    close_day(scope, scope.actor, jobs_of_day, form.each("seen_to"), litres, text, form.raw("entry"))
    return sent(request.url_for("today"))


@router.get("/today", name="today")
def today_page(request: Request, scope: InScope, day: date | None = None) -> HTMLResponse:
    if scope.actor == OFFICE:
        return page(request, scope, "today/who.html", names=scope.owner.painters)
    now = scope.clock.now()
    zone = jobs.home_zone(scope) or UTC
    today = now.astimezone(zone).date()
    coming = day if day is not None and today < day <= today + timedelta(days=_AHEAD_DAYS) else None
    pieces = my_day(scope, scope.actor, coming)
    rows = rows_in_words(scope, pieces, scope.actor)
    if coming is not None:
        return page(
            request, scope, "today/page.html", who=scope.actor, rows=rows, current=None, wall=None,
            sentence=answer_ahead(rows, scope.actor, coming, today), leaving=None, day=coming, days=other_days(today, coming), log_of=[],
        )  # fmt: skip
    leaving = before_leaving(scope, scope.actor, [p.job for p in pieces], now)
    current = first_to_do(rows)
    if leaving is not None:
        leaving["unsaid"] = sum(row.piece.asks and not row.piece.is_running for row in rows)
        leaving["running"] = [row.running for row in rows if row.running]
    values: dict[str, Any] = {"zone": zone_of(current.piece.job)} if current else {}
    return page(
        request, scope, "today/page.html", who=scope.actor, rows=rows, current=current, sentence=answer_of(rows, scope.actor, now),
        wall=wall_of(scope, current) if current else None, leaving=leaving, day=None, days=other_days(today, None), alarms=alarms(scope),
        jobs_of_day=list({p.job.id: p.job for p in pieces}.values()),
        log_of=[current.piece.job] if current else [], **values,
    )  # fmt: skip
