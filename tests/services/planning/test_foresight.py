"""What is far ahead is permitted only where the young film is safe in most courses of the weather; plans keep clear of the rest."""

from datetime import timedelta

import numpy as np
import pytest

from amber_gable.core.windows import SHUT
from amber_gable.core.windows.run import FILM_RISK, SAFE_FRAC, windows_under
from amber_gable.services.outlook import outlook
from amber_gable.services.planning import schedules
from amber_gable.services.planning.making import far

pytestmark = pytest.mark.small


@pytest.fixture
def ahead(opened, job):
    return outlook.outlook(opened, job, outlook.status(opened, job))


def bare(ahead):
    """Return the states by the forecast alone."""
    return windows_under(ahead.place, ahead.weather, ahead.surfaces, ahead.observations, ahead.windows.products, ahead.rules).states


def test_what_is_far_and_risky_is_shut_and_nothing_else(ahead):
    risk, states = ahead.windows.check(FILM_RISK), bare(ahead)
    assert np.array_equal(ahead.windows.states == SHUT, (states == SHUT) | (risk.margin < 0))
    near = ahead.step_at(ahead.hour + timedelta(hours=12))
    assert np.isinf(risk.margin[:, : near + 1]).all(), "today the newest forecast decides"
    risky = risk.margin < 0
    assert np.array_equal(risky[:, near + 1 :], (risk.values < SAFE_FRAC)[:, near + 1 :])
    assert (risky & (states != SHUT)).any()
    assert (~risky & (states != SHUT))[:, near + 1 :].any()
    row, step = np.argwhere(risky & (states != SHUT))[0]
    reason = next(r for r in ahead.windows.reasons(row, step) if r.rule == FILM_RISK)
    assert reason.broken
    assert reason.value < reason.limit == SAFE_FRAC


def test_it_holds_beyond_the_forecast_for_other_coats_and_for_joinery(opened, job, ahead):
    longer = far.far_outlook(opened, ahead)
    near = ahead.windows.states.shape[1]
    risk, far_risk = (of.windows.check(FILM_RISK).margin for of in (ahead, longer))
    assert np.array_equal(far_risk[:, :near], risk)
    assert np.isinf(far_risk[:, near:]).all(), "beyond it nothing is known"
    later = outlook.of_turn(opened, job, longer, "later")
    assert (later.windows.check(FILM_RISK).margin[:, :near] < 0).any()


def test_planned_coats_keep_clear_of_them(opened, job, ahead):
    kept = schedules.make(opened, job)
    risk = ahead.windows.check(FILM_RISK).margin
    rows = [(ahead.row(v.surface_id), ahead.step_at(v.starts_at), ahead.step_at(v.ends_at)) for v in kept.visits if v.coat == 1]
    assert rows
    assert all((risk[row, first:last] >= 0).all() for row, first, last in rows)
