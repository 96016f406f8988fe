"""A check of one rule against the weather, and what it is held to: house rules and what a job's site asks besides.

Not here: the rules themselves (limits, steps), or what checks make of an hour (states).
"""

from dataclasses import dataclass, replace
from typing import Literal

import numpy as np
from numpy.typing import NDArray

from amber_gable.core.air.humid import Array
from amber_gable.core.knowledge import Limits, Product, Spray, Tight
from amber_gable.core.wall.climate import Climate
from amber_gable.core.windows.rules import band_of, rule


@dataclass(frozen=True)
class HouseRules:
    """House rules of the contractor, resolved for one job.

    Parameters
    ----------
    max_wind_m_s : float
        By access and method.
    max_rain_probability_pct : float
        Over application and the time in which the film bears no rain.
    sun_rule : {"shade", "surface-cap"}
        School 2 of the handbook: follow the shade strictly, or let the surface decide.
    limits, tight : knowledge rows
    young_share : float
        School 21: how far a film must have come toward rain-ready to be young no longer, 0 to 1.
    is_cold_school : bool
        School 19: cold nights with a cold-rated product, one to two warm hours after the last stroke.
    """

    max_wind_m_s: float
    max_rain_probability_pct: float
    sun_rule: Literal["shade", "surface-cap"]
    limits: Limits
    tight: Tight
    site: "SiteLimits | None" = None
    young_share: float = 0.5
    is_cold_school: bool = False

    def after_h(self, product: Product) -> float:
        """Return for how long a coat must stay above the least temperature of application and above the dew point [h].

        With a cold-rated product the school of cold nights counts the warm hours that its label asks for.
        """
        if self.is_cold_school and product.min_surface_temp_c <= self.limits.cold_rated_c:
            return min(self.limits.after_application_h, product.hold_h)
        return self.limits.after_application_h


@dataclass(frozen=True)
class SiteLimits:
    """Limits of a job beyond those of reckonings.md: moisture, deep tints, and for a sprayer property downwind.

    Parameters
    ----------
    spray : Spray or None
        None for brush and roller.
    property_deg : tuple of float
        Bearings from the house at which somebody's property stands.
    property_all_round : bool
        Something stands at no known bearing: any wind carries to it.
    thunder_s : tuple of (float, float)
        Seconds since 1970, from when to when nobody goes up: thunder was heard.
    held_by : tuple of str
        Rules of what is not cleared here, whatever the weather: "lead", "asbestos", "silica", "patch".
    """

    spray: Spray | None = None
    property_deg: tuple[float, ...] = ()
    property_all_round: bool = False
    thunder_s: tuple[tuple[float, float], ...] = ()
    held_by: tuple[str, ...] = ()

    def is_downwind(self, wind_from_deg: Array | None, spread_deg: float) -> NDArray[np.bool_] | np.bool_:
        """Return when the wind carries to somebody's property, shape as given; always where its direction is not known."""
        if self.property_all_round or (wind_from_deg is None and self.property_deg):
            return np.bool_(True)
        if wind_from_deg is None or not self.property_deg:
            return np.bool_(False)
        to = wind_from_deg[None, :] + 180 - np.array(self.property_deg)[:, None]
        result: NDArray[np.bool_] = (np.abs((to + 180) % 360 - 180) <= spread_deg).any(axis=0)
        return result | np.isnan(wind_from_deg)


@dataclass(frozen=True)
class Check:
    """One rule against the weather.

    Parameters
    ----------
    rule : str
        Name from reckonings.md.
    limit : float or ndarray, shape (S,) or (S or 1, Q)
        In the rule's own unit; one for each surface where their products differ, for each instant where it goes by the wind.
    margin : ndarray, shape (S or 1, Q)
        Distance to the limit, negative when broken.
    band : float
        Scale for ranking: how much margin is "near".
    is_tight : ndarray of bool, shape (S or 1, Q), optional
        Where the hour is tight though nothing is broken; never where absent.
    sense : {1, -1}
        1 where the value must stay above the limit, -1 where below.
    aspect : str
        Tells two checks of one rule apart: the dew point now and in the hours after, the chance of rain and its amount.
    values : ndarray, shape (S or 1, Q), optional
        What is shown, where it does not follow from limit and margin.
    """

    rule: str
    limit: float | Array
    margin: Array
    band: float
    is_tight: np.ndarray | None = None
    sense: int = 1
    aspect: str = ""
    values: Array | None = None

    def limit_of(self, surface: int, instant: int) -> float:
        if isinstance(self.limit, float | int):
            return float(self.limit)
        row = self.limit[0 if self.limit.shape[0] == 1 else surface]
        return float(row if self.limit.ndim == 1 else row[instant])

    def value(self, surface: int, instant: int) -> float:
        row = 0 if self.margin.shape[0] == 1 else surface
        if self.values is not None:
            return float(self.values[row, instant])
        return self.limit_of(surface, instant) + self.sense * float(self.margin[row, instant])

    def of_rows(self, rows: list[int]) -> "Check":
        """Return the check of some of the surfaces; its limit is one of all."""
        own = rows if self.margin.shape[0] > 1 else [0]
        tight = None if self.is_tight is None else self.is_tight[own]
        return replace(self, margin=self.margin[own], is_tight=tight, values=None if self.values is None else self.values[own])

    def over(self, count: int) -> "Check":
        """Return the check over `count` instants: beyond its own it has nothing to say, and its last values stay."""
        more = ((0, 0), (0, max(count - self.margin.shape[1], 0)))
        tight = None if self.is_tight is None else np.pad(self.is_tight, more)
        values = None if self.values is None else np.pad(self.values, more, mode="edge")
        return replace(self, margin=np.pad(self.margin, more, constant_values=np.inf), is_tight=tight, values=values)


def forward_min(values: Array, steps: int) -> Array:
    """Return the least of each value and the `steps` that follow it, shape (..., Q).

    Windows shorten at the end of the data. Doubling: about log2(steps) passes.

    Parameters
    ----------
    values : ndarray, shape (..., Q)
    steps : int
        How many instants ahead count too.
    """
    out = values.copy()
    covered = 1
    while covered * 2 <= steps + 1:
        np.minimum(out[..., :-covered], out[..., covered:], out=out[..., :-covered])
        covered *= 2
    rest = steps + 1 - covered
    if rest and rest < out.shape[-1]:
        tail = out[..., rest:].copy()
        np.minimum(out[..., :-rest], tail, out=out[..., :-rest])
    return out


def kept(
    name: str, margin: Array, limit: float | Array, rules: HouseRules, *, is_tight: np.ndarray | None = None, aspect: str = "",
    values: Array | None = None,
) -> Check:  # fmt: skip
    """Return the check of a rule from its margin: its sense and its band are those of its record; tight only where it is said.

    Parameters
    ----------
    name : str
        Of the rule.
    margin : ndarray, shape (S or 1, Q)
        Distance to the limit in the rule's unit, negative when broken.
    limit : float or ndarray, shape (S,) or (S or 1, Q)
        In the rule's unit.
    rules : HouseRules
        Whose bands hold.
    is_tight : ndarray of bool, shape (S or 1, Q), optional
        Where the hour is tight though nothing is broken.
    aspect : str
        Tells two checks of one rule apart.
    values : ndarray, shape as `margin`, optional
        What is shown, where it does not follow from limit and margin.
    """
    row = rule(name)
    return Check(name, limit, margin, band_of(row, rules.limits, rules.tight), is_tight, row.sense, aspect, values)


def banded(name: str, value: Array, limit: float, rules: HouseRules) -> Check:
    """Return the check of a value against a limit, tight within the rule's band.

    Parameters
    ----------
    value : ndarray, shape (S or 1, Q)
        In the rule's unit.
    limit : float
    """
    row = rule(name)
    margin = row.sense * (value - limit)
    return kept(name, margin, limit, rules, is_tight=margin <= band_of(row, rules.limits, rules.tight))


def labelled(name: str, value: Array, product: Product, rules: HouseRules) -> Check:
    """Return the check of a value against the limit that a data sheet names, tight within the rule's band.

    Parameters
    ----------
    value : ndarray, shape (S or 1, Q)
        In the rule's unit.
    product : Product
        Whose label has the limit.
    """
    return banded(name, value, float(getattr(product, rule(name).label)), rules)


def steps_of(hours: float, climate: Climate) -> int:
    """Return how many steps of the grid hold so many hours, the last one whole."""
    return int(np.ceil(hours * 3600 / climate.grid.step_s - 1e-9))
