"""The outlook of a plan: the forecast, and beyond it days that share out its weather; an expectation, drawn as such."""

from collections.abc import Callable
from dataclasses import replace
from datetime import timedelta
from typing import Any, TypeVar

from amber_gable.core.air.beyond import extended
from amber_gable.core.knowledge.assumptions import assumed
from amber_gable.core.windows.run import windows_under
from amber_gable.services.app.scope import Scope
from amber_gable.services.outlook.outlook import Outlook

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
        windows = scope.calculated(
            windows_under, ahead.place, weather, ahead.surfaces, ahead.observations, ahead.windows.products, ahead.rules
        )  # fmt: skip
        return replace(ahead, key=key, windows=windows, weather=weather)

    return scope.cached(key, compute)


def known_until_s(ahead: Outlook) -> float:
    """Return to where the forecast of an outlook reaches [s since 1970]."""
    return float(ahead.weather.epoch_s[-1])
