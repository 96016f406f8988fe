"""The rules that weather is held to, by name: one record each, which limits, states, words and readings read.

What a rule is called, compares and says is no contractor's choice, so that it is read from the shipped table;
the limits themselves are resolved knowledge and come as arguments.
"""

from functools import cache

from amber_gable.core.knowledge import Limits, Rule, Tight
from amber_gable.core.knowledge.shipped import shipped


def rule(name: str) -> Rule:
    """Return the record of a rule."""
    return shipped().weather_rules[name]


@cache
def measured_rules() -> tuple[tuple[str, Rule], ...]:
    """Return the rules that an instrument on the wall can judge, by name."""
    return tuple((name, row) for name, row in shipped().weather_rules.items() if row.measured)


def band_of(row: Rule, limits: Limits, tight: Tight) -> float:
    """Return how much margin of a rule is near, in its unit."""
    if isinstance(row.band, float):
        return row.band
    return float(getattr(tight if row.band in type(tight).model_fields else limits, row.band))
