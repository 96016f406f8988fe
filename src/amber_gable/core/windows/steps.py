"""Windows of steps that are no coat: washing, stripping, sanding, caulking, masking, filling, putty, render.

Checked like coats, against fewer limits: what each step needs of air, surface, rain and light is a row of the knowledge.
Not here: coats (limits), or how states come of checks (states).
"""

from collections.abc import Mapping

import numpy as np

from amber_gable.core.air.humid import Array
from amber_gable.core.coat.drying import Kind, drying_rate, progress_h, ready_index
from amber_gable.core.knowledge import StepWeather
from amber_gable.core.wall.climate import WET_KG_M2, Climate
from amber_gable.core.windows.check import Check, HouseRules, banded, forward_min, kept, steps_of
from amber_gable.core.windows.limits import daylight, moisture_check, rain_checks, thunder_checks, wind_check
from amber_gable.core.windows.states import Windows, states_of

_NO_LIMIT_C = 1e3
# What is waited for by drying dries as water does, what cures as oil does; any other law goes by the clock.
_KIND_OF: Mapping[str, Kind] = {"drying": "waterborne", "cure": "alkyd", "putty-skin": "alkyd"}


def check_step(climate: Climate, step: StepWeather, rules: HouseRules) -> list[Check]:
    """Check the weather of a step for each quarter-hour.

    Parameters
    ----------
    climate : Climate
        S surfaces, Q instants.
    step : StepWeather
    rules : HouseRules
        Whose wind limit and chance of rain hold here too.

    References
    ----------
    Handbook 2 and 6: clean, then dry; tape does not hold on what is wet; no water where it freezes.
    """
    air, surface = climate.air_temp_c[None, :], climate.surface_temp_c
    frost = forward_min(surface, steps_of(step.frost_free_h, climate))
    checks = [
        banded("air-temp-low", air, step.min_air_temp_c, rules),
        kept("frost", np.where(frost <= 0, np.minimum(frost, -1e-9), frost), 0.0, rules, is_tight=frost <= rules.tight.temperature_c),
        wind_check(climate, rules),
        daylight(climate, rules),
    ]
    checks += thunder_checks(climate, rules)
    if step.max_surface_temp_c < _NO_LIMIT_C:
        checks.append(banded("surface-temp-high", surface, step.max_surface_temp_c, rules))
    if step.needs_dry:
        dryness = WET_KG_M2 - climate.water_kg_m2
        checks.append(kept("wet", np.where(climate.wet, dryness, np.maximum(dryness, 0.0)), WET_KG_M2, rules))
    if step.max_moisture:
        checks += moisture_check(climate, rules)
    if step.rain_free_h > 0:
        end = np.arange(surface.shape[-1]) + steps_of(step.rain_free_h, climate)
        checks += rain_checks(climate, np.broadcast_to(np.minimum(end, surface.shape[-1]), surface.shape), rules)
    left = (climate.grid.epoch_s[-1] - climate.grid.epoch_s) / 3600
    checks.append(kept("forecast-end", (left - max(step.frost_free_h, step.rain_free_h - 1))[None, :], 0.0, rules))
    return checks


def step_windows(climate: Climate, step: StepWeather, rules: HouseRules) -> Windows:
    """Return the state of every surface and quarter-hour for a step that is no coat.

    Parameters
    ----------
    climate : Climate
        S surfaces, Q instants.
    step : StepWeather
        What the step needs.
    rules : HouseRules
    """
    checks = check_step(climate, step, rules)
    return Windows(climate, checks, states_of(checks, climate.surface_temp_c.shape), ())


def ready_after(climate: Climate, step: StepWeather) -> Array:
    """Return when a step done at each instant has dried or set enough for what follows, shape (S, Q): fractional; inf beyond the data.

    Parameters
    ----------
    climate : Climate
    step : StepWeather
        Its hours are those of good drying, 25 °C and 50 %: of water by evaporation, of what cures by warmth alone.
    """
    rate = np.ones_like(climate.surface_temp_c)
    if step.wait.law in _KIND_OF:
        vapour, wind = climate.vapour_pa[..., None, :], climate.wind_m_s[..., None, :]
        rate = drying_rate(_KIND_OF[step.wait.law], climate.surface_temp_c, vapour, wind)
    return ready_index(progress_h(rate, climate.grid.step_s), step.wait.hours)
