"""My day: the list of the painter who holds the phone; who that is, is chosen once on the device."""

from typing import Any

from fastapi import APIRouter, Request
from fastapi.responses import HTMLResponse

from amber_gable.services.app.scope import OFFICE
from amber_gable.services.planning.myday import my_day
from amber_gable.web.deps import InScope
from amber_gable.web.door.formroute import FormRoute
from amber_gable.web.templating import page, zone_of
from amber_gable.web.views.today import answer_of, before_leaving, first_to_do, rows_in_words, wall_of

router = APIRouter(route_class=FormRoute)


@router.get("/today", name="today")
def today_page(request: Request, scope: InScope) -> HTMLResponse:
    if scope.actor == OFFICE:
        return page(request, scope, "today/who.html", names=scope.owner.painters)
    pieces = my_day(scope, scope.actor)
    rows = rows_in_words(scope, pieces, scope.actor)
    now = scope.clock.now()
    leaving = before_leaving(scope, scope.actor, [p.job for p in pieces], now)
    current = first_to_do(rows)
    values: dict[str, Any] = {"zone": zone_of(current.piece.job)} if current else {}
    return page(
        request, scope, "today/page.html", who=scope.actor, rows=rows, current=current, sentence=answer_of(rows, scope.actor, now),
        wall=wall_of(scope, current) if current else None, leaving=leaving, **values,
    )  # fmt: skip
