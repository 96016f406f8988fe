"""The frame of a plan: the forecast and beyond it days that share out its weather; the hours of work."""

from collections.abc import Callable
from dataclasses import replace
from datetime import UTC, date, datetime, timedelta
from functools import lru_cache
from typing import Any, TypeVar

import numpy as np
from numpy.typing import NDArray

from amber_gable.core.air.beyond import extended
from amber_gable.core.knowledge.assumptions import assumed
from amber_gable.services.app.scope import Scope
from amber_gable.services.jobs.rules import JobRules
from amber_gable.services.outlook.outlook import Outlook, windows_of

PLAN_DAYS = int(assumed("plan_days"))
# From which other courses of the weather are cut, and in which the last coats dry.
_SPARE_DAYS = 10
FAR = "far"
_T = TypeVar("_T")


class Passing(Scope):
    """A scope that keeps what it computes far ahead for as long as a plan is made, and no longer: it is large."""

    def __init__(self, scope: Scope) -> None:
        super().__init__(scope.app, scope.actor, scope.contractor_id)
        self._far: dict[Any, Any] = {}

    def cached(self, key: Any, compute: Callable[[], _T]) -> _T:
        if FAR not in key:
            return super().cached(key, compute)
        if key not in self._far:
            self._far[key] = compute()
        found: _T = self._far[key]
        return found


def far_outlook(scope: Scope, ahead: Outlook) -> Outlook:
    """Return an outlook that goes on beyond its forecast."""
    key = (*ahead.key, FAR)

    def compute() -> Outlook:
        until = ahead.hour + timedelta(days=PLAN_DAYS + _SPARE_DAYS)
        weather = extended(ahead.weather, until.timestamp(), ahead.hour.timestamp())
        longer = replace(ahead, weather=weather)
        windows = windows_of(scope, longer, ahead, ahead.surfaces, ahead.observations, ahead.windows.products, ahead.rules)
        return replace(longer, key=key, windows=windows, near=ahead)

    return scope.cached(key, compute)


def known_until_s(ahead: Outlook) -> float:
    """Return to where the forecast of an outlook reaches [s since 1970]."""
    return float(ahead.weather.epoch_s[-1])


# Of the time that setting up and cleaning up take, what lies at the morning's end of the day (our assumption).
_MORNING_SHARE = 0.6


def working_hours(outlook: Outlook, rules: JobRules, set_up_h: float = 0.0, country: str = "") -> NDArray[np.bool_]:
    """Return the quarter-hours in which the crew works, shape (Q,).

    Parameters
    ----------
    set_up_h : float
        Of each day for setting up and cleaning up: at its ends nothing else is done.
    country : str
        Whose public holidays are no working days; empty for none.
    """
    epoch = outlook.windows.climate.grid.epoch_s
    out = np.zeros(len(epoch), dtype=bool)
    years = {datetime.fromtimestamp(float(second), UTC).year for second in (epoch[0], epoch[-1])}
    off = public_holidays(country, tuple(sorted(years)), rules.region)
    starts, ends = rules.day_starts_h + _MORNING_SHARE * set_up_h, rules.day_ends_h - (1 - _MORNING_SHARE) * set_up_h
    for q, second in enumerate(epoch):
        local = datetime.fromtimestamp(float(second), UTC).astimezone(outlook.zone)
        hour = local.hour + local.minute / 60
        out[q] = starts <= hour < ends and (rules.works_sundays or (local.weekday() != 6 and local.date() not in off))
    return out


def loud_hours(outlook: Outlook, rules: JobRules) -> NDArray[np.bool_]:
    """Return the quarter-hours in which machines may run that are heard next door, shape (Q,)."""
    epoch = outlook.windows.climate.grid.epoch_s
    locals_ = (datetime.fromtimestamp(float(second), UTC).astimezone(outlook.zone) for second in epoch)
    return np.array([rules.loud_from_h <= local.hour + local.minute / 60 < rules.loud_until_h for local in locals_])


@lru_cache(maxsize=64)
def public_holidays(country: str, years: tuple[int, ...], region: str = "") -> frozenset[date]:
    """Return the public holidays of a country, or of a part of it, in some years; none where the country is not known."""
    import holidays

    if country.upper() not in holidays.list_supported_countries(include_aliases=True):
        return frozenset()
    return frozenset(holidays.country_holidays(country.upper(), subdiv=region if is_region(country, region) else None, years=years))


def is_region(country: str, region: str) -> bool:
    """Return whether a country has a part of this name whose holidays are known."""
    import holidays

    known = holidays.list_supported_countries(include_aliases=True)
    return region in known.get(country.upper(), ())
