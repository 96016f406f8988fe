"""Hire by country: what a tower, a lift or a scaffold usually costs where the house stands.

Pure functions.
Not here: how many days it is needed (takeoff.ways_up), machines that are the contractor's own (planning).
"""

from collections.abc import Mapping

from amber_gable.core.knowledge import Access, Knowledge

_FIGURES = ("hire_per_day", "delivery", "hire_per_m2", "hire_per_m2_week")


def access_in(knowledge: Knowledge, country: str, shipped: Mapping[str, Access]) -> Mapping[str, Access]:
    """Return the ways up with the hire that is usual in a country.

    Parameters
    ----------
    knowledge : Knowledge
        With the contractor's own figures, which win.
    country : str
        Of the countries table.
    shipped : mapping of str to Access
        As the tables have them: a figure that differs is the contractor's own.
    """
    usual = knowledge.countries[country].hire
    table = dict(knowledge.access)
    for key, rates in usual.items():
        row, first = table[key], shipped[key]
        there = {
            name: getattr(rates, name)
            for name in _FIGURES
            if getattr(rates, name) is not None and getattr(row, name) == getattr(first, name)
        }
        table[key] = row.model_copy(update=there)
    return table
