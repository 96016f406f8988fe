"""Ages: since when something is there, as painters say it ("2014", "5/2026", "May 2026"), and how many years that is.

Pure functions on dates.
Not here: what an age means for a material (core.systems.tags).
"""

import calendar
import re
from dataclasses import dataclass
from datetime import date

from amber_gable.errors import PlanError

FIRST_YEAR = 1600
_MONTHS = {name.lower(): n for names in (calendar.month_name, calendar.month_abbr) for n, name in enumerate(names) if name}
_FORMS = (
    re.compile(r"(?P<year>\d{4})"),
    re.compile(r"(?P<month>\d{1,2})\s*[/.-]\s*(?P<year>\d{4})"),
    re.compile(r"(?P<year>\d{4})\s*[/.-]\s*(?P<month>\d{1,2})"),
    re.compile(r"(?P<named>[A-Za-z]+)\.?\s+(?P<year>\d{4})"),
)
_DAYS_A_YEAR = 365.25


@dataclass(frozen=True)
class Since:
    """Year in which something was coated or built, and the month where it is known."""

    year: int
    month: int | None = None

    def __str__(self) -> str:
        return f"{calendar.month_name[self.month]} {self.year}" if self.month else str(self.year)


def since_of(text: str) -> Since:
    """Return the year and month of a text.

    Raises
    ------
    PlanError
        If it is no year and no month of a year.
    """
    for form in _FORMS:
        match = form.fullmatch(text.strip())
        if match is None:
            continue
        found = match.groupdict()
        month = _MONTHS.get(found["named"].lower(), 0) if found.get("named") else int(found.get("month") or 0) or None
        if month is None or 1 <= month <= 12:
            return Since(int(found["year"]), month)
    raise PlanError("A year like 2014, or month and year like May 2026; empty if nobody knows.")


def check_since(since: Since, today: date) -> None:
    """Refuse a time that has not come, and one before anything was painted that still stands.

    Raises
    ------
    PlanError
    """
    if since.year < FIRST_YEAR:
        raise PlanError(f"{since.year} is before any paint that still holds: type the year like 2014, or leave it empty.")
    if (since.year, since.month or 1) > (today.year, today.month):
        raise PlanError(f"{since} has not come yet: today is {today:%B %Y}. When was it, or is the field to stay empty?")


def age_y(since: Since, today: date) -> float:
    """Return how many years ago something was, as few as it can have been where only the year is known.

    Parameters
    ----------
    since : Since
    today : date

    Returns
    -------
    float
        Years, at least 0. From two years on calendar years are counted, as painters count them.
    """
    years = today.year - since.year
    if since.month is None and years >= 2:
        return float(years)
    begin = date(since.year, since.month, 15) if since.month else min(date(since.year, 12, 31), today)
    return max((today - begin).days / _DAYS_A_YEAR, 0.0)
