"""Fits the errors of the weather service's forecasts to a simulated season, and checks the chances on another.

Writes `docs/calibration.svg` and prints the rows for `core/knowledge/tables/forecast_errors.toml`. Run by `make calibrate`.
"""

import sys
from collections.abc import Iterator
from datetime import UTC, datetime, timedelta
from pathlib import Path

import numpy as np

from amber_gable.core.air.forecast_errors import Held, Reliability, fit, reliability
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
PLACE = Place(43.80, -91.25, 205.0)
FIT_SEEDS, CHECK_SEEDS = (101, 102, 103), (201, 202, 203)
# A season of painting, an issue every few days so that they hardly share their weather.
SEASON = datetime(2027, 4, 20, 11, tzinfo=UTC)
DAYS, EVERY = 170, 5
COLUMNS = ("air_temp_c", "rel_humidity_pct", "wind_m_s", "cloud_pct", "wind_gust_m_s", "wind_from_deg", "rain_mm")
# How far ahead a chance is asked for: beyond four days a schedule is made anew anyway.
LEAD_H = 96
COAT_H = 2.0


def _weather(times: list[float], hours: list[object], chance: list[float]) -> Weather:
    table = {name: np.array([float(getattr(h, name)) for h in hours]) for name in COLUMNS}
    table["rel_humidity_pct"] = np.clip(table["rel_humidity_pct"], 1, 100)
    return Weather([datetime.fromtimestamp(t, UTC) for t in times], **table, rain_probability_pct=np.array(chance))


def pairs(seed: int, before_h: int = 0) -> Iterator[Held]:
    """Yield forecasts of a season with what came, `before_h` observed hours first in both."""
    site = TrueSite(seed, PLACE.latitude_deg, PLACE.longitude_deg, PLACE.altitude_m)
    for day in range(0, DAYS, EVERY):
        issued = issue_before((SEASON + timedelta(days=day, hours=6 * (day % 4))).timestamp())
        issued_hours = list(issue(site, issued))
        first = [issued_hours[0][0] - 3600 * h for h in range(before_h, 0, -1)]
        seen = [weather(site, t) for t in first]
        times = [*first, *(t for t, _ in issued_hours)]
        truth = [*seen, *(weather(site, t) for t, _ in issued_hours)]
        dry = [100.0 * (h.rain_mm > 0) for h in seen]
        forecast = _weather(times, [*seen, *(f.hour for _, f in issued_hours)], [*dry, *(f.rain_probability_pct for _, f in issued_hours)])
        yield Held(forecast, _weather(times, truth, [100.0 * (h.rain_mm > 0) for h in truth]), issued)


def checked(model: ErrorModel, seeds: tuple[int, ...], step_s: float = 3600.0) -> tuple[Reliability, np.ndarray]:
    """Return how chances came true on four walls, asked for by the hour up to four days ahead; and the chances."""
    known = shipped()
    rules = HouseRules(9.0, 30.0, "surface-cap", known.limits, known.tight, SiteLimits())
    product, wood = known.products["rivermark-exterior-satin"], known.claddings["wood"]
    walls = [
        ClimateSurface(n, a, 90, 0.6, wood.areal_heat_capacity_kj_m2k, wood.water_store_mm)
        for n, a in zip("NESW", (0, 90, 180, 270), strict=True)
    ]
    said, held = [], []
    for number, pair in enumerate(p for seed in seeds for p in pairs(seed, 48)):
        found = chances(
            PLACE, pair.forecast, pair.issued_s, walls, [product] * 4, [rules] * 4, [COAT_H] * 4, model, seed=number, step_s=step_s
        )
        climate = simulate(PLACE, pair.came, walls)
        came = permitted(find_windows(climate, product, rules).states, int(COAT_H * 4))[:, ::4]
        chance = found.chance_frac[:, :: round(3600 / step_s)]
        lead = (climate.grid.epoch_s[::4] - pair.issued_s) / 3600
        asked = (lead > 0) & (lead <= LEAD_H) & climate.sky.is_day[::4]
        said.append(chance[:, asked].ravel())
        held.append(came[:, asked].ravel())
    return reliability(np.concatenate(said), np.concatenate(held)), np.concatenate(said)


def main() -> int:
    known = shipped().forecast_errors
    model = fit([p for seed in FIT_SEEDS for p in pairs(seed)], "fitted by scripts/calibrate.py to three simulated seasons")
    for name, value in model.model_dump().items():
        print(f"{name} = {value:.4g}" if isinstance(value, float) else f'{name} = "{value}"', f"   # now {getattr(known, name)}")
    found, said = checked(model, CHECK_SEEDS)
    print("said", np.round(found.said_frac, 3), "came", np.round(found.came_frac, 3), "count", found.count)
    print(f"mean miss {100 * found.miss_frac:.1f} points over {len(said)} starts")
    (ROOT / "docs" / "calibration.svg").write_text(calibration_plot(found), encoding="utf-8")
    return 0


if __name__ == "__main__":
    sys.exit(main())
