"""A plan leaves starts alone whose young film is at risk a day ahead, unless that leaves coats out."""

from datetime import timedelta

import numpy as np
import pytest

from amber_gable.core.planning.coats import CoatPiece
from amber_gable.core.planning.schedule import Task
from amber_gable.core.windows import SHUT
from amber_gable.services.outlook import outlook
from amber_gable.services.planning import foresight, schedules


@pytest.fixture
def ahead(opened, job):
    return outlook.outlook(opened, job, outlook.status(opened, job))


def test_risky_starts_lie_ahead_and_are_those_of_the_film(opened, job, ahead):
    risky = foresight.risky_starts(opened, job, ahead)
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
    risky = foresight.risky_starts(opened, job, ahead)
    kept = schedules.make(opened, job, ahead)
    starts = [(ahead.row(v.surface_id), ahead.step_at(v.starts_at)) for v in kept.visits]
    assert starts
    assert sum(risky[row, step] for row, step in starts) == 0 or len(kept.unplaced) > 0


def task(name: str, allowed: list[int]) -> Task:
    flags = np.zeros(20, dtype=bool)
    flags[allowed] = True
    return Task(id=f"{name}:1", group=name, rank=0, duration_steps=2, allowed=flags, unease=np.zeros(20), after=(), is_held=False)


def test_a_coat_is_not_left_out_for_a_risk(opened):
    pieces = [CoatPiece(n, n, "wall", 1.0, 1, False, (0.5,)) for n in ("a", "b")]
    risky = np.zeros((2, 20), dtype=bool)
    risky[0, :10] = True
    both = schedules.careful([task("a", [2, 3, 12]), task("b", [4, 5])], pieces, risky, 0)
    assert {v.task: v.start for v in both.visits} == {"a:1": 12, "b:1": 4}
    # Without another place for it, the risky one is better than none.
    risky[0, :] = True
    bold = schedules.careful([task("a", [2, 3, 12]), task("b", [4, 5])], pieces, risky, 0)
    assert {v.task: v.start for v in bold.visits} == {"a:1": 2, "b:1": 4}
