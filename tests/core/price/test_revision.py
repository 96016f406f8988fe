"""Change orders: lines add up to the difference whatever changed; what is kept is read back the same."""

import json
from dataclasses import replace

import pytest
from hypothesis import given
from hypothesis import strategies as st

from amber_gable.core.price.revision import PartNow, Snapshot, change_order, read_snapshot

AMOUNT = st.floats(0, 500).map(lambda v: round(v, 4))


@st.composite
def snapshots(draw):
    parts = tuple(
        PartNow(key, f"Part {key}", draw(st.sampled_from(["Satin", "Flat"])), draw(st.sampled_from(["#ca8a34", "#223344", ""])), "satin",
                "Brush", draw(st.integers(1, 3)), draw(AMOUNT), draw(AMOUNT), draw(AMOUNT), draw(AMOUNT), ("Wash", "First coat"))
        for key in draw(st.lists(st.sampled_from("abcde"), unique=True))
    )  # fmt: skip
    net = draw(AMOUNT)
    return Snapshot(
        parts, draw(AMOUNT), draw(AMOUNT), draw(st.integers(0, 30)), net, round(net * 0.05, 2), round(net * 1.05, 2), ("2 × gallon",)
    )


@given(snapshots(), snapshots())
def test_the_lines_of_a_change_order_add_up_and_the_way_back_is_its_mirror(before, after):
    there, back = change_order(before, after), change_order(after, before)
    for name, total in (
        ("litres", after.litres - before.litres),
        ("hours", after.hours - before.hours),
        ("money", after.total - before.total),
    ):
        # What is below a hundredth of a litre, a minute or a cent stands in no line.
        assert sum(getattr(line, name) for line in there.lines) == pytest.approx(total, abs=0.2)
        assert getattr(there, name) == pytest.approx(-getattr(back, name))
    assert {line.key for line in there.lines} == {line.key for line in back.lines}
    assert change_order(before, before).is_empty


@given(snapshots())
def test_what_is_kept_is_read_back_the_same(snapshot):
    assert read_snapshot(json.loads(json.dumps(snapshot.plain()))) == snapshot


def test_each_change_is_said_in_words():
    part = PartNow(
        "w", "East wall", "Satin", "#9caf94", "satin", "Brush and roller", 2, 51.3, 12.4, 20.0, 1800.0, ("Soft wash", "First coat")
    )
    before = Snapshot((part,), 12.4, 30.0, 3, 2000.0, 110.0, 2110.0, ())
    dark = replace(part, colour="#a03020", coats=3, litres=18.6, hours=25.0, money=2300.0, steps=("Soft wash", "Prime", "First coat"))
    (line, rest) = change_order(before, replace(before, parts=(dark,), litres=18.6, hours=35.5, days=4, total=2650.0)).lines
    assert line.what == ("colour: #9caf94 → #a03020", "coats: 2 → 3", "with: prime")
    assert (line.litres, line.hours, line.money) == (pytest.approx(6.2), 5.0, 500.0)
    # What belongs to no part: half an hour of set-up, 40 of whole cans and rounding.
    assert (rest.key, rest.hours, rest.money) == ("", pytest.approx(0.5), pytest.approx(40.0))
    (wider, _) = change_order(before, replace(before, parts=(replace(part, area_m2=60.0),), total=2150.0)).lines
    assert (wider.what, wider.area_m2) == ((), (51.3, 60.0))
    (gone,) = [v for v in change_order(before, replace(before, parts=())).lines if v.key == "w"]
    assert (gone.what, gone.money) == (("left out",), -1800.0)
