"""Forecast errors: fitted to forecasts that were held against what came; and whether chances come true as often as they say.

Not here: members drawn from the errors (ensemble), or where forecasts and observations are kept (services).
"""

from collections.abc import Sequence
from dataclasses import dataclass

import numpy as np

from amber_gable.core.air.humid import Array, dew_point_c
from amber_gable.core.air.members import members_of
from amber_gable.core.air.weather import Weather
from amber_gable.core.knowledge import ErrorModel

# The mean distance of a normal error from zero, in its spreads; with tails it is 1 / (1 - h) as far.
_MEAN_DISTANCE = float(np.sqrt(2 / np.pi))
# Quantiles whose ratios tell how heavy tails are, and where a normal error has them; no heavier than this.
_QUANTILES, _NORMAL_AT, _MOST_TAIL = (0.5, 0.683, 0.95, 0.99), (0.674, 1.0, 1.960, 2.576), 0.25
_CALM_M_S = 0.3
# Films are young for as long as this.
_DRY_SPANS_H = (4, 8, 16, 24)
_RAIN_MM = 0.1
_UNITS = (("air", "c"), ("dew", "c"), ("wind", "frac"), ("cloud", "pct"))
_HOLDS = (0.0, 0.5, 0.7, 0.8, 0.85, 0.9, 0.93, 0.96, 0.98)


@dataclass(frozen=True)
class Held:
    """A forecast, and what came at its listed times.

    Parameters
    ----------
    forecast, came : Weather
        At the same N times, the first of them that of the issue or the hour before it.
    issued_s : float
    """

    forecast: Weather
    came: Weather
    issued_s: float

    @property
    def lead_h(self) -> Array:
        result: Array = (self.forecast.epoch_s - self.issued_s) / 3600
        return result


def _errors(pair: Held) -> dict[str, Array]:
    forecast, came = pair.forecast, pair.came
    dews = [dew_point_c(w.air_temp_c, w.rel_humidity_pct) for w in (forecast, came)]
    calm = [np.log(np.maximum(w.wind_m_s, _CALM_M_S)) for w in (forecast, came)]
    return {
        "air": forecast.air_temp_c - came.air_temp_c,
        "dew": dews[0] - dews[1],
        "wind": calm[0] - calm[1],
        "cloud": forecast.cloud_pct - came.cloud_pct,
    }


def fit(pairs: Sequence[Held], staying: ErrorModel, source: str) -> ErrorModel:
    """Return the errors that fit forecasts held against what came.

    Parameters
    ----------
    pairs : sequence of Held
        Dozens; each tells of all its lead times.
    staying : ErrorModel
        Its errors that stay, which forecasts held against the same station do not tell, are kept.
    source : str
        What it is fitted to, in words.

    References
    ----------
    Spread as a straight line of lead time by least squares on the distance from zero; what holds from hour to hour by the
    correlation of errors over their spread; of rain, by how often spans of four hours to a day stay dry.
    """
    lead = np.concatenate([p.lead_h for p in pairs])
    ahead = lead > 0
    errors = [_errors(p) for p in pairs]
    lines: dict[str, tuple[float, float]] = {}
    tails: dict[str, float] = {}
    for name in ("air", "dew", "wind", "cloud"):
        distance = np.abs(np.concatenate([e[name] for e in errors])) / _MEAN_DISTANCE
        slope, base = np.polyfit(lead[ahead], distance[ahead], 1)
        tails[f"{name}_tail"] = tail = _tail(distance[ahead] / np.maximum(base + slope * lead[ahead], 1e-9))
        lines[name] = (max(float(base), 0.0) * (1 - tail), max(float(slope), 0.0) * (1 - tail))

    def scaled(name: str, index: int) -> Array:
        base, slope = lines[name]
        at = pairs[index].lead_h
        result: Array = errors[index][name][at > 0] / np.maximum(base + slope * at[at > 0], 1e-9)
        return result

    airs = [scaled("air", i) for i in range(len(pairs))]
    dews = [scaled("dew", i) for i in range(len(pairs))]
    both = np.concatenate(airs), np.concatenate(dews)
    hold = float(np.corrcoef(np.concatenate([a[:-1] for a in airs]), np.concatenate([a[1:] for a in airs]))[0, 1])
    grows = {f"{name}_{unit}{per}": lines[name][i] for name, unit in _UNITS for i, per in enumerate(("", "_per_h"))}
    together = float(np.corrcoef(*both)[0, 1])
    model = staying.model_copy(
        update={**grows, **tails, "hold": min(max(hold, 0.0), 0.995), "air_dew": together, "rain_hold": 0.9, "source": source}
    )
    return model.model_copy(update={"rain_hold": _rain_hold(pairs, model)})


def _tail(distances: Array) -> float:
    """Return Tukey's h of errors (n,) by the ratios of their far quantiles to their near ones, against those of normal errors."""
    half, near, far, farthest = np.quantile(distances, _QUANTILES)
    at_half, at_near, at_far, at_farthest = _NORMAL_AT
    said = []
    for low, at_low, high, at_high in ((half, at_half, far, at_far), (near, at_near, farthest, at_farthest)):
        said.append(np.log(max(high, 1e-9) / max(low, 1e-9) / (at_high / at_low)) / ((at_high**2 - at_low**2) / 2))
    return float(np.clip(np.mean(said), 0.0, _MOST_TAIL))


def _dry_shares(rain_mm: Array) -> Array:
    """Return how many spans stay dry, shape (4,) for the spans that count."""
    wet = np.cumsum(np.pad((rain_mm > _RAIN_MM).astype(int), [*[(0, 0)] * (rain_mm.ndim - 1), (1, 0)]), axis=-1)
    return np.array([(wet[..., span:] == wet[..., :-span]).mean() for span in _DRY_SPANS_H])


def _rain_hold(pairs: Sequence[Held], model: ErrorModel) -> float:
    """Return how rain hangs together so that members stay dry through a coat's span as often as the weather did."""
    came = np.mean([_dry_shares(p.came.rain_mm) for p in pairs if p.came.rain_mm is not None], axis=0)
    shares = []
    for hold in _HOLDS:
        tried = model.model_copy(update={"rain_hold": hold})
        shares.append(np.mean([_dry_shares(members_of(p.forecast, p.issued_s, tried, 20, i).rain_mm) for i, p in enumerate(pairs)], axis=0))
    return _HOLDS[int(np.argmin(np.abs(np.array(shares) - came).mean(axis=1)))]


@dataclass(frozen=True)
class Reliability:
    """Reliability of chances: how often they came true, by tenths of the chance.

    Parameters
    ----------
    said_frac, came_frac : ndarray, shape (10,)
        The mean chance given, and the share that held; NaN where none was given.
    count : ndarray of int, shape (10,)
    """

    said_frac: Array
    came_frac: Array
    count: np.ndarray

    @property
    def miss_frac(self) -> float:
        """Return the mean distance between said and came, each tenth by how often it was said."""
        used = self.count > 0
        return float(np.average(np.abs(self.said_frac - self.came_frac)[used], weights=self.count[used]))


def reliability(chance_frac: Array, held: np.ndarray) -> Reliability:
    """Return the reliability of chances (n,) against whether each start held (n,).

    Parameters
    ----------
    chance_frac : ndarray, shape (n,)
        Chances that were said, 0 to 1.
    held : ndarray of bool, shape (n,)
        Whether each start kept every limit.
    """
    tenth = np.minimum((chance_frac * 10).astype(int), 9)
    count = np.bincount(tenth, minlength=10)
    with np.errstate(invalid="ignore", divide="ignore"):
        said = np.bincount(tenth, weights=chance_frac, minlength=10) / count
        came = np.bincount(tenth, weights=held.astype(float), minlength=10) / count
    return Reliability(said, came, count)
