"""Fits the errors of the weather service's forecasts to simulated seasons, and checks the chances on six climates and two biased truths.

Writes `docs/calibration.svg`, prints the table of `docs/calibration.md` and the rows for
`core/knowledge/tables/weather/forecast_errors.toml`. Run by `make calibrate`.
"""

import sys
from collections.abc import Iterator, Sequence
from dataclasses import dataclass, replace
from datetime import UTC, datetime, timedelta
from pathlib import Path

import numpy as np

from amber_gable.core.air.forecast_errors import Held, Reliability, fit, reliability
from amber_gable.core.air.humid import saturation_pressure_pa, vapour_pressure_pa
from amber_gable.core.air.site_errors import Shown, SiteErrors
from amber_gable.core.air.sun import Place
from amber_gable.core.air.weather import Weather
from amber_gable.core.knowledge import ErrorModel
from amber_gable.core.knowledge.shipped import shipped
from amber_gable.core.wall.climate import ClimateSurface, simulate
from amber_gable.core.windows import HouseRules, SiteLimits, find_windows
from amber_gable.core.windows.chances import chances
from amber_gable.core.windows.starts import permitted
from amber_gable.drawing.calibration import calibration_plot
from amber_gable.standins.climate_truth import TrueSite, weather
from amber_gable.standins.forecast import issue, issue_before

ROOT = Path(__file__).parents[1]
COLUMNS = ("air_temp_c", "rel_humidity_pct", "wind_m_s", "cloud_pct", "wind_gust_m_s", "wind_from_deg", "rain_mm")
# How far ahead a chance is asked for: beyond four days a schedule is made anew anyway.
LEAD_H = 96
COAT_H = 2.0
# A band of so many starts may hold so much less than it says, and no more.
MANY, MOST_SHORT = 300, 0.08


@dataclass(frozen=True)
class Season:
    """A season somewhere: an issue every few days, so that they hardly share their weather."""

    name: str
    place: Place
    first: datetime
    days: int
    every: int


HOME = Place(43.80, -91.25, 205.0)
SUMMER = Season("home, April to October", HOME, datetime(2027, 4, 20, 11, tzinfo=UTC), 170, 5)
SEASONS = (
    SUMMER,
    Season("60° N, May to September", Place(60.0, 10.0, 100.0), datetime(2027, 5, 1, 5, tzinfo=UTC), 150, 6),
    Season("8° N, the whole year", Place(8.0, -75.0, 50.0), datetime(2027, 1, 1, 11, tzinfo=UTC), 360, 12),
    Season("32° N, March to November", Place(32.0, -100.0, 600.0), datetime(2027, 3, 1, 11, tzinfo=UTC), 260, 9),
    Season("38° S, October to April", Place(-38.0, 145.0, 30.0), datetime(2027, 10, 1, 23, tzinfo=UTC), 200, 7),
    Season("home, late autumn", HOME, datetime(2027, 9, 25, 11, tzinfo=UTC), 60, 3),
)
FIT_SEEDS, CHECK_SEEDS = (101, 102, 103), (201, 202)


@dataclass(frozen=True)
class Truth:
    """How a site differs from what is told of it: its air [K], and its vapour pressure (ratio)."""

    air_k: float = 0.0
    vapour: float = 1.0

    def of(self, told: Weather) -> Weather:
        if self == Truth():
            return told
        air = told.air_temp_c + self.air_k
        vapour = self.vapour * vapour_pressure_pa(told.air_temp_c, told.rel_humidity_pct)
        return replace(told, air_temp_c=air, rel_humidity_pct=np.clip(100 * vapour / saturation_pressure_pa(air), 1.0, 100.0))


COLDER, COLD_AND_DAMP = Truth(-0.75), Truth(-1.5, 1.05)


def _weather(times: list[float], hours: list[object], chance: list[float]) -> Weather:
    table = {name: np.array([float(getattr(h, name)) for h in hours]) for name in COLUMNS}
    table["rel_humidity_pct"] = np.clip(table["rel_humidity_pct"], 1, 100)
    return Weather([datetime.fromtimestamp(t, UTC) for t in times], **table, rain_probability_pct=np.array(chance))


def pairs(season: Season, seed: int, before_h: int = 0) -> Iterator[Held]:
    """Yield forecasts of a season with what came, `before_h` observed hours first in both."""
    place = season.place
    site = TrueSite(seed, place.latitude_deg, place.longitude_deg, place.altitude_m)
    for day in range(0, season.days, season.every):
        issued = issue_before((season.first + timedelta(days=day, hours=6 * (day % 4))).timestamp())
        issued_hours = list(issue(site, issued))
        first = [issued_hours[0][0] - 3600 * h for h in range(before_h, 0, -1)]
        seen = [weather(site, t) for t in first]
        times = [*first, *(t for t, _ in issued_hours)]
        truth = [*seen, *(weather(site, t) for t, _ in issued_hours)]
        dry = [100.0 * (h.rain_mm > 0) for h in seen]
        forecast = _weather(times, [*seen, *(f.hour for _, f in issued_hours)], [*dry, *(f.rain_probability_pct for _, f in issued_hours)])
        yield Held(forecast, _weather(times, truth, [100.0 * (h.rain_mm > 0) for h in truth]), issued)


def shown_by(truth: Truth, readings: int, seed: int) -> Shown:
    """Return what readings at a biased site show: its differences, with the noise of instrument and hour."""
    rng = np.random.default_rng(seed)
    air = truth.air_k + rng.normal(0, 0.7, readings)
    vapour = np.log(truth.vapour) + rng.normal(0, 0.05, readings)
    return Shown(tuple(air), tuple(vapour), (tuple(rng.normal(0, 1.0, readings)),) * 4)


def checked(
    model: ErrorModel, season: Season, seeds: Sequence[int], truth: Truth | None = None, readings: int = 0, step_s: float = 3600.0
) -> tuple[np.ndarray, np.ndarray]:
    """Return chances said and whether each start held, of four walls, asked for by the hour up to four days ahead.

    Held: no limit broken, and no young film wetted, by what came (quarter-hour by quarter-hour).
    """
    known = shipped()
    rules = HouseRules(9.0, 30.0, "surface-cap", known.limits, known.tight, SiteLimits())
    product, wood = known.products["rivermark-exterior-satin"], known.claddings["wood"]
    walls = [ClimateSurface.clad(n, a, 90, 0.6, wood) for n, a in zip("NESW", (0, 90, 180, 270), strict=True)]
    said, held = [], []
    for number, pair in enumerate(p for seed in seeds for p in pairs(season, seed, 48)):
        believed = SiteErrors.before_readings(model, [w.error_c for w in walls])
        if readings:
            believed = believed.after(shown_by(truth or Truth(), readings, number), model)
        found = chances(
            season.place, pair.forecast, pair.issued_s, walls, [product] * 4, [rules] * 4, [COAT_H] * 4, model, site=believed, seed=number,
            step_s=step_s,
        )  # fmt: skip
        climate = simulate(season.place, (truth or Truth()).of(pair.came), walls)
        came = permitted(find_windows(climate, product, rules).states, int(COAT_H * 4))[:, ::4]
        chance = found.chance_frac[:, :: round(3600 / step_s)]
        lead = (climate.grid.epoch_s[::4] - pair.issued_s) / 3600
        asked = (lead > 0) & (lead <= LEAD_H) & climate.sky.is_day[::4]
        said.append(chance[:, asked].ravel())
        held.append(came[:, asked].ravel())
    return np.concatenate(said), np.concatenate(held)


def worst_band(found: Reliability) -> float:
    """Return by how much the worst band of many starts holds less than it says; 0 where none does."""
    many = found.count >= MANY
    return float(np.max(np.where(many, found.said_frac - found.came_frac, 0.0)))


def main() -> int:
    known = shipped().forecast_errors
    model = fit([p for seed in FIT_SEEDS for p in pairs(SUMMER, seed)], known, "fitted by scripts/calibrate.py to three simulated seasons")
    for name, value in model.model_dump().items():
        print(f"{name} = {value:.4g}" if isinstance(value, float) else f'{name} = "{value}"', f"   # now {getattr(known, name)}")
    print("\n| Truth | readings | starts | mean miss | worst band of 300 or more holds less by |\n|---|---|---|---|---|")
    pooled: dict[tuple[str, int], list[tuple[np.ndarray, np.ndarray]]] = {}
    for label, truth, readings in (
        ("as told", Truth(), 0), ("as told", Truth(), 5), ("0.75 K colder", COLDER, 0), ("0.75 K colder", COLDER, 3),
        ("0.75 K colder", COLDER, 5), ("1.5 K colder, 5 % more vapour", COLD_AND_DAMP, 0),
        ("1.5 K colder, 5 % more vapour", COLD_AND_DAMP, 5),
    ):  # fmt: skip
        for season in SEASONS if truth == Truth() and not readings else SEASONS[:1]:
            said, held = checked(model, season, CHECK_SEEDS, truth, readings)
            pooled.setdefault((label, readings), []).append((said, held))
            found = reliability(said, held)
            print(f"| {label}, {season.name} | {readings} | {len(said):,} | {100 * found.miss_frac:.1f} | {100 * worst_band(found):.1f} |")
            sys.stdout.flush()
    every = [np.concatenate(v) for v in zip(*pooled["as told", 0], strict=True)]
    found = reliability(*every)
    print(f"| as told, all six | 0 | {len(every[0]):,} | {100 * found.miss_frac:.1f} | {100 * worst_band(found):.1f} |\n")
    print("| Chance given | held | starts |\n|---|---|---|")
    for said_frac, came_frac, count in zip(found.said_frac, found.came_frac, found.count, strict=True):
        print(f"| {100 * said_frac:.1f} % | {100 * came_frac:.1f} % | {count:,} |")
    (ROOT / "docs" / "calibration.svg").write_text(calibration_plot(found), encoding="utf-8")
    return 0


if __name__ == "__main__":
    sys.exit(main())
