"""My day: the list of the painter who holds the phone; who that is, is chosen once on the device."""

from typing import Any
from urllib.parse import quote

from fastapi import APIRouter, Request
from fastapi.responses import HTMLResponse, Response

from amber_gable.services.app.scope import OFFICE
from amber_gable.services.planning.myday import my_day
from amber_gable.web.deps import WHO, InScope
from amber_gable.web.door.formroute import FormRoute
from amber_gable.web.forms import Typed, sent
from amber_gable.web.templating import page, zone_of
from amber_gable.web.views.today import answer_of, before_leaving, rows_in_words, wall_of

router = APIRouter(route_class=FormRoute)
_A_YEAR_S = 365 * 24 * 3600


@router.get("/today", name="today")
def today_page(request: Request, scope: InScope) -> HTMLResponse:
    if scope.actor == OFFICE:
        return page(request, scope, "today/who.html", names=scope.owner.painters)
    pieces = my_day(scope, scope.actor)
    rows = rows_in_words(scope, pieces, scope.actor)
    now = scope.clock.now()
    leaving = before_leaving(scope, scope.actor, [p.job for p in pieces], now)
    current = next((row for row in rows if row.piece.one.state != "done"), None)
    values: dict[str, Any] = {"zone": zone_of(current.piece.job)} if current else {}
    return page(
        request, scope, "today/page.html", who=scope.actor, rows=rows, current=current, sentence=answer_of(rows, scope.actor, now),
        wall=wall_of(scope, current) if current else None, leaving=leaving, **values,
    )  # fmt: skip


@router.post("/today/who", name="hold_phone")
def hold_phone(request: Request, scope: InScope, form: Typed) -> Response:
    who = form.choice("who", {name: name for name in (OFFICE, *scope.owner.painters)}, "Choose a name from the list.")
    form.done()
    answer = sent(request.url_for("today"))
    answer.set_cookie(WHO, quote(who), max_age=_A_YEAR_S, httponly=True, samesite="lax")
    return answer
