"""What would make it open: only what really does, found by asking the engine again."""

from dataclasses import replace

import numpy as np
import pytest

from amber_gable.core.windows import OPEN, SHUT, TIGHT
from amber_gable.core.windows.remedies import Trial, better_rows, remedies, state_of
from amber_gable.services.app.democlock import step_clock
from amber_gable.services.jobs import jobs
from amber_gable.services.outlook import outlook
from amber_gable.services.outlook import remedies as services
from amber_gable.services.systems.coatings import coatings_of
from tests.support.pace import is_long

pytestmark = pytest.mark.small


def ahead_of(opened, job):
    return outlook.outlook(opened, job, outlook.status(opened, job))


@pytest.fixture
def found(opened, job):
    """Tollkeeper's House, its outlook, the east wall's row, its label and rules."""
    ahead = ahead_of(opened, job)
    surface = next(s for e in job.building.elevations for s in e.surfaces if s.name == "East wall")
    return ahead, ahead.row(surface.id), coatings_of(opened, job)[surface.id].product, outlook.rules_for(opened, job)


@pytest.mark.takes(4)
def test_each_remedy_gives_the_state_that_the_engine_gives(found):
    ahead, row, product, rules = found
    climate = ahead.windows.climate
    cold = product.model_copy(
        update={"name": "Cold", "min_surface_temp_c": 1.7, "min_air_temp_c": 1.7, "max_rel_humidity_pct": 95.0, "min_dew_margin_c": 1.0}
    )
    bold = replace(rules, max_rain_probability_pct=100.0)
    trials = [Trial("product", "cold", product=cold), Trial("rule", "bold", rules=bold), Trial("method", "as it is", rules=rules)]
    helped = set()
    for step in range(0, ahead.windows.states.shape[1], 7 if is_long() else 17):
        for remedy in remedies(climate, row, step, product, rules, trials):
            before = ahead.windows.states[row, step]
            assert remedy.state > before
            alone = climate.of_surfaces([row])
            assert remedy.state == state_of(alone, remedy.trial.product or product, remedy.trial.rules or rules, step)
            helped.add(remedy.trial.label)
    assert "cold" in helped
    assert "as it is" not in helped, "what changes nothing is never named"


@pytest.mark.slow
def test_a_towel_helps_where_only_the_water_that_is_there_is_in_the_way(found):
    ahead, row, product, rules = found
    climate = ahead.windows.climate
    easy = product.model_copy(
        update={"max_rel_humidity_pct": 100.0, "min_dew_margin_c": 0.0, "min_surface_temp_c": 1.0, "min_air_temp_c": 1.0, "touch_h": 0.1,
                "rain_free_h": 0.0, "hold_h": 0.0}
    )  # fmt: skip
    towel = [Trial("towel", "towelled", is_towelled=True)]
    helps = [q for q in range(climate.wet.shape[1]) if remedies(climate, row, q, easy, rules, towel)]
    assert helps, "on some dewy morning it does"
    assert all(climate.wet[row, q] for q in helps)


def test_other_walls_are_named_best_first():
    states = np.array([[SHUT], [TIGHT], [OPEN], [SHUT]], dtype=np.int8)
    assert better_rows(states, 0, 0) == [2, 1]
    assert better_rows(states, 1, 0) == [2]
    assert better_rows(states, 2, 0) == []


def test_a_job_says_when_its_wall_opens_and_what_helps(opened, job):
    ahead = ahead_of(opened, job)
    surface = next(s for e in job.building.elevations for s in e.surfaces if s.name == "East wall")
    dawn = ahead.step_at(opened.clock.now())
    found = services.better(opened, job, ahead, surface.id, dawn)
    assert found.opens_at > ahead.local(dawn)
    assert ahead.windows.states[ahead.row(surface.id), ahead.step_at(found.opens_at)] != SHUT
    # Open already: nothing is to be mended.
    step_clock(opened.app, 4.5)
    later = jobs.whole(opened, job.id)
    open_at = next(q for q in range(dawn, ahead.windows.states.shape[1]) if ahead.windows.states[ahead.row(surface.id), q] == OPEN)
    assert services.better(opened, later, ahead, surface.id, open_at) == services.Better([], [], None)


@pytest.mark.four
def test_on_a_sprayed_job_the_brush_stands_more_wind(opened):
    boathouse = jobs.whole(opened, next(j.id for j in jobs.list_jobs(opened) if j.name == "Slipway Boathouse"))
    ahead = ahead_of(opened, boathouse)
    row = next(r for r in range(ahead.windows.states.shape[0]))
    windy = [q for q in range(ahead.windows.states.shape[1]) if [r.rule for r in ahead.windows.reasons(row, q)] == ["wind"]]
    assert windy, "the forecast has an hour that is only too windy for the gun"
    found = services.better(opened, boathouse, ahead, ahead.surface_ids[row], windy[0])
    assert "method" in {r.trial.kind for r in found.remedies}
