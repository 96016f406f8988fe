"""Beyond the forecast: added days are those of the forecast once more, at the same hour of the clock."""

from datetime import UTC, datetime, timedelta

import numpy as np
import pytest

from amber_gable.core.air.beyond import extended
from amber_gable.core.air.weather import Weather, with_rain

START = datetime(2026, 9, 13, 5, tzinfo=UTC)


def weather(days: int) -> Weather:
    """Return hours whose temperature tells day and hour, rain on the second day."""
    hours = np.arange(days * 24)
    rain = np.where(hours // 24 == 1, 1.0, 0.0)
    return Weather(
        [START + timedelta(hours=int(h)) for h in hours], 0.1 * (hours % 24) + hours // 24, np.full(len(hours), 60.0),
        np.full(len(hours), 2.0), np.full(len(hours), 30.0), rain_mm=rain, rain_probability_pct=60 * rain,
    )  # fmt: skip


@pytest.mark.parametrize("turn", [0, 1, 3])
def test_each_added_hour_is_an_hour_of_the_clock_of_a_known_day(turn):
    known = weather(5)
    longer = extended(known, known.epoch_s[-1] + 9 * 86_400, known.epoch_s[0], turn)
    assert np.all(np.diff(longer.epoch_s) == 3600)
    added = longer.air_temp_c[120:]
    hour, day = np.arange(120, len(longer.epoch_s)) % 24, (np.arange(120, len(longer.epoch_s)) // 24 + turn) % 5
    assert added == pytest.approx(0.1 * hour + day)
    # As many wet hours as the known days have.
    assert longer.rain_mm[120:240].sum() == known.rain_mm.sum()


def test_rain_that_somebody_saw_does_not_shift_the_days():
    known = weather(4)
    seen = with_rain(known, known.epoch_s[50] + 700, known.epoch_s[52] + 1300, "heavy")
    assert len(seen.epoch_s) > len(known.epoch_s)
    longer = extended(seen, known.epoch_s[-1] + 2 * 86_400, known.epoch_s[0])
    assert longer.air_temp_c[-48:] == pytest.approx(known.air_temp_c[:48])


def test_what_is_too_short_or_long_enough_stays():
    short = weather(1)
    assert extended(short, short.epoch_s[-1] + 86_400, short.epoch_s[0]) is short
    enough = weather(3)
    assert extended(enough, enough.epoch_s[-1], enough.epoch_s[0]) is enough
