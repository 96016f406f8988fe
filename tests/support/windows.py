"""Windows under fair weather."""

from datetime import UTC, datetime

import numpy as np

from amber_gable.core.air.sun import Sky
from amber_gable.core.air.weather import Grid
from amber_gable.core.wall.climate import Climate

COUNT = 60 * 4


def fair(count: int = COUNT) -> Climate:
    """Sixty hours in which nothing is near any limit: day without end."""
    flat, table = np.ones(count), np.ones((1, count))
    epoch = datetime(2026, 9, 15, tzinfo=UTC).timestamp() + 900.0 * np.arange(count)
    sky = Sky(30 * flat, 180 * flat, 30 * flat, 500 * flat, 500 * flat, 100 * flat, 1360 * flat)
    return Climate(
        grid=Grid(epoch, 900.0),
        sky=sky,
        air_temp_c=20 * flat,
        rel_humidity_pct=50 * flat,
        vapour_pa=1170 * flat,
        dew_point_c=9.3 * flat,
        wind_m_s=2 * flat,
        gust_m_s=2 * flat,
        rain_mm_h=0 * flat,
        rain_probability_pct=0 * flat,
        surface_temp_c=22 * table,
        dew_margin_c=12.7 * table,
        water_kg_m2=0 * table,
        direct_sun=np.zeros((1, count), bool),
        wet=np.zeros((1, count), bool),
    )
