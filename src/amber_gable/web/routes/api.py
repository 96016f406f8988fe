"""The API: JSON in, JSON out. Changes nothing, so it needs neither sign-in nor token."""

from fastapi import APIRouter, Request
from fastapi.concurrency import run_in_threadpool
from fastapi.responses import JSONResponse

from amber_gable.services.reckonings import MAX_BODY_BYTES, REGISTRY, find, parse_body, reckon
from amber_gable.web.door.formroute import FormRoute

router = APIRouter(route_class=FormRoute, prefix="/api")


async def _body(request: Request) -> bytes:
    """Return the body, reading no more of it than may be sent."""
    out = bytearray()
    async for chunk in request.stream():
        out += chunk
        if len(out) > MAX_BODY_BYTES:
            break
    return bytes(out)


@router.get("/reckon", name="api_reckonings")
def reckonings() -> JSONResponse:
    return JSONResponse({"reckonings": [entry.name for entry in REGISTRY]})


@router.post("/reckon/{name}", name="api_reckon")
async def api_reckon(request: Request, name: str) -> JSONResponse:
    entry = find(name)
    values = parse_body(await _body(request))
    answer = await run_in_threadpool(reckon, entry, values)
    return JSONResponse(answer.model_dump(by_alias=True))
