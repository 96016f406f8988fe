"""Packs: checked against brute force, and against what a painter sees at once."""

from itertools import product

import pytest
from hypothesis import given, settings
from hypothesis import strategies as st

from amber_gable.core.takeoff.packs import Container, cheapest_packs
from amber_gable.errors import FieldErrors
from tests.support.pace import calls, examples

QUART, GALLON, FIVE = Container("quart", 0.946, 19.0), Container("gallon", 3.785, 62.0), Container("5 gallons", 18.93, 285.0)


def bought(packs) -> dict[str, int]:
    return {size.name: n for size, n in packs.counts}


def brute(need, sizes):
    """Every combination up to what one size alone would take, in whole thousandths and cents."""
    litres, prices = [round(s.litres * 1000) for s in sizes], [round(s.price * 100) for s in sizes]
    goal = round(need * 1000)
    most = [-(-goal // litre) for litre in litres]
    ways = []
    for counts in product(*(range(n + 1) for n in most)):
        held = sum(n * litre for n, litre in zip(counts, litres, strict=True))
        if held >= goal:
            ways.append((sum(n * p for n, p in zip(counts, prices, strict=True)), held - goal, sum(counts)))
    return min(ways)


@pytest.mark.parametrize(
    ("need", "wanted"),
    [
        (0, {}),
        (0.5, {"quart": 1}),
        # Three quarts (57) and not a gallon (62), four quarts (76) would be dearer than it.
        (2.8, {"quart": 3}),
        (3.0, {"gallon": 1}),
        (3.785, {"gallon": 1}),
        # 4 gallons and 2 quarts are 286, one can of five is 285 and holds more.
        (17.0, {"5 gallons": 1}),
        (18.94, {"5 gallons": 1, "quart": 1}),
    ],
)
def test_what_a_painter_would_buy(need, wanted):
    assert bought(cheapest_packs(need, [QUART, GALLON, FIVE])) == wanted


sizes_of_shops = st.lists(
    st.tuples(st.integers(200, 6000), st.integers(0, 9000)), min_size=1, max_size=3, unique_by=lambda pair: pair[0]
).map(lambda pairs: [Container(f"size {i}", litre / 1000, cents / 100) for i, (litre, cents) in enumerate(pairs)])  # fmt: skip


@settings(max_examples=examples(150))
@given(sizes_of_shops, st.integers(0, 8000))
def test_it_is_the_cheapest_then_the_least_over_then_the_fewest(sizes, thousandths):
    need = thousandths / 1000
    found = cheapest_packs(need, sizes)
    figures = (round(found.price * 100), round(found.leftover_l * 1000), sum(n for _, n in found.counts))
    assert figures == brute(need, sizes)
    assert found.litres == pytest.approx(need + found.leftover_l)
    assert all(n > 0 for _, n in found.counts)


def test_ties_go_to_the_least_left_over_then_to_the_fewest():
    one, two, five = Container("one", 1, 10), Container("two", 2, 20), Container("five", 5, 50)
    assert bought(cheapest_packs(8, [one, two, five])) == {"five": 1, "two": 1, "one": 1}
    # Seven litres: 5 + 2 exactly; at the same price nothing with more left over.
    assert bought(cheapest_packs(7, [one, two, five])) == {"five": 1, "two": 1}
    same = [Container("small", 1, 10), Container("big", 2, 10)]
    assert bought(cheapest_packs(1, same)) == {"small": 1}, "the same money: less to store"
    free = [Container("sample", 0.5, 0), Container("can", 4, 50)]
    assert bought(cheapest_packs(2, free)) == {"sample": 4}


def test_a_large_need_and_awkward_sizes_are_solved_at_once():
    awkward = [Container(str(i), litre, round(litre * 16.38, 2)) for i, litre in enumerate((0.473, 0.946, 2.5, 3.785, 4.5, 9.46, 18.927))]
    found = cheapest_packs(1234.567, awkward)
    assert calls(lambda: cheapest_packs(1234.567, awkward)) < 10_000
    # No mix is cheaper than the best rate by the litre.
    assert found.price >= 1234.567 * min(s.price / s.litres for s in awkward) - 1e-6
    assert found.litres >= 1234.567


@pytest.mark.parametrize(
    ("need", "sizes", "field"),
    [
        (-1, [QUART], "litres_needed"),
        (1e9, [QUART], "litres_needed"),
        (1, [], "sizes"),
        (1, [QUART, Container("quart", 2, 3)], "sizes.1.name"),
        (1, [Container("air", 0, 3)], "sizes.0.litres"),
        (1, [Container("gift", 1, -3)], "sizes.0.price"),
    ],
)
def test_what_cannot_be_bought_is_refused(need, sizes, field):
    with pytest.raises(FieldErrors) as caught:
        cheapest_packs(need, sizes)
    assert field in caught.value.errors
