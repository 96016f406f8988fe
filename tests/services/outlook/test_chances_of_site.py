"""Readings on site teach the chances of that site, and of no other; taken out, they are forgotten."""

import numpy as np
import pytest

from amber_gable.core.windows.readings import InstrumentReading
from amber_gable.services.app.democlock import step_clock
from amber_gable.services.jobs import jobs
from amber_gable.services.log import sitelog
from amber_gable.services.log.siteerrors import belief_of
from amber_gable.services.outlook import outlook
from amber_gable.services.outlook.windowcard import chances_of


def ahead_of(opened, job):
    return outlook.outlook(opened, jobs.whole(opened, job.id), outlook.status(opened, job))


@pytest.mark.takes(7)
def test_cold_damp_readings_lower_the_chances_here_and_nowhere_else(opened, job):
    wall = next(s for e in job.building.elevations for s in e.surfaces if s.name == "East wall")
    taken = []
    for _ in range(4):
        step_clock(opened.app, 1.0)
        ahead = ahead_of(opened, job)
        row, step = ahead.row(wall.id), ahead.step_at(opened.clock.now())
        climate = ahead.windows.climate
        air, vapour = float(climate.air_temp_c[step]) - 1.0, float(climate.vapour_pa[step]) * 0.9
        humidity = min(100.0 * vapour / (611.2 * np.exp(17.62 * air / (243.12 + air))), 100.0)
        reading = InstrumentReading(air, humidity, float(climate.surface_temp_c[row, step]) - 1.0)
        taken.append(sitelog.log_reading(opened, job, ahead, wall.id, reading, "Ines").reading_id)
    ahead = ahead_of(opened, job)
    believed = belief_of(opened, job, ahead, ahead.row(wall.id))
    assert believed.hours == 4
    assert -1.0 < believed.air_k.mean < -0.3
    # Its wall is as far from its air as computed; its air holds less vapour.
    assert abs(believed.errors.surfaces_k[0].mean) < 0.05
    assert -0.105 < believed.errors.vapour_frac.mean < 0
    taught = chances_of(opened, job, ahead, wall.id).chance_frac[0]
    for reading_id in taken:
        sitelog.take_back(opened, job, reading_id)
    assert belief_of(opened, jobs.whole(opened, job.id), ahead, ahead.row(wall.id)).hours == 0
    untaught = chances_of(opened, job, ahead, wall.id).chance_frac[0]
    known = np.isfinite(taught) & np.isfinite(untaught)
    assert taught[known].mean() < untaught[known].mean() - 0.005
    other = next(row for row in jobs.list_jobs(opened) if row.id != job.id)
    elsewhere = ahead_of(opened, other)
    assert belief_of(opened, jobs.whole(opened, other.id), elsewhere, 0).hours == 0
    assert pytest.approx(0.0) == belief_of(opened, jobs.whole(opened, other.id), elsewhere, 0).air_k.mean
