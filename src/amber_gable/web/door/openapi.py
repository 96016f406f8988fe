"""The description of the API at /openapi.json: every reckoning by its own models, and the job bundle. Pages are not in it."""

from functools import cache
from typing import Any

from fastapi import FastAPI
from starlette.responses import JSONResponse

from amber_gable import __version__
from amber_gable.exchange import jobbundle
from amber_gable.services.reckonings import REGISTRY, Reckoning

_AT = "#/components/schemas/"
_FAULT = {
    "type": "object",
    "properties": {"error": {"type": "string"}, "field": {"type": "string"}},
    "required": ["error", "field"],
}


def _json(schema: dict[str, Any]) -> dict[str, Any]:
    return {"content": {"application/json": {"schema": schema}}}


def _model(model: Any, schemas: dict[str, Any], stem: str, *, mode: str) -> dict[str, str]:
    """Put a model and all it is made of among the schemas, `stem` before their names; return the reference to it."""
    schema = model.model_json_schema(mode=mode, ref_template=_AT + stem + "{model}")
    for name, part in schema.pop("$defs", {}).items():
        schemas[stem + name] = part
    schemas[stem + model.__name__] = schema
    return {"$ref": _AT + stem + model.__name__}


def _reckoning(entry: Reckoning, schemas: dict[str, Any]) -> dict[str, Any]:
    # Reckonings call their models alike: an hour of one is not an hour of another.
    stem = "".join(word.capitalize() for word in entry.name.split("-"))
    given = _model(entry.input_model, schemas, stem, mode="validation")
    answer = _model(entry.output_model, schemas, stem, mode="serialization")
    body = _json(given) | {"required": True}
    body["content"]["application/json"]["example"] = entry.example
    refused = {"description": "What is wrong, and at which field."} | _json({"$ref": _AT + "Fault"})
    return {
        "post": {
            "summary": entry.title,
            "operationId": entry.name,
            "requestBody": body,
            "responses": {"200": {"description": "The answer."} | _json(answer), "422": refused},
        }
    }


@cache
def description() -> dict[str, Any]:
    """Return the API's description, OpenAPI 3.1."""
    schemas: dict[str, Any] = {"Fault": _FAULT}
    fault = {"description": "What is wrong, and where."} | _json({"$ref": _AT + "Fault"})
    bundle = _model(jobbundle.JobBundle, schemas, "", mode="validation")
    made = {"type": "object", "properties": {"job_id": {"type": "string"}}}
    key = {"name": "Idempotency-Key", "in": "header", "schema": {"type": "string"}, "description": "The same key twice makes one job."}
    paths: dict[str, Any] = {
        "/api/reckon": {"get": {"summary": "The names of all reckonings.", "responses": {"200": {"description": "Names."}}}},
        "/api/schema/job-bundle.json": {
            "get": {"summary": "The JSON Schema of a job bundle.", "responses": {"200": {"description": "A schema."}}}
        },
        "/api/jobs": {
            "post": {
                "summary": "Read a job bundle in as a new job.",
                "parameters": [key],
                "requestBody": {"required": True} | _json(bundle),
                "responses": {"201": {"description": "The new job."} | _json(made), "413": fault, "422": fault},
            }
        },
    }
    paths |= {f"/api/reckon/{entry.name}": _reckoning(entry, schemas) for entry in REGISTRY}
    return {
        "openapi": "3.1.0",
        "info": {"title": "Amber Gable", "version": __version__, "description": "Reckonings for painting house exteriors; SI units."},
        "paths": paths,
        "components": {"schemas": schemas},
    }


def install(app: FastAPI) -> None:
    """Serve the API's description; the framework's own would list the pages."""
    app.add_route("/openapi.json", lambda _request: JSONResponse(description()), methods=["GET"])
