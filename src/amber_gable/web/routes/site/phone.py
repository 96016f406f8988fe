"""What a phone needs on site: whether there is a signal and what time it is, and the pages it carries for where there is none."""

import json

from fastapi import APIRouter, Request
from fastapi.responses import FileResponse, HTMLResponse, JSONResponse, Response

from amber_gable.errors import NotFoundError
from amber_gable.services.app.machine.certificates import AUTHORITY, fingerprint
from amber_gable.web.deps import InScope
from amber_gable.web.door.formroute import FormRoute
from amber_gable.web.templating import STATIC, page, static_url, version
from amber_gable.web.views.site.carried import carried_pages

router = APIRouter(route_class=FormRoute)
# Pictures and icons are drawn into the pages; these are fetched by them.
_FILES = ("*.css", "*.js", "*.woff2", "*.svg")


@router.get("/signal", name="signal")
async def signal(scope: InScope) -> JSONResponse:
    """Return the server's time and version: nothing is read for it, so it stands in no line."""
    return JSONResponse({"now": scope.clock.now().isoformat(), "version": version()})


@router.get("/worker.js", name="worker")
def worker() -> Response:
    """Return the script that keeps pages on a phone, with the files of this version before it."""
    paths = sorted(str(p.relative_to(STATIC)) for shape in _FILES for p in STATIC.rglob(shape) if "icons" not in p.parts)
    # Style sheets name fonts without a mark.
    files = [f"/static/{p}" if p.endswith(".woff2") else static_url(p) for p in paths if p != "js/site/worker.js"]
    carried = json.dumps({"version": version(), "files": files})
    script = (STATIC / "js" / "site" / "worker.js").read_text(encoding="utf-8")
    return Response(f"self.CARRIED = {carried};\n{script}", media_type="text/javascript", headers={"cache-control": "no-cache"})


@router.get("/phone", name="phone")
def phone_page(request: Request, scope: InScope) -> HTMLResponse:
    """Return how a phone comes to trust this machine, so that it may carry pages."""
    folder = scope.settings.data_dir / "tls"
    has_authority = (folder / AUTHORITY).exists()
    return page(
        request, scope, "today/phone.html", has_authority=has_authority, mark=fingerprint(folder) if has_authority else "",
        is_secure=request.url.scheme == "https",
    )  # fmt: skip


@router.get("/authority.crt", name="authority")
def authority(scope: InScope) -> FileResponse:
    """Return the local authority's certificate, never its key."""
    file = scope.settings.data_dir / "tls" / AUTHORITY
    if not file.exists():
        raise NotFoundError("There is no local authority yet: start with  amber-gable serve --tls")
    return FileResponse(file, media_type="application/x-x509-ca-cert", filename="amber-gable.crt")


@router.get("/today/carried", name="carried")
def carried(request: Request, scope: InScope) -> JSONResponse:
    return JSONResponse({"pages": carried_pages(request, scope)})
