"""The contractor's rates as a form: every figure in the units one thinks in, read back into SI."""

from collections.abc import Sequence
from dataclasses import dataclass

from amber_gable.core.knowledge import Money
from amber_gable.core.price.rates import RateFigure, Value
from amber_gable.services.office.rates import WRITING
from amber_gable.units import System, convert, money_symbol, show, symbol
from amber_gable.web.forms import TypedForm

# Kind of quantity: SI unit, and what a bare number means by system.
_BARE: dict[str, tuple[str, dict[System, str]]] = {
    "rate": ("m2/h", {"us": "ft2/h", "metric": "m2/h"}),
    "run": ("m", {"us": "ft", "metric": "m"}),
    "length": ("m", {"us": "ft", "metric": "m"}),
    "volume": ("L", {"us": "gal", "metric": "L"}),
}
# Money by the face that is scaffolded: by which area it is said.
_FACE: dict[System, str] = {"us": "ft2", "metric": "m2"}
_WHOLE = ("valid_days", "lead_days")


@dataclass(frozen=True)
class FigureField:
    """A figure as its field shows it."""

    figure: RateFigure
    unit: str
    typed: str
    hint: str


def _unit(figure: RateFigure, system: System, money: Money) -> str:
    if figure.kind in ("rate", "volume"):
        return symbol(figure.kind, system)
    if figure.kind == "per-area":
        return f"{money_symbol(money.currency, money.locale)}/{symbol('area', system)}"
    if figure.kind == "run":
        return f"{symbol('run', system)}/h"
    mark = money_symbol(money.currency, money.locale)
    return figure.unit.replace("money", mark) if figure.unit.startswith("money") else figure.unit if figure.kind != "length" else ""


def typed(value: float, kind: str, system: System) -> str:
    """Return a figure as its field would be filled in: short, and read back to the same."""
    if kind == "length":
        return show(value, "length", system)
    if kind == "per-area":
        return f"{value / convert(1.0, 'm2', _FACE[system]):.6g}"
    if kind:
        si, bare = _BARE[kind]
        value = convert(value, si, bare[system])
    return f"{value:.6g}"


def groups_of(figures: Sequence[RateFigure], system: System, money: Money) -> dict[str, list[FigureField]]:
    """Return every figure by its group."""
    out: dict[str, list[FigureField]] = {}
    for figure in figures:
        hint = f"ours; shipped: {typed(figure.shipped, figure.kind, system)}" if figure.is_own else figure.source
        out.setdefault(figure.group, []).append(
            FigureField(figure, _unit(figure, system, money), typed(figure.value, figure.kind, system), hint)
        )
    return out


def read_rates(form: TypedForm, figures: Sequence[RateFigure], system: System) -> dict[str, Value]:
    """Return the figures that a form changes; one that reads as it is shown stays exactly as it is.

    Raises
    ------
    FieldErrors
    """
    rates: dict[str, Value] = {}
    for figure in figures:
        text = form.raw(figure.path)
        if not text and figure.path not in form.values:
            continue
        if text == typed(figure.value, figure.kind, system):
            continue
        if figure.kind == "per-area":
            value = form.number(figure.path, "An amount of money, please.") * convert(1.0, "m2", _FACE[system])
        elif figure.kind:
            kind = "length" if figure.kind == "run" else figure.kind
            value = form.si(figure.path, kind, _BARE[figure.kind][1][system])
        else:
            value = form.number(figure.path, "A number, please.")
        rates[figure.path] = int(value) if figure.path.rsplit(".", 1)[1] in _WHOLE and value == value and value == int(value) else value
    for path in WRITING:
        if form.raw(path):
            rates[path] = form.raw(path)
    form.done()
    return rates
