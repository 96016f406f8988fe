"""The reasons in words a painter uses, with numbers in the contractor's units.

One sentence per rule, in its record: page, API, calendar and documents all take them from here.
"""

from dataclasses import dataclass

from amber_gable.core.windows.rules import rule
from amber_gable.core.windows.states import LimitReason
from amber_gable.units import System, show


@dataclass(frozen=True)
class Spoken:
    """A reason as it is shown: state word, short name, sentence, and where the limit is from."""

    rule: str
    short: str
    sentence: str
    margin: str
    broken: bool
    source: str
    school: int | None


def short_name(name: str) -> str:
    """Return a few words for a rule, for labels under a wall."""
    return rule(name).short


def _number(value: float, kind: str, system: System) -> str:
    if kind == "share":
        return f"{100 * value:.0f} %"
    if kind == "percent":
        return f"{value:.0f} %"
    if kind == "moisture":
        return f"{value:.1f} %"
    if kind == "angle":
        return f"{value:.1f}°"
    if kind == "hours":
        return f"{value:.1f} h"
    if kind == "film":
        return f"{value:.2f} mm"
    return show(value, kind, system)


def spoken(reason: LimitReason, system: System) -> Spoken:
    """Return a reason in words.

    Parameters
    ----------
    reason : LimitReason
    system : {"us", "metric"}
        Units to write numbers in.
    """
    row = rule(reason.rule)
    # Where a sentence of its own speaks of what lies below 0, it says how far.
    value = _number(abs(reason.value) if row.below else reason.value, row.quantity, system)
    limit = _number(reason.limit, row.quantity, system)
    sentence = row.broken if row.broken and reason.broken else row.sentence
    if row.at_zero and reason.limit == 0:
        sentence = row.at_zero
    elif row.below and reason.value < 0:
        sentence = row.below
    rain = show(reason.value, "rain", system) if sentence == row.at_zero else ""
    said = sentence.format(value=value, limit=limit, rain=rain)
    difference = "temperature difference" if row.quantity == "temperature" else row.quantity
    margin = _number(abs(reason.margin), difference, system)
    return Spoken(reason.rule, row.short, said, margin, reason.broken, row.source, row.school or None)
