"""The API: JSON in, JSON out. Changes nothing, so it needs neither sign-in nor token."""

from fastapi import APIRouter
from fastapi.responses import JSONResponse

from amber_gable.services.reckonings import REGISTRY, find, parse_body, reckon
from amber_gable.web.deps import Body
from amber_gable.web.door.formroute import FormRoute

router = APIRouter(route_class=FormRoute, prefix="/api")


@router.get("/reckon", name="api_reckonings")
def reckonings() -> JSONResponse:
    return JSONResponse({"reckonings": [entry.name for entry in REGISTRY]})


@router.post("/reckon/{name}", name="api_reckon")
def api_reckon(name: str, body: Body) -> JSONResponse:
    answer = reckon(find(name), parse_body(body))
    return JSONResponse(answer.model_dump(by_alias=True))
