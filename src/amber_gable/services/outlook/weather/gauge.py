"""The gauge on site: paired once by the code on its display, asked for a few seconds of samples; what is silent is said.

Not here: what a reading means (services.log.sitelog), the stand-in itself (standins.gauge).
"""

import json
from collections.abc import Mapping
from dataclasses import dataclass
from datetime import datetime
from statistics import median
from typing import Any

from amber_gable.core.air.weather import RANGES
from amber_gable.errors import FieldErrors, PlanError
from amber_gable.services.app.scope import Scope
from amber_gable.store.models import AppState, Elevation, Job

_TIMEOUT_S = 4.0
_MOST_LINES, _MOST_BYTES = 400, 200_000
_SECONDS = 8
# Fewer samples of a probe are too few to believe their middle.
_LEAST = 3
_RANGES: Mapping[str, tuple[float, float]] = {
    "air_temp_c": RANGES["air_temp_c"], "rel_humidity_pct": RANGES["rel_humidity_pct"], "surface_temp_c": (-60.0, 95.0),
    "moisture_pct": (0.0, 60.0), "wind_m_s": RANGES["wind_m_s"],
}  # fmt: skip


class GaugeError(PlanError):
    """The gauge cannot be used; the message says how to go on."""


@dataclass(frozen=True)
class Paired:
    """A gauge that is paired: its name, and when it was last calibrated."""

    token: str
    name: str
    calibrated_on: str


@dataclass(frozen=True)
class Gauged:
    """What the gauge shows: the middle of its samples by quantity, their spread, and what is silent.

    Parameters
    ----------
    values, spread : dict of str to float
        By quantity with its unit in the name; half of what lies between the largest and the smallest.
    counts : dict of str to int
    silent : tuple of str
        Quantities of which too few samples came.
    """

    name: str
    values: dict[str, float]
    spread: dict[str, float]
    counts: dict[str, int]
    silent: tuple[str, ...]


def _key(scope: Scope) -> str:
    return f"gauge {scope.contractor_id}"


def paired(scope: Scope) -> Paired | None:
    """Return the gauge that is paired; None where none is."""
    if not scope.settings.gauge_url:
        return None
    with scope.reading() as session:
        row = session.get(AppState, _key(scope))
    return Paired(**json.loads(row.value)) if row is not None else None


def pair(scope: Scope, code: str) -> Paired:
    """Pair the gauge by the code on its display.

    Raises
    ------
    FieldErrors
        If it is another code.
    GaugeError
        If the gauge does not answer.
    """
    if not code.strip():
        raise FieldErrors({"code": "The code stands on the gauge's display."})
    sent = _ask(scope, "POST", "/v1/pair", {"code": code.strip()})
    try:
        found = Paired(str(sent["token"]), str(sent["name"])[:60], str(sent["calibrated_on"])[:20])
    except (KeyError, TypeError) as fault:
        raise GaugeError("The gauge answered something else than it should.") from fault
    with scope.writing() as session:
        session.merge(AppState(key=_key(scope), value=json.dumps(found.__dict__)))
    return found


def read_gauge(scope: Scope, job: Job, elevation: Elevation, at: datetime) -> Gauged:
    """Return what the gauge shows at a wall.

    Raises
    ------
    GaugeError
        If it is not paired, or does not answer.
    """
    gauge = paired(scope)
    if gauge is None:
        raise GaugeError("No gauge is paired. Type what your instrument shows.")
    asked = {
        "as_of": at.isoformat(), "latitude": job.latitude_deg, "longitude": job.longitude_deg, "azimuth": elevation.azimuth_deg % 360,
        "tilt": min(elevation.tilt_deg, 180.0), "token": gauge.token, "count": _SECONDS,
    }  # fmt: skip
    samples: dict[str, list[float]] = {}
    for line in _lines(scope, "/v1/stream", asked):
        for name, value in _values(line).items():
            samples.setdefault(name, []).append(value)
    enough = {name: kept for name, kept in samples.items() if len(kept) >= _LEAST}
    return Gauged(
        gauge.name, {n: median(v) for n, v in enough.items()}, {n: (max(v) - min(v)) / 2 for n, v in enough.items()},
        {n: len(v) for n, v in enough.items()}, tuple(n for n in _RANGES if n not in enough),
    )  # fmt: skip


def _values(line: str) -> dict[str, float]:
    """Return what one line says that can be; nothing for what cannot."""
    try:
        said = json.loads(line)
        values = said["values"]
        return {
            name: float(values[name])
            for name, (low, high) in _RANGES.items()
            if isinstance(values.get(name), int | float) and not isinstance(values.get(name), bool) and low <= values[name] <= high
        }
    except (ValueError, KeyError, TypeError, AttributeError):
        return {}


def _ask(scope: Scope, method: str, path: str, body: dict[str, Any]) -> Any:
    import httpx

    try:
        with httpx.Client(timeout=_TIMEOUT_S, trust_env=False) as http:
            answer = http.request(method, f"{scope.settings.gauge_url.rstrip('/')}{path}", json=body)
        if answer.status_code == 403:
            raise FieldErrors({"code": "This is not the code on the gauge's display."})
        answer.raise_for_status()
        return answer.json()
    except httpx.HTTPError as fault:
        raise GaugeError("The gauge does not answer. Is it on, and within reach?") from fault
    except ValueError as fault:
        raise GaugeError("The gauge sent something unreadable.") from fault


def _lines(scope: Scope, path: str, params: dict[str, Any]) -> list[str]:
    """Return the lines of a stream: as many as come within the time-out."""
    import httpx

    lines: list[str] = []
    try:
        with (
            httpx.Client(timeout=_TIMEOUT_S, trust_env=False) as http,
            http.stream("GET", f"{scope.settings.gauge_url.rstrip('/')}{path}", params=params) as answer,
        ):
            if answer.status_code == 401:
                raise GaugeError("The gauge knows nothing of being paired. Pair it anew with the code on its display.")
            answer.raise_for_status()
            size = 0
            for line in answer.iter_lines():
                lines.append(line)
                size += len(line)
                if len(lines) >= _MOST_LINES or size > _MOST_BYTES:
                    break
    except httpx.HTTPError as fault:
        # What came before it fell silent is used.
        if not lines:
            raise GaugeError("The gauge does not answer. Is it on, and within reach? Type what it shows.") from fault
    return lines
