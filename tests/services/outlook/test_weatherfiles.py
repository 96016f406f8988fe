"""A weather file is the forecast of its place until a newer one is issued or it is taken out."""

from datetime import datetime, timedelta

import pytest

from amber_gable.errors import FieldErrors, NotFoundError
from amber_gable.services.app.democlock import step_clock
from amber_gable.services.outlook import outlook
from amber_gable.services.outlook.weather import files as weatherfiles
from tests.support.seeded import forget_weather


@pytest.fixture
def opened(opened):
    """Before any forecast came."""
    return forget_weather(opened)


HEAD = "time,air temp (°C),humidity (%),wind (m/s),cloud (%),chance of rain (%)"


def file_of(start: str, hours: int = 96, wind: float = 2.0) -> bytes:
    first = datetime.fromisoformat(start)
    rows = [f"{(first + timedelta(hours=n)).isoformat()},21.5,50,{wind},20,0" for n in range(hours)]
    return "\n".join([HEAD, *rows]).encode()


def air_now(opened, job) -> float:
    ahead = outlook.outlook(opened, job, outlook.status(opened, job))
    return float(ahead.windows.climate.air_temp_c[ahead.step_at(opened.clock.now()) + 8])


def test_the_file_speaks_at_once_and_the_service_again_with_its_next_issue(opened, job):
    told = air_now(opened, job)
    found = weatherfiles.take(opened, job, file_of("2026-09-14T06:00"))
    assert (len(found.hours), found.filled, found.left_out) == (96, 0, 0)
    assert air_now(opened, job) == pytest.approx(21.5)
    assert weatherfiles.current(opened, job).source == "file"
    # Read in twice: the newer one speaks, and both can be taken out one after the other.
    weatherfiles.take(opened, job, file_of("2026-09-14T06:00", wind=5.0))
    weatherfiles.forget(opened, job)
    assert air_now(opened, job) == pytest.approx(21.5)
    weatherfiles.forget(opened, job)
    assert air_now(opened, job) == pytest.approx(told)
    with pytest.raises(NotFoundError):
        weatherfiles.forget(opened, job)
    weatherfiles.take(opened, job, file_of("2026-09-14T06:00"))
    step_clock(opened.app, 7.0)
    assert air_now(opened, job) != pytest.approx(21.5)
    assert weatherfiles.current(opened, job) is None


def test_without_a_wind_direction_nobody_knows_where_it_comes_from(opened, job):
    weatherfiles.take(opened, job, file_of("2026-09-12T06:00", hours=200))
    ahead = outlook.outlook(opened, job, outlook.status(opened, job))
    assert ahead.windows.states.shape[1] > 96 * 4


def test_a_file_of_hours_that_are_over_is_refused(opened, job):
    with pytest.raises(FieldErrors, match="Every hour of this file is over"):
        weatherfiles.take(opened, job, file_of("2026-09-01T06:00"))
    assert weatherfiles.current(opened, job) is None
