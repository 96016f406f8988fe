"""A contractor's own shelf: data sheets checked as strictly as the shipped ones, and laid over them.

Not here: files they come from (exchange), or where they are kept (services).
"""

import re
from collections.abc import Mapping
from typing import Any, Literal, TypeVar

from pydantic import ValidationError
from pydantic_core import ErrorDetails

from amber_gable.core.knowledge import Knowledge, Product, Sundry
from amber_gable.errors import FieldErrors

Kind = Literal["coating", "sundry"]
SHEETS: Mapping[Kind, type[Product] | type[Sundry]] = {"coating": Product, "sundry": Sundry}
SHEENS = ("flat", "low-lustre", "satin", "semi-gloss", "gloss")
_KEY = re.compile(r"[a-z0-9][a-z0-9-]{0,79}")
_Sheet = TypeVar("_Sheet", Product, Sundry)

# What a figure must lie within, so that Fahrenheit in a column of Celsius, mils in one of micrometres, or a
# fraction in one of per cent is found: wider than any real label (our assumption).
_PLAUSIBLE: Mapping[str, tuple[float, float, str]] = {
    "volume_solids_pct": (2, 100, "per cent, not a fraction"),
    "dry_film_um": (8, 2000, "micrometres, not mils: 1 mil is 25.4 µm"),
    "spread_low_m2_per_l": (0, 25, "m²/L: 400 ft²/gal are 9.8"), "spread_high_m2_per_l": (0, 25, "m²/L: 400 ft²/gal are 9.8"),
    "min_surface_temp_c": (-10, 25, "°C: 50 °F is 10"),
    "max_surface_temp_c": (20, 80, "°C: 100 °F is 38"),
    "min_air_temp_c": (-10, 25, "°C: 50 °F is 10"),
    "max_air_temp_c": (15, 60, "°C: 85 °F is 29"),
    "hold_min_surface_temp_c": (-10, 25, "°C: 36 °F is 2"),
    "max_rel_humidity_pct": (30, 100, "per cent, not a fraction"),
    "min_dew_margin_c": (0, 10, "kelvin: 5 °F is 3"),
    "max_moisture_pct": (2, 100, "per cent by the meter"),
    "rain_free_h": (0, 168, "hours"), "hold_h": (0, 336, "hours"), "touch_h": (0.05, 168, "hours"), "recoat_h": (0.05, 720, "hours"),
    "cure_h": (0, 2160, "hours: 14 days are 336"), "voc_g_l": (0, 900, "grams a litre"),
    "ready_h": (0, 2160, "hours"), "contact_min": (0, 2880, "minutes"),
}  # fmt: skip
# Columns that sheets had once and that nothing is worked by any more: kept and downloaded sheets may still have them.
_RETIRED = ("early_moisture_h", "yield_text")
# First may not be above second; and what to say.
_ORDERED = (
    ("min_surface_temp_c", "max_surface_temp_c", "The lowest surface temperature must be below the highest."),
    ("min_air_temp_c", "max_air_temp_c", "The lowest air temperature must be below the highest."),
    ("touch_h", "recoat_h", "A coat is dry to the touch before the next may follow: touch_h at most recoat_h."),
    (
        "spread_low_m2_per_l",
        "spread_high_m2_per_l",
        "The least spread must be at most the most; leave both out where there is none.",
    ),
    ("recoat_h", "cure_h", "It cures after the next coat may follow: recoat_h at most cure_h."),
)


def read_sheet(kind: Kind, key: str, values: Mapping[str, Any], knowledge: Knowledge) -> Product | Sundry:
    """Return a data sheet from plain values.

    Parameters
    ----------
    kind : {"coating", "sundry"}
    key : str
        What other tables call it: small letters, digits and hyphens.
    values : mapping
        By the columns of `Product` or `Sundry`.
    known : Knowledge
        Whose families and substrates it names.

    Raises
    ------
    FieldErrors
        Every fault, by its column.
    """
    faults: dict[str, str] = {}
    if not _KEY.fullmatch(key):
        faults["key"] = "A key has small letters, digits and hyphens, like rivermark-exterior-satin."
    model = SHEETS[kind]
    try:
        sheet = model.model_validate({name: value for name, value in values.items() if name not in _RETIRED})
    except ValidationError as fault:
        raise FieldErrors(faults | {_column(e): _words(e, model) for e in reversed(fault.errors(include_url=False))}) from fault
    faults |= _implausible(sheet)
    faults |= _strangers(sheet, knowledge) if isinstance(sheet, Product) else _strange_sundry(sheet, knowledge)
    for column, value in sheet:
        if isinstance(value, tuple) and any("|" in str(part) for part in value):
            faults[column] = "Leave out the sign |: it parts the entries of a list in a CSV."
    names = [size.name for size in sheet.sizes]
    if len(names) != len(set(names)):
        faults["sizes"] = "Two container sizes have the same name."
    if faults:
        raise FieldErrors(faults)
    return sheet


def _column(error: ErrorDetails) -> str:
    return str(error["loc"][0]) if error["loc"] else "key"


def _words(error: ErrorDetails, model: type[Product] | type[Sundry]) -> str:
    kind, name = error["type"], _column(error)
    given = error.get("input")
    said = f", got “{given}”" if isinstance(given, str | int | float) and given != "" else ""
    if kind in ("missing", "string_too_short"):
        return f"Give {name}; a data sheet without it cannot be worked by."
    if kind == "extra_forbidden":
        return f"There is no column {name}. There are: {', '.join(model.model_fields)}."
    if kind in ("greater_than", "greater_than_equal", "less_than", "less_than_equal"):
        bound = next(iter(error["ctx"].values()))
        more = {"greater_than": "above", "greater_than_equal": "at least", "less_than": "below", "less_than_equal": "at most"}[kind]
        return f"{name} must be {more} {bound:g}{said}."
    if kind == "literal_error":
        return f"{name} must be {error['ctx']['expected']}{said}."
    if kind.startswith(("float", "int")):
        return f"{name} must be a number{said}."
    return f"{name}: {error['msg'].lower()}{said}."


def _implausible(sheet: Product | Sundry) -> dict[str, str]:
    faults = {}
    for name, (low, high, unit) in _PLAUSIBLE.items():
        value = getattr(sheet, name, None)
        if value is not None and not low <= value <= high:
            faults[name] = f"{name} must be {low:g} to {high:g} ({unit}), got {value:g}."
    for first, second, words in _ORDERED:
        if hasattr(sheet, second) and getattr(sheet, first) > getattr(sheet, second):
            faults.setdefault(first, words)
    return faults


def _strangers(product: Product, knowledge: Knowledge) -> dict[str, str]:
    families = knowledge.systems.families
    coats = [key for key, row in families.items() if row.role not in ("sundry", "chemical")]
    grounds = sorted({row.family for row in knowledge.substrates.values()})
    faults = {}
    if product.family not in coats:
        faults["family"] = f"There is no family “{product.family}” of coatings. There are: {', '.join(coats)}."
    for column, allowed in (("goes_on", grounds), ("not_on", list(knowledge.substrates)), ("topped_by", coats)):
        strange = [value for value in getattr(product, column) if value not in allowed]
        if strange:
            faults[column] = f"There is no “{strange[0]}” here. There are: {', '.join(allowed)}."
    if product.sheen and product.sheen not in SHEENS:
        faults["sheen"] = f"sheen must be one of {', '.join(SHEENS)}, got “{product.sheen}”."
    return faults


def _strange_sundry(sundry: Sundry, knowledge: Knowledge) -> dict[str, str]:
    faults = {}
    allowed = [key for key, row in knowledge.systems.families.items() if row.role in ("sundry", "chemical")]
    if sundry.family not in allowed:
        faults["family"] = f"There is no family “{sundry.family}” of sundries. There are: {', '.join(allowed)}."
    if any(part < 0 or part > 200 for part in sundry.mix) or len(sundry.mix) not in (0, 2):
        faults["mix"] = "Give the parts of water to one of concentrate twice: strongest and weakest, like 3 | 10."
    return faults


def with_shelf(knowledge: Knowledge, coatings: Mapping[str, Product], sundries: Mapping[str, Sundry]) -> Knowledge:
    """Return the knowledge with a contractor's own sheets laid over the shipped ones; theirs win."""
    if not coatings and not sundries:
        return knowledge
    return knowledge.model_copy(update={"products": {**knowledge.products, **coatings}, "sundries": {**knowledge.sundries, **sundries}})
