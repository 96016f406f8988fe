"""After a coat: when it comes to each stage of drying, how thin its film has become, and what the weather may do to it first.

Not here: the rate of drying (drying), or whether a coat may go on at all (windows).
"""

from dataclasses import dataclass
from typing import Literal

import numpy as np

from amber_gable.core.air.humid import Array
from amber_gable.core.coat.drying import drying_rate, progress_h, ready_index
from amber_gable.core.coat.film import film_of
from amber_gable.core.knowledge import Product
from amber_gable.core.knowledge.assumptions import assumed
from amber_gable.core.wall.climate import Climate

StageName = Literal["touch", "tender", "recoat", "rain-ready", "cured"]
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
    """Damage by the weather to a coat that cannot bear it yet: its kind, its instant, its size [°C, mm].

    `share` is how far a film had come toward rain-ready when rain or dew came; `is_tender` where it was young no longer.
    """

    kind: DamageKind
    at: int
    value: float
    share: float = 0.0
    is_tender: bool = False


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


def after_coat(climate: Climate, row: int, product: Product, instant: int, young_share: float = 0.5) -> AfterCoat:
    """Return what becomes of a coat put on a surface at an instant.

    Parameters
    ----------
    climate : Climate
        Of one course of weather.
    row, instant : int
    product : Product
    young_share : float
        School 21: see `film.film_of`.

    References
    ----------
    Handbook 4: stages by the same rate; a rate above 1 never shortens a label's time.
    """
    surface = climate.surface_temp_c[row]
    rate = drying_rate(product.kind, surface, climate.vapour_pa, climate.wind_m_s)
    done = progress_h(rate[None, :], climate.grid.step_s)[0]
    labels: tuple[tuple[StageName, float], ...] = (
        ("touch", product.touch_h), ("rain-ready", product.rain_free_h), ("recoat", product.recoat_h), ("cured", product.cure_h),
    )  # fmt: skip
    at = {name: float(ready_index(done[None, :], hours)[0, instant]) for name, hours in labels}
    film = film_of(done[None, :], product.rain_free_h, young_share, climate.grid.step_s)
    at["tender"] = float(film.young_until[0, instant])
    labels = (*labels, ("tender", product.rain_free_h))
    # By when they come; those beyond the data by the label.
    ordered = sorted(labels, key=lambda pair: (at[pair[0]], pair[1], pair[0] != "tender"))
    stages = tuple(Stage(name, hours, at[name] if np.isfinite(at[name]) else None) for name, hours in ordered)
    ends = {s.name: len(done) if s.at is None else int(np.ceil(s.at - 1e-9)) for s in stages}
    wet = product.dry_film_um / (product.volume_solids_pct / 100)
    thickness = np.full(len(done), np.nan)
    thickness[instant:] = film_um(wet, product.dry_film_um, done[instant:] - done[instant], product.touch_h)
    share = (done - done[instant]) / product.rain_free_h if product.rain_free_h else np.ones(len(done))
    return AfterCoat(stages, _damages(climate, row, product, instant, ends, share), thickness, wet, product.dry_film_um)


def _damages(
    climate: Climate, row: int, product: Product, instant: int, ends: dict[StageName, int], share: Array
) -> tuple[Damage, ...]:  # fmt: skip
    surface = climate.surface_temp_c[row]
    hot_until = instant + int(np.ceil(_HOT_H * 3600 / climate.grid.step_s))
    dewed = climate.wet[row] & (climate.rain_mm_h <= _MARKS_MM)
    asked: tuple[tuple[DamageKind, np.ndarray, Array, int], ...] = (
        ("too-hot", surface > product.max_surface_temp_c, surface, hot_until),
        ("rained-on", climate.rain_mm_h > _MARKS_MM, climate.rain_mm_h, ends["rain-ready"]),
        ("dewed-on", dewed, climate.water_kg_m2[row], ends["rain-ready"]),
        # Until it may be recoated: frost in a film that has joined does no harm.
        ("frozen", surface <= 0, surface, ends["recoat"]),
    )
    damages = []
    for kind, when, value, until in asked:
        hits = np.flatnonzero(when[instant:until])
        if len(hits):
            at = instant + int(hits[0])
            is_tender = kind in ("rained-on", "dewed-on") and at >= ends["tender"]
            damages.append(Damage(kind, at, float(value[at]), float(min(share[at], 1.0)), is_tender))
    return tuple(sorted(damages, key=lambda d: d.at))
