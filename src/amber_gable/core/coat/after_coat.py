"""After a coat: when it comes to each stage of drying, how thin its film has become, and what the weather may do to it first.

Not here: the rate of drying (drying), or whether a coat may go on at all (windows).
"""

from dataclasses import dataclass
from typing import Literal

import numpy as np

from amber_gable.core.air.humid import Array
from amber_gable.core.coat.drying import drying_rate, progress_h, ready_index
from amber_gable.core.knowledge import Product
from amber_gable.core.knowledge.assumptions import assumed
from amber_gable.core.wall.climate import Climate

StageName = Literal["touch", "recoat", "rain-ready", "dew-proof", "cured"]
DamageKind = Literal["too-hot", "rained-on", "dewed-on", "frozen"]
_LEFT_AT_TOUCH = assumed("left_at_touch_share")
# Rain that marks a fresh film [mm in the hour].
_MARKS_MM = 0.1
_HOT_H = assumed("hot_h")


@dataclass(frozen=True)
class Stage:
    """A stage of drying: the label's hours for it, and the instant it is reached (fractional; None beyond the data)."""

    name: StageName
    label_h: float
    at: float | None


@dataclass(frozen=True)
class Damage:
    """Damage by the weather to a coat that cannot bear it yet: its kind, its instant, its size [°C, mm]."""

    kind: DamageKind
    at: int
    value: float


@dataclass(frozen=True)
class AfterCoat:
    """Course of a coat that is put on at an instant.

    Parameters
    ----------
    stages : tuple of Stage
        In the order of the label's hours.
    damages : tuple of Damage
        The first of each kind.
    film_um : ndarray, shape (Q,)
        From the stroke on; NaN before it.
    wet_film_um, dry_film_um : float
    """

    stages: tuple[Stage, ...]
    damages: tuple[Damage, ...]
    film_um: Array
    wet_film_um: float
    dry_film_um: float


def film_um(wet_um: float, dry_um: float, progress: Array, touch_h: float) -> Array:
    """Return the thickness of a film by its progress [label-hours]: wet at first, dry in the end.

    Parameters
    ----------
    wet_um, dry_um : float
        Thickness as it is put on, and in the end [µm].
    progress : ndarray, shape (Q,)
        Label-hours of drying done since the stroke.
    touch_h : float
        The label's hours to touch-dry.
    """
    result: Array = dry_um + (wet_um - dry_um) * _LEFT_AT_TOUCH ** (progress / touch_h)
    return result


def after_coat(climate: Climate, row: int, product: Product, instant: int) -> AfterCoat:
    """Return what becomes of a coat put on a surface at an instant.

    Parameters
    ----------
    climate : Climate
        Of one course of weather.
    row, instant : int
    product : Product

    References
    ----------
    Handbook 4: stages by the same rate; a rate above 1 never shortens a label's time.
    """
    surface = climate.surface_temp_c[row]
    rate = drying_rate(product.kind, surface, climate.vapour_pa, climate.wind_m_s)
    done = progress_h(rate[None, :], climate.grid.step_s)[0]
    labels: tuple[tuple[StageName, float], ...] = (
        ("touch", product.touch_h), ("rain-ready", product.rain_free_h), ("dew-proof", max(product.early_moisture_h, product.touch_h)),
        ("recoat", product.recoat_h), ("cured", product.cure_h),
    )  # fmt: skip
    at = {name: float(ready_index(done[None, :], hours)[0, instant]) for name, hours in labels}
    ordered = sorted(labels, key=lambda pair: pair[1])
    stages = tuple(Stage(name, hours, at[name] if np.isfinite(at[name]) else None) for name, hours in ordered)
    ends = {s.name: len(done) if s.at is None else int(np.ceil(s.at)) for s in stages}
    wet = product.dry_film_um / (product.volume_solids_pct / 100)
    film = np.full(len(done), np.nan)
    film[instant:] = film_um(wet, product.dry_film_um, done[instant:] - done[instant], product.touch_h)
    return AfterCoat(stages, _damages(climate, row, product, instant, ends), film, wet, product.dry_film_um)


def _damages(climate: Climate, row: int, product: Product, instant: int, ends: dict[StageName, int]) -> tuple[Damage, ...]:
    surface = climate.surface_temp_c[row]
    hot_until = instant + int(np.ceil(_HOT_H * 3600 / climate.grid.step_s))
    dewed = climate.wet[row] & (climate.rain_mm_h <= _MARKS_MM)
    asked: tuple[tuple[DamageKind, np.ndarray, Array, int], ...] = (
        ("too-hot", surface > product.max_surface_temp_c, surface, hot_until),
        ("rained-on", climate.rain_mm_h > _MARKS_MM, climate.rain_mm_h, ends["rain-ready"]),
        ("dewed-on", dewed, climate.water_kg_m2[row], ends["dew-proof"]),
        # Until it may be recoated: frost in a film that has joined does no harm.
        ("frozen", surface <= 0, surface, ends["recoat"]),
    )
    damages = []
    for kind, when, value, until in asked:
        hits = np.flatnonzero(when[instant:until])
        if len(hits):
            at = instant + int(hits[0])
            damages.append(Damage(kind, at, float(value[at])))
    return tuple(sorted(damages, key=lambda d: d.at))
