"""A forecast of a few hours: all is shut for want of knowledge, and nothing breaks."""

from dataclasses import replace

import numpy as np
import pytest

from amber_gable.core.wall.climate import ClimateSurface, simulate
from amber_gable.core.windows import HouseRules, SiteLimits, find_windows
from amber_gable.core.windows.starts import permitted
from amber_gable.core.windows.steps import step_windows
from tests.support.weathers import HERON_FERRY, steady


@pytest.mark.parametrize("hours", [2, 3, 4, 5, 7, 13])
def test_hours_that_are_too_few_are_shut_whatever_the_product(knowledge, hours):
    wood = knowledge.claddings["wood"]
    wall = ClimateSurface("wall", 90.0, 90.0, 0.6, wood.areal_heat_capacity_kj_m2k, wood.water_store_mm)
    climate = simulate(HERON_FERRY, steady(hours, 18.0, 55.0), [wall])
    rules = HouseRules(9.0, 30.0, "surface-cap", knowledge.limits, knowledge.tight)
    for product in knowledge.products.values():
        for own in (rules, replace(rules, site=SiteLimits())):
            windows = find_windows(climate, product, own)
            last = windows.states.shape[-1] - 1
            assert windows.states[0, last] == 0, "what comes after the last hour is not known"
            assert {r.rule for r in windows.reasons(0, last)} >= {"forecast-end"}
            if hours <= rules.limits.after_application_h:
                assert not permitted(windows.states, 1).any()
            assert windows.binding().shape == windows.states.shape
    for step in knowledge.step_weather.values():
        assert np.isin(step_windows(climate, step, rules).states, (0, 1, 2)).all()
