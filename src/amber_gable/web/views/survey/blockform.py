"""The form of a block, read; the same for a new house and for what stands against it."""

from typing import Any

from amber_gable.core.geometry import Block
from amber_gable.store.models import BlockRow
from amber_gable.units import System
from amber_gable.web.forms import TypedForm

SIDE_WORDS = (("0", "its front"), ("1", "its left side"), ("2", "its back"), ("3", "its right side"))
KIND_WORDS = (
    ("wing", "Wing or extension"), ("lean-to", "Lean-to"), ("porch", "Porch, open"), ("dormer", "Dormer"), ("bay", "Bay"),
    ("chimney", "Chimney"), ("deck", "Deck"),
)  # fmt: skip
ROOF_WORDS = (("gable", "Gable"), ("hip", "Hip"), ("shed", "Shed, falling to its front"), ("flat", "Flat"), ("none", "None"))
RIDGE_WORDS = (("along", "along the front"), ("to back", "from front to back"))

# What each kind is asked for, so that nobody reads fields that mean nothing for it.
_ASKED: dict[str, tuple[str, ...]] = {
    "house": ("across_m", "deep_m", "eaves_height_m", "ridge_height_m", "overhang_m", "plinth_height_m"),
    "wing": ("across_m", "projects_m", "eaves_height_m", "ridge_height_m", "overhang_m", "plinth_height_m"),
    "lean-to": ("across_m", "projects_m", "eaves_height_m", "ridge_height_m", "overhang_m", "plinth_height_m"),
    "porch": ("across_m", "projects_m", "eaves_height_m", "ridge_height_m", "overhang_m"),
    "dormer": ("across_m", "setback_m", "eaves_height_m", "ridge_height_m", "overhang_m"),
    "bay": ("across_m", "projects_m", "splay_m", "base_m", "eaves_height_m", "ridge_height_m", "overhang_m", "plinth_height_m"),
    "chimney": ("across_m", "deep_m", "setback_m", "eaves_height_m"),
    "deck": ("across_m", "deep_m", "eaves_height_m", "rail_height_m", "steps_width_m", "tread_m", "riser_m"),
}
_OPTIONAL = {"overhang_m", "plinth_height_m", "base_m", "splay_m", "rail_height_m", "steps_width_m", "tread_m", "riser_m", "setback_m"}
_DEFAULTS = {"tread_m": 0.28, "riser_m": 0.18}
_LABELS: dict[str, tuple[str, str]] = {
    "across_m": ("Width along its front", "Like 32' 6\" or 9.9 m."),
    "deep_m": ("Depth, front to back", ""),
    "projects_m": ("Stands out by", "From the wall it stands against."),
    "setback_m": ("Set back from the wall", "Its front, inward from the wall below."),
    "eaves_height_m": ("Eaves height", 'Or by courses: 49 x 4 1/2"'),
    "ridge_height_m": ("Ridge height", "Ground to the ridge; top of a shed."),
    "overhang_m": ("Overhang", "Of the roof beyond the wall."),
    "plinth_height_m": ("Plinth height", "Masonry foot; empty if none."),
    "base_m": ("Underside above ground", "Empty where it stands on the ground."),
    "splay_m": ("Front corners cut back by", "Empty for square corners."),
    "rail_height_m": ("Railing height", "Empty for none."),
    "steps_width_m": ("Width of the steps", ""),
    "tread_m": ("Tread", ""),
    "riser_m": ("Riser", ""),
}
_HEIGHT_WORDS = {"chimney": ("Top", "Ground to its top."), "deck": ("Deck level", "Ground to the boards.")}


def fields_of(kind: str) -> list[tuple[str, str, str, bool]]:
    """Return name, label, hint and whether it must be filled, of what a kind of block is asked for."""
    fields = []
    for name in _ASKED[kind]:
        label, hint = _LABELS[name]
        if name == "eaves_height_m" and kind in _HEIGHT_WORDS:
            label, hint = _HEIGHT_WORDS[kind]
        if name == "deep_m" and kind == "deck":
            hint = "Away from the wall; the whole deck."
        needs = name not in _OPTIONAL and name != "ridge_height_m"
        fields.append((name, label, hint, needs))
    return fields


def has_roof_choice(kind: str) -> bool:
    return kind not in ("chimney", "deck")


def value_of(row: BlockRow, name: str) -> float | None:
    """Return what a field of a block shows; nothing for what is not there."""
    if name == "setback_m":
        return max(-row.projects_m, 0.0)
    value = float(getattr(row, name))
    return None if name in _OPTIONAL and value == 0 else value


def read_block(form: TypedForm, kind: str, system: System, key: str = "", name: str = "", prefix: str = "") -> Block:
    """Return the block that a form describes; faults are left in the form, to be raised together.

    Parameters
    ----------
    form : TypedForm
    kind : str
        Of `KIND_WORDS`, or "house".
    """
    values: dict[str, Any] = {}
    roof = form.choice(f"{prefix}roof", [r for r, _ in ROOF_WORDS], "Choose the form of its roof.") if has_roof_choice(kind) else ""
    if kind == "chimney":
        roof = "flat"
    elif kind == "deck":
        roof = "none"
    for field in _ASKED[kind]:
        raw = form.raw(field)
        if not raw and (field in _OPTIONAL or (field == "ridge_height_m" and roof in ("flat", "none"))):
            values[field] = _DEFAULTS.get(field, 0.0)
        else:
            values[field] = form.quantity(field, "length", system)
    setback = values.pop("setback_m", None)
    if setback is not None:
        values["projects_m"] = -setback
    if kind in ("wing", "lean-to", "porch", "bay"):
        values["deep_m"] = values["projects_m"]
    if kind == "deck":
        values["projects_m"] = values["deep_m"]
        values["steps"] = form.whole("steps", 0, 40, "Between 0 and 40 steps.") if form.raw("steps") else 0
    if kind == "dormer":
        values["deep_m"] = 1.0
    if kind != "house":
        values["parent"] = form.raw("parent")
        values["side"] = form.whole("side", 0, len(SIDE_WORDS) - 1, "Choose the side it stands against.") if values["parent"] else 0
        values["from_left_m"] = form.quantity("from_left_m", "length", system) if form.raw("from_left_m") else 0.0
    ridge = form.choice("ridge_runs", [r for r, _ in RIDGE_WORDS], "Say which way the ridge runs.") if has_roof_choice(kind) else "along"
    return Block(key=key, name=name or dict(KIND_WORDS).get(kind, "House"), kind=kind, roof=roof, ridge_runs=ridge, **values)  # type: ignore[arg-type]
