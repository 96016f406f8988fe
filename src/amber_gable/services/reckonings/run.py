"""Running a reckoning: strict reading of the input, errors in words with a dotted field."""

import json
from typing import Any

from pydantic import BaseModel, ValidationError
from pydantic_core import ErrorDetails

from amber_gable.errors import PlanError
from amber_gable.services.reckonings.entry import Reckoning

MAX_BODY_BYTES = 2_000_000
_MAX_HOURS = 400


class InputError(PlanError):
    """Input that cannot be computed with."""


def parse_body(body: bytes) -> dict[str, Any]:
    """Return the JSON object in `body`.

    Raises
    ------
    InputError
        With an empty field: not JSON, not an object, or too large.
    """
    if len(body) > MAX_BODY_BYTES:
        raise InputError(f"The input is larger than {MAX_BODY_BYTES // 1_000_000} MB; send fewer hours.")
    try:
        value = json.loads(body)
    except (ValueError, RecursionError) as fault:
        raise InputError('This is not JSON. Send one object, like {"air_temp_c": 20, ...}.') from fault
    if not isinstance(value, dict):
        raise InputError("Send one JSON object, with the fields by name.")
    return value


def reckon(entry: Reckoning, values: dict[str, Any]) -> BaseModel:
    """Compute one reckoning.

    Raises
    ------
    PlanError
        With the dotted field at fault.
    """
    hours = values.get("hours")
    if isinstance(hours, list) and len(hours) > _MAX_HOURS:
        raise InputError(f"Give at most {_MAX_HOURS} hours, got {len(hours)}.", "hours")
    try:
        given = entry.input_model.model_validate(values)
    except ValidationError as fault:
        raise _first(fault, entry.input_model) from fault
    return entry.function(given)


def errors_of(fault: ValidationError, model: type[BaseModel]) -> dict[str, str]:
    """Return all faults of an input as dotted field to words, in order."""
    return {_field(e): _words(e, model) for e in reversed(fault.errors(include_url=False))}


def _first(fault: ValidationError, model: type[BaseModel]) -> InputError:
    error = fault.errors(include_url=False)[0]
    return InputError(_words(error, model), _field(error))


def _field(error: ErrorDetails) -> str:
    return ".".join(str(part) for part in error["loc"])


def _words(error: ErrorDetails, model: type[BaseModel]) -> str:
    kind, name = error["type"], str(error["loc"][-1]) if error["loc"] else "input"
    if kind in ("range", "instant"):
        return error["msg"]
    if kind == "missing":
        return f"Give {name}."
    if kind == "extra_forbidden":
        return f"There is no field {name} here; check its spelling. Known: {', '.join(model.model_fields)}."
    if kind in ("float_type", "int_type", "finite_number", "float_parsing", "int_from_float"):
        return f"{name} must be a finite JSON number, without quotes."
    if kind == "bool_type":
        return f"{name} must be true or false."
    if kind == "string_type":
        return f"{name} must be text in quotes."
    if kind in ("list_type", "tuple_type"):
        return f"{name} must be a list."
    if kind in ("model_type", "dict_type", "model_attributes_type"):
        return f"{name} must be an object with fields by name."
    if kind == "literal_error":
        return f"{name} must be {error['ctx']['expected']}."
    if kind == "too_short":
        return f"{name} needs at least {error['ctx']['min_length']}."
    if kind == "too_long":
        return f"{name} may have at most {error['ctx']['max_length']}."
    return f"{name}: {error['msg']}."
