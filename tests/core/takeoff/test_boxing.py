"""Boxing: nothing is lost, no bucket runs over, each box has a third of the one before and something of every can."""

import pytest
from hypothesis import given, settings
from hypothesis import strategies as st

from amber_gable.core.takeoff.mixing import boxes_of
from amber_gable.errors import FieldErrors
from tests.support.pace import examples

THIRD = 1 / 3


def test_three_cans_in_a_bucket_of_fifteen_litres():
    # Worked by hand: 30 L; 15 L, a third (5 L) stays; then 10 L of the rest, 5 L stay; then the last 5 L.
    boxes = boxes_of([10.0, 10.0, 10.0], 15.0, THIRD)
    assert [round(box.carried_l, 6) for box in boxes] == [0.0, 5.0, 5.0]
    assert [round(box.litres, 6) for box in boxes] == [15.0, 15.0, 10.0]
    assert [round(p.litres, 6) for p in boxes[0].pours] == [5.0, 5.0, 5.0]


@settings(max_examples=examples(60))
@given(st.lists(st.floats(0.1, 60.0), min_size=1, max_size=8), st.floats(5.0, 200.0))
def test_every_drop_is_boxed_and_no_bucket_runs_over(cans, bucket):
    boxes = boxes_of(cans, bucket, THIRD)
    for can, litres in enumerate(cans):
        assert sum(p.litres for box in boxes for p in box.pours if p.can == can) == pytest.approx(litres, abs=1e-4)
    assert all(box.litres <= bucket + 1e-6 for box in boxes)
    assert {p.can for p in boxes[0].pours} == set(range(len(cans)))


@pytest.mark.parametrize(("cans", "bucket"), [([], 15.0), ([5.0, 0.0], 15.0), ([5.0], 0.0)])
def test_what_cannot_be_boxed_is_refused(cans, bucket):
    with pytest.raises(FieldErrors):
        boxes_of(cans, bucket, THIRD)
