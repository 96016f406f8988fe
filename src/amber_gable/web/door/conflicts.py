"""Two people, one form: what is saved now beside what was typed, field by field, so that either can be kept."""

from dataclasses import dataclass
from typing import Any

from fastapi import Request

from amber_gable.errors import ConflictError, Differing, PlanError
from amber_gable.services.jobs import jobs
from amber_gable.units import Shown, System, show
from amber_gable.web.deps import scope_of

# Columns whose fields have another name in some forms.
_FIELDS = {"name": ("surface_name", "item_name", "name"), "points": ("outline",), "starts_h": ("starts",), "ends_h": ("ends",)}


@dataclass(frozen=True)
class FieldConflict:
    """One field that two people gave different values.

    Parameters
    ----------
    field : str
    theirs, yours : str
        As the field would be typed; "yes" and "" for a mark.
    is_asked : bool
        Whether the form that was sent has this field; the others are only told.
    """

    field: str
    theirs: str
    yours: str
    is_asked: bool

    @property
    def words(self) -> str:
        stem = self.field.rsplit(".", 1)[-1]
        for unit in ("_m", "_mm", "_deg", "_pct", "_h"):
            stem = stem.removesuffix(unit)
        return stem.replace("_", " ")


def _flat(differing: tuple[Differing, ...]) -> list[Differing]:
    """Return columns that hold several values by those values: house rules, prices, dimensions of a profile."""
    flat: list[Differing] = []
    for one in differing:
        if isinstance(one.theirs, dict) or isinstance(one.yours, dict):
            theirs, yours = one.theirs or {}, one.yours or {}
            keys = sorted({*theirs, *yours})
            flat += [Differing(k, theirs.get(k), yours.get(k)) for k in keys if theirs.get(k) != yours.get(k)]
        else:
            flat.append(one)
    return flat


def _typed(column: str, value: Any, system: System) -> str:
    """Return a value as its field would be filled in."""
    if value is None or value is False:
        return ""
    if value is True:
        return "yes"
    if isinstance(value, list):
        return ", ".join(str(v) for v in value) if all(isinstance(v, str | int | float) for v in value) else f"{len(value)} entries"
    if isinstance(value, float):
        return show(value, "length", system) if column.endswith("_m") else Shown(f"{value:g}", value)
    return str(value)


def sides_of(request: Request, fault: ConflictError) -> list[FieldConflict]:
    """Return the fields that differ, those of the form first."""
    form = getattr(request.state, "form", {})
    system = _system(request)
    sides = []
    for one in _flat(fault.differing):
        field = next((f for f in _FIELDS.get(one.column, ()) if f in form), one.column)
        raw = form.get(field)
        yours = raw if isinstance(raw, str) and not isinstance(one.yours, bool) else _typed(one.column, one.yours, system)
        sides.append(FieldConflict(field, _typed(one.column, one.theirs, system), yours, field in form or isinstance(one.yours, bool)))
    return sorted(sides, key=lambda s: not s.is_asked)


def _system(request: Request) -> System:
    scope = scope_of(request)
    try:
        return jobs.whole(scope, request.path_params["job_id"]).units
    except (KeyError, PlanError):
        return scope.owner.units
