"""Settings: who works at this device, back-ups and how they are put back, where the data lie, what the application is called by."""

from urllib.parse import quote

from fastapi import APIRouter, Request
from fastapi.responses import HTMLResponse, Response

from amber_gable.services.app.machine import backup
from amber_gable.services.app.machine.backup import BackupError
from amber_gable.services.app.scope import OFFICE
from amber_gable.services.office import letterhead
from amber_gable.services.outlook.weather import address
from amber_gable.web.deps import WHO, InScope
from amber_gable.web.door.formroute import FormRoute
from amber_gable.web.forms import Typed, sent
from amber_gable.web.templating import page

router = APIRouter(route_class=FormRoute)
_SHOWN = 7
_A_YEAR_S = 365 * 24 * 3600


@router.get("/settings", name="settings")
def settings_page(request: Request, scope: InScope) -> HTMLResponse:
    settings = scope.settings
    made = backup.made_in(settings.backups_in)
    names = (OFFICE, *scope.owner.painters)
    return page(request, scope, "settings.html", made=made[:_SHOWN], count=len(made), where=settings.backups_in, settings=settings,
                names=names, owner=scope.owner, letterhead_seen=letterhead.seen_of(scope), weather=address.address(scope),
                every_h=backup.EVERY.total_seconds() / 3600, figures=scope.app.cache.figures())  # fmt: skip


@router.post("/settings/who", name="set_who")
def set_who(request: Request, scope: InScope, form: Typed) -> Response:
    who = form.choice("who", {name: name for name in (OFFICE, *scope.owner.painters)}, "Choose a name from the list.")
    form.done()
    answer = sent(request.url_for("today" if form.raw("back") == "today" else "settings"))
    answer.set_cookie(WHO, quote(who), max_age=_A_YEAR_S, httponly=True, samesite="lax", secure=request.url.scheme == "https")
    return answer


@router.post("/settings/letterhead", name="set_letterhead")
def set_letterhead(request: Request, scope: InScope, form: Typed) -> Response:
    letterhead.change(scope, form.text("firm_name"), {name: form.text(name) for name in letterhead.FIELDS})
    return sent(request.url_for("settings"))


@router.post("/settings/weather", name="set_weather")
def set_weather(request: Request, scope: InScope, form: Typed) -> Response:
    if form.raw("try"):
        return page(request, scope, "_weather_said.html", said=address.tried(scope, form.raw("weather_url")))
    address.change(scope, form.raw("weather_url"))
    return sent(f"{request.url_for('settings')}#weather")


@router.post("/settings/backup", name="make_backup")
def make_backup(request: Request, scope: InScope) -> Response:
    where = scope.settings.backups_in
    if where is None:
        raise BackupError("Back-ups are switched off (AMBER_GABLE_BACKUP_DIR is “-”). Name a folder and start again.", "form")
    backup.make(scope.settings, where)
    return sent(request.url_for("settings"))
