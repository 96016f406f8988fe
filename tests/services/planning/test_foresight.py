"""A plan leaves starts alone whose young film is at risk a day ahead."""

from datetime import timedelta

import pytest

from amber_gable.core.windows import SHUT
from amber_gable.services.outlook import outlook
from amber_gable.services.planning import far, schedules


@pytest.fixture
def ahead(opened, job):
    return outlook.outlook(opened, job, outlook.status(opened, job))


def test_risky_starts_lie_ahead_and_are_those_of_the_film(opened, job, ahead):
    risky = far.risky_starts(opened, job, ahead)
    assert risky.shape == ahead.windows.states.shape
    near = ahead.step_at(ahead.hour + timedelta(hours=12))
    assert not risky[:, : near + 1].any(), "today the newest forecast decides"
    allowed = ahead.windows.states != SHUT
    assert (risky & allowed).any()
    assert (~risky & allowed)[:, near + 1 :].any()
    # The front of Thursday: hours before it are riskier than the dry ones of Wednesday noon.
    at = [ahead.step_at(ahead.hour.replace(hour=17) + timedelta(days=d)) for d in (1, 2)]
    assert risky[:, at[1]].mean() >= risky[:, at[0]].mean()


def test_planned_coats_keep_clear_of_them(opened, job, ahead):
    risky = far.risky_starts(opened, job, ahead)
    kept = schedules.make(opened, job, ahead)
    starts = [(ahead.row(v.surface_id), ahead.step_at(v.starts_at)) for v in kept.visits]
    assert starts
    assert sum(risky[row, step] for row, step in starts) == 0
