"""Asking a reckoning that must refuse."""

import json

import pytest

from amber_gable.errors import PlanError
from amber_gable.services.reckonings import find, parse_body, reckon


def refused(name: str, body: dict | bytes) -> tuple[str, str]:
    raw = body if isinstance(body, bytes) else json.dumps(body).encode()
    with pytest.raises(PlanError) as caught:
        reckon(find(name), parse_body(raw))
    return caught.value.field, str(caught.value)
