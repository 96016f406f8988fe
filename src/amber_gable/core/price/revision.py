"""Revisions: a take-off as it was agreed, and what differs from it now, line by line.

A snapshot holds plain values, so that it can be kept and compared years later, whatever the tables say then.
Not here: who signed it (services).
"""

from collections.abc import Mapping
from dataclasses import dataclass
from typing import Any

VERSION = 1
# Below these nothing has changed: half a hundredth of a litre, a minute, half a cent, half a hundredth of a square metre.
_LITRES, _HOURS, _MONEY, _AREA = 0.005, 0.0166, 0.005, 0.005
# A part that is as it was, but for its share of what is laid on all of them, is no line of its own.
_SHARE = 0.01
_WORDS = (("product", "product"), ("colour", "colour"), ("sheen", "sheen"), ("coats", "coats"), ("method", "method"))


@dataclass(frozen=True)
class PartNow:
    """One part as a snapshot keeps it.

    Parameters
    ----------
    key, name : str
    product, colour, sheen, method : str
        Of its finish, in words.
    coats : int
    area_m2, litres, hours, money : float
        Money with its share of overhead, margin and tax.
    steps : tuple of str
    """

    key: str
    name: str
    product: str
    colour: str
    sheen: str
    method: str
    coats: int
    area_m2: float
    litres: float
    hours: float
    money: float
    steps: tuple[str, ...]


@dataclass(frozen=True)
class Snapshot:
    """A take-off and its price: its parts, and what belongs to none of them."""

    parts: tuple[PartNow, ...]
    litres: float
    hours: float
    days: int
    net: float
    tax: float
    total: float
    cans: tuple[str, ...]

    def plain(self) -> dict[str, Any]:
        """Return plain values, to be kept."""
        parts = [{**p.__dict__, "steps": list(p.steps)} for p in self.parts]
        return {**self.__dict__, "parts": parts, "cans": list(self.cans), "version": VERSION}


def read_snapshot(values: Mapping[str, Any]) -> Snapshot:
    """Return a snapshot from plain values."""
    rest = {k: v for k, v in values.items() if k not in ("version", "parts", "cans")}
    parts = tuple(PartNow(**{**p, "steps": tuple(p["steps"])}) for p in values["parts"])
    return Snapshot(parts=parts, cans=tuple(values["cans"]), **rest)


@dataclass(frozen=True)
class ChangedLine:
    """Changes on one part; `what` has one sentence for each.

    Parameters
    ----------
    area_m2 : tuple of float or None
        Before and after; None where it is as it was.
    """

    key: str
    name: str
    what: tuple[str, ...]
    litres: float
    hours: float
    money: float
    area_m2: tuple[float, float] | None = None


@dataclass(frozen=True)
class ChangeOrder:
    """Difference between two take-offs.

    Parameters
    ----------
    lines : tuple of ChangedLine
        The last one, without a key, is what belongs to no part: whole cans, set-up days, hire, rounding. Lines add up.
    """

    lines: tuple[ChangedLine, ...]
    litres: float
    hours: float
    days: int
    money: float

    @property
    def is_empty(self) -> bool:
        return not self.lines


def _said(before: PartNow, after: PartNow) -> list[str]:
    said = [
        f"{words}: {getattr(before, name) or 'none'} → {getattr(after, name) or 'none'}"
        for name, words in _WORDS
        if getattr(before, name) != getattr(after, name)
    ]
    said += [f"with: {step.lower()}" for step in after.steps if step not in before.steps]
    said += [f"without: {step.lower()}" for step in before.steps if step not in after.steps]
    return said


def _line(before: PartNow | None, after: PartNow | None) -> ChangedLine | None:
    if before is None or after is None:
        one = before or after
        assert one is not None
        sign, word = (1, "new") if before is None else (-1, "left out")
        return ChangedLine(one.key, one.name, (word,), sign * one.litres, sign * one.hours, sign * one.money)
    litres, hours, money = after.litres - before.litres, after.hours - before.hours, after.money - before.money
    said = _said(before, after)
    area = (before.area_m2, after.area_m2) if abs(before.area_m2 - after.area_m2) > _AREA else None
    if not said and area is None and abs(litres) < _LITRES and abs(hours) < _HOURS and abs(money) < max(_MONEY, _SHARE * before.money):
        return None
    return ChangedLine(after.key, after.name, tuple(said) or (() if area else ("rates or quantities",)), litres, hours, money, area)


def change_order(before: Snapshot, after: Snapshot) -> ChangeOrder:
    """Return what differs, part by part; what is left of the total stands in a line of its own."""
    old, new = {p.key: p for p in before.parts}, {p.key: p for p in after.parts}
    keys = dict.fromkeys([*new, *old])
    lines = [line for key in keys if (line := _line(old.get(key), new.get(key))) is not None]
    litres, hours, money = after.litres - before.litres, after.hours - before.hours, after.total - before.total
    rest = (litres - sum(v.litres for v in lines), hours - sum(v.hours for v in lines), money - sum(v.money for v in lines))
    if abs(rest[0]) >= _LITRES or abs(rest[1]) >= _HOURS or abs(rest[2]) >= _MONEY:
        lines.append(ChangedLine("", "Whole cans, set-up, access, rounding", ("what belongs to no single part",), *rest))
    return ChangeOrder(tuple(lines), litres, hours, after.days - before.days, money)
