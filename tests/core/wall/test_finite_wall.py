"""Each cladding on a heated house against a wall by finite differences, through clear, hot and grey days (docs/physics.md)."""

import numpy as np
import pytest

from amber_gable.core.knowledge.shipped import shipped
from amber_gable.core.wall.climate import WET_KG_M2, ClimateSurface, simulate
from tests.support.finite_wall import BUILD_UPS, WEATHERS, finite_wall
from tests.support.weathers import HERON_FERRY

KNOWN = shipped()
SHIPPED_HOT_C = KNOWN.products["rivermark-exterior-satin"].max_surface_temp_c
QUARTER_S = 900


@pytest.mark.parametrize(
    ("weather", "azimuth_deg"),
    [("clear", 270), pytest.param("hot", 180, marks=pytest.mark.slow), pytest.param("grey", 0, marks=pytest.mark.slow)],
)
@pytest.mark.parametrize("kind", BUILD_UPS)
def test_a_cladding_is_as_warm_as_its_wall_by_finite_differences(kind, weather, azimuth_deg):
    at, face, water = finite_wall(WEATHERS[weather], kind, azimuth_deg, 0.6)
    surface = ClimateSurface.clad("wall", azimuth_deg, 90, 0.6, KNOWN.claddings[kind], is_heated=True)
    climate = simulate(HERON_FERRY, WEATHERS[weather], [surface])
    # Three days of quarter-hours after the first, in which both find their warmth.
    quarters = slice(96, len(climate.grid.epoch_s) - 1)
    same = np.searchsorted(at, climate.grid.epoch_s[quarters])
    apart = np.abs(climate.surface_temp_c[0, quarters] - face[same])
    assert np.quantile(apart, 0.95) < 1.5
    assert abs((climate.surface_temp_c[0, quarters] - face[same]).mean()) < 0.3
    # Dew comes and goes, and the label's heat is passed, within the half-hour and the hour of each day.
    wet = climate.wet[0, quarters], water[same] > WET_KG_M2
    hot = climate.surface_temp_c[0, quarters] > SHIPPED_HOT_C, face[same] > SHIPPED_HOT_C
    for one, other, most_s in ((*wet, 1800), (*hot, 3600)):
        for day in np.split(one != other, 3):
            assert day.sum() * QUARTER_S <= 2 * most_s
