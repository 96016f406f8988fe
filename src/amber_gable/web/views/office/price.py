"""Price in words and drawings: the spread of what is not known, warranties, differences."""

from collections.abc import Callable
from dataclasses import dataclass
from typing import Any

from markupsafe import Markup

from amber_gable.core.coat.lives import Lasting, lasting
from amber_gable.core.knowledge import Knowledge, UnitPrice
from amber_gable.core.price.range import PriceRange
from amber_gable.core.price.revision import ChangedLine
from amber_gable.drawing.paint.spread import spread_svg
from amber_gable.services.systems.specs import grade_of
from amber_gable.services.takeoff.job import JobTakeoff
from amber_gable.store.models import Extra
from amber_gable.units import System, convert, show


def spread_of(price_range: PriceRange, money: Callable[..., str]) -> Markup:
    """Return what drives the price, drawn."""
    rows = [
        (d.label, price_range.likely - d.down(price_range.likely), price_range.likely + d.up(price_range.likely))
        for d in price_range.drivers
        if d.spread(price_range.likely) >= 1
    ]
    drawn = [(name, low, high, money(low, cents=False), money(high, cents=False)) for name, low, high in rows]
    return Markup(spread_svg(price_range.likely, drawn, "What drives the price, each from its low to its high end"))


@dataclass(frozen=True)
class Warranty:
    """A warranty and the parts that it covers."""

    last: Lasting
    parts: tuple[str, ...]


def warranties(takeoff: JobTakeoff, knowledge: Knowledge) -> list[Warranty]:
    """Return warranty terms by what is coated, with the parts they hold for."""
    by_life: dict[tuple[str, int], tuple[Lasting, list[str]]] = {}
    for part in takeoff.parts:
        if part.lines:
            last = lasting(part.spec.part.facts, part.spec.system, knowledge, grade_of(part.spec, knowledge))
            by_life.setdefault((last.key, last.warranty_years), (last, []))[1].append(part.name)
    return [Warranty(last, tuple(names)) for last, names in by_life.values()]


def signed(value: float, money: Callable[..., str], *, cents: bool = True) -> str:
    """Return a difference with its sign: "+$412", "−$38"."""
    if round(value, 2) == 0:
        return "no change"
    return f"{'+' if value > 0 else '−'}{money(abs(value), cents=cents)}"


def more(value: float, decimals: int = 1) -> str:
    """Return a difference in hours or days with its sign; "0" where it rounds to none."""
    text = f"{value:+.{decimals}f}".replace("-", "−")
    return "0" if not text.strip("+−0.") else text


def litres(value: float, show: Callable[..., str], system: Any) -> str:
    text = show(abs(value), "volume", system)
    return f"{'+' if value > 0 else '−'}{text}" if abs(value) >= 0.005 else "0"


def changed_words(line: ChangedLine, show: Callable[..., str], system: Any) -> str:
    """Return what changed on a part, areas in the job's units."""
    area = [f"area: {show(line.area_m2[0], 'area', system)} → {show(line.area_m2[1], 'area', system)}"] if line.area_m2 else []
    return "; ".join([*line.what, *area])


_UNITS = {"m": "a metre", "piece": "each", "m2": "a m²", "h": "an hour"}


def unit_price_words(row: UnitPrice, money: Callable[..., str], system: Any) -> str:
    """Return what a unit costs, by the foot where the job is measured in feet."""
    if row.unit == "m" and system == "us":
        return f"{money(row.price * convert(1, 'ft', 'm'))} a foot"
    return f"{money(row.price)} {_UNITS[row.unit]}"


def extra_words(extra: Extra, knowledge: Knowledge, system: System) -> str:
    """Return by which unit price an extra is reckoned, and how much of it."""
    row = knowledge.unit_prices[extra.unit_price]
    amount = show(extra.quantity, "length", system) if row.unit == "m" else f"{extra.quantity:g}"
    return f"{row.label}: {amount}"
