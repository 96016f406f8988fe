"""A contractor's own rates and prices, laid over the tables; each figure checked where it stands.

A figure is called by its path: "money.labour_per_h", "labour.lap-rolled.first_per_h", "access.tower.hire_per_day".
Not here: forms (web), where they are kept (services).
"""

from collections.abc import Iterator, Mapping
from dataclasses import dataclass
from typing import Any

from pydantic import ValidationError

from amber_gable.core.knowledge import Knowledge
from amber_gable.errors import FieldErrors

Value = float | int | str

# path's last part: its name, its unit, and the kind of quantity by which other units are read ("" for none).
_MONEY = {
    "labour_per_h": ("Labour, burdened", "money/h", ""), "markup_pct": ("Mark-up on materials", "%", ""),
    "overhead_pct": ("Overhead", "%", ""), "margin_pct": ("Margin", "%", ""), "tax_pct": ("Tax", "%", ""),
    "deposit_pct": ("Deposit on signing", "%", ""), "halfway_pct": ("Paid halfway", "%", ""), "disposal": ("Disposal, a job", "money", ""),
    "valid_days": ("A proposal holds for", "days", ""), "rounding": ("Round the price up to", "money", ""),
}  # fmt: skip
_PRACTICE = {
    "day_h": ("Paid hours a day", "h", ""), "setup_h": ("Set-up and clean-up a day", "h", ""),
    "weather_slack_pct": ("Lost to weather", "%", ""), "ladder_move_h": ("A ladder move", "h", ""),
    "reserve_pct": ("Touch-up reserve", "%", ""), "reserve_least_l": ("Reserve, at least", "L", "volume"),
    "suction_pct": ("More on bare or chalky ground", "%", ""), "bead_mm": ("Caulk bead", "mm", ""),
    "caulk_waste_pct": ("Caulk wasted", "%", ""), "box_l": ("Boxing bucket", "L", "volume"), "storey_m": ("Second storey begins at",
        "m", "length"),
    "reach_side_m": ("Reach to each side of a ladder", "m", "length"), "extension_m": ("Pole or gun extension", "m", "length"),
    "pump_l_per_min": ("Pump, at most", "L/min", ""), "pressure_psi": ("Spray pressure", "psi", ""), "hose_m": ("Hose", "m", "length"),
    "tip_life_l": ("A tip lasts", "L", "volume"), "overlap_pct": ("Spray overlap", "%", ""),
    "open_time_waterborne_min": ("Wet edge, waterborne", "min", ""), "open_time_alkyd_min": ("Wet edge, alkyd", "min", ""),
}  # fmt: skip
_ACCESS = {
    "hire_per_day": ("a day", "money", ""), "delivery": ("delivery", "money", ""), "lead_days": ("reserve ahead", "days", ""),
    "upper_factor": ("time above the first storey ×", "", ""),
    "hire_per_m2": ("up and down, the first weeks", "money", "per-area"), "hire_per_m2_week": ("a week more", "money", "per-area"),
}  # fmt: skip
_COUNTED = {
    "m2": "m²/h",
    "m2 found": "m²/h",
    "m": "m/h",
    "run": "m/h",
    "edge": "m/h",
    "near": "an hour",
    "opening": "an hour",
    "piece": "an hour",
}


@dataclass(frozen=True)
class RateFigure:
    """One figure a contractor may change.

    Parameters
    ----------
    path, label, group, unit : str
    kind : str
        Of quantity, for reading other units; empty for a plain number.
    value, shipped : float
        As it is, and as the tables have it.
    source : str
    """

    path: str
    label: str
    group: str
    unit: str
    kind: str
    value: float
    shipped: float
    source: str = ""

    @property
    def is_own(self) -> bool:
        return self.value != self.shipped


def figures(knowledge: Knowledge, shipped: Knowledge) -> tuple[RateFigure, ...]:
    """Return every figure that may be changed, group by group, as it is and as it was shipped."""
    return tuple(_figures(knowledge, shipped))


def _figures(knowledge: Knowledge, shipped: Knowledge) -> Iterator[RateFigure]:
    for table, names, group in (("money", _MONEY, "Money"), ("practice", _PRACTICE, "Practice")):
        row, first = getattr(knowledge, table), getattr(shipped, table)
        for name, (label, unit, kind) in names.items():
            yield RateFigure(f"{table}.{name}", label, group, unit, kind, getattr(row, name), getattr(first, name))
    for key, rate in knowledge.labour.items():
        for name, words in (("first_per_h", "first coat" if rate.task == "coat" else ""), ("next_per_h", "later coats")):
            if name == "first_per_h" or rate.task == "coat":
                label = f"{rate.label}, {words}" if words else rate.label
                kind = {"m2": "rate", "m2 found": "rate", "m": "run", "run": "run"}.get(rate.of, "")
                first = getattr(shipped.labour[key], name)
                yield RateFigure(f"labour.{key}.{name}", label, "Labour", _COUNTED[rate.of], kind, getattr(rate, name), first, rate.source)
    for key, step in knowledge.systems.steps.items():
        if step.rate and step.of in _COUNTED:
            kind = {"m2": "rate", "m2 found": "rate", "m": "run", "edge": "run"}.get(step.of, "")
            yield RateFigure(f"steps.{key}.rate", step.label, "Preparation", _COUNTED[step.of], kind, step.rate,
                         shipped.systems.steps[key].rate, step.source)  # fmt: skip
    for key, way in knowledge.access.items():
        if way.hire_per_day or way.hire_per_m2 or key in ("ladder", "step-ladder"):
            for name, (label, unit, kind) in _ACCESS.items():
                is_of_it = way.hire_per_m2 if kind == "per-area" else way.hire_per_day if name == "hire_per_day" else way.delivery
                if name == "upper_factor" or is_of_it:
                    yield RateFigure(f"access.{key}.{name}", f"{way.label}, {label}", "Access", unit, kind, getattr(way, name),
                                 getattr(shipped.access[key], name), way.source)  # fmt: skip
    for key, used in knowledge.systems.consumables.items():
        yield RateFigure(f"consumables.{key}.price", f"{used.label}, {used.unit}", "Sundries", "money", "", used.price,
                     shipped.systems.consumables[key].price, used.source)  # fmt: skip
    for key, tool in knowledge.applicators.items():
        yield RateFigure(
            f"applicators.{key}.price", tool.label, "Sundries", "money", "", tool.price, shipped.applicators[key].price, tool.source
        )
    for key, damage in knowledge.unit_prices.items():
        yield RateFigure(f"unit_prices.{key}.price", damage.label, "Hidden damage", f"money/{damage.unit}", "", damage.price,
                     shipped.unit_prices[key].price, damage.source)  # fmt: skip


def with_prices(knowledge: Knowledge, own: Mapping[str, Value]) -> Knowledge:
    """Return the knowledge with a contractor's own figures.

    Parameters
    ----------
    own : mapping of str to number or text
        By path; those that are not there keep what the tables say.

    Raises
    ------
    FieldErrors
        By path: negative, absurd, or no such figure.
    """
    faults: dict[str, str] = {}
    changed: dict[str, dict[str, dict[str, Any]]] = {}
    for path, value in own.items():
        table, *middle, name = path.split(".")
        changed.setdefault(table, {}).setdefault(".".join(middle), {})[name] = value
    updates: dict[str, Any] = {}
    inside: dict[str, Any] = {}
    for table, rows in changed.items():
        is_inside = table in ("steps", "consumables")
        table_rows = getattr(knowledge.systems if is_inside else knowledge, table, None)
        if table_rows is None:
            faults |= {path: "There is no such figure." for path in own if path.split(".")[0] == table}
            continue
        made = _rows(table, table_rows, rows, faults)
        (inside if is_inside else updates)[table] = made
    if faults:
        raise FieldErrors(faults)
    if inside:
        updates["systems"] = knowledge.systems.model_copy(update=inside)
    result = knowledge.model_copy(update=updates)
    if result.money.deposit_pct + result.money.halfway_pct > 100:
        raise FieldErrors({"money.halfway_pct": "Deposit and halfway payment together are more than the whole price."})
    return result


def _rows(table: str, row: Any, rows: Mapping[str, Mapping[str, Any]], faults: dict[str, str]) -> Any:
    """Return a table, or the one row that it is, with changed figures."""
    if "" in rows:
        return _row(table, row, rows[""], faults)
    out = dict(row)
    for key, values in rows.items():
        if key not in out:
            faults |= {f"{table}.{key}.{name}": "There is no such figure." for name in values}
            continue
        out[key] = _row(f"{table}.{key}", out[key], values, faults)
    return out


def _row(path: str, row: Any, values: Mapping[str, Any], faults: dict[str, str]) -> Any:
    if path.startswith("steps.") and not values.get("rate", 1) > 0:
        # Nothing would take for ever; steps that take nobody's time are the tables' own.
        faults[f"{path}.rate"] = f"Give a figure above 0 and at most 1000, got {values['rate']:g}."
        return row
    try:
        return type(row).model_validate(row.model_dump() | dict(values))
    except ValidationError as fault:
        for error in fault.errors(include_url=False):
            faults[f"{path}.{error['loc'][0]}"] = _words(error, type(row))
        return row


def _words(error: Any, model: Any) -> str:
    name = str(error["loc"][0])
    field = model.model_fields.get(name)
    if field is None:
        return "There is no such figure."
    bounds = {type(m).__name__: m for m in field.metadata}
    low = bounds["Gt"].gt if "Gt" in bounds else bounds["Ge"].ge if "Ge" in bounds else None
    high = bounds["Le"].le if "Le" in bounds else None
    least = (f"above {low:g}" if "Gt" in bounds else f"at least {low:g}") if low is not None else ""
    most = f"at most {high:g}" if high is not None else ""
    given = f", got {error['input']:g}" if isinstance(error.get("input"), int | float) else ""
    if not (least or most):
        return "This cannot be used."
    return f"Give a figure {' and '.join(filter(None, (least, most)))}{given}."
