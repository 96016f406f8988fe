"""Lots, sundries, days and prices worked by hand; packs of a lot against what they must cover."""

from decimal import Decimal

import pytest
from hypothesis import example, given
from hypothesis import strategies as st

from amber_gable.core.price.price import Costs, price_of
from amber_gable.core.price.rates import figures, with_prices
from amber_gable.core.takeoff import Quantity, spread_of
from amber_gable.core.takeoff.days import days_of
from amber_gable.core.takeoff.lots import Line, Stocked, boxes_of, lots_of
from amber_gable.core.takeoff.packs import Container, cheapest_packs, least_waste
from amber_gable.errors import FieldErrors

LOW = "rivermark-exterior-low-lustre"
OCHRE, CREAM = "#ca8a34", "#f2e9d3"


def line(known, litres: float, colour: str = OCHRE, product: str = LOW, part: str = "East wall") -> Line:
    spread = spread_of(known.products[product])
    # Without any loss, so many litres are ten times as many square metres.
    return Line(
        part, part, "coat 1", "First coat", product, colour, "low-lustre", Quantity(litres * spread.m2_per_l, spread.m2_per_l), spread
    )


def test_a_lot_is_one_colour_bought_as_one(knowledge):
    lots = lots_of([line(knowledge, 12.0), line(knowledge, 10.0, part="West wall"), line(knowledge, 3.0, CREAM)], [], knowledge)
    assert [(lot.colour, lot.litres) for lot in lots] == [(OCHRE, pytest.approx(22.0)), (CREAM, pytest.approx(3.0))]
    ochre, cream = lots
    # 22 L and 5 % are 23.1; 3 L and at least a quart are 3.946. 18.93 + 3.785 + 0.946 = 23.661 for 285 + 62 + 19.
    assert (ochre.need_l, cream.need_l) == (pytest.approx(23.1), pytest.approx(3.946))
    assert {s.name: n for s, n in ochre.packs.counts} == {"5 gallons": 1, "gallon": 1, "quart": 1}
    assert ochre.price == 366.0
    assert ochre.by_part == {"East wall": pytest.approx(12.0), "West wall": pytest.approx(10.0)}


def test_what_is_in_stock_is_used_first_and_only_where_it_matches(knowledge):
    stock = [Stocked("a", LOW, OCHRE, 4.0, "B7"), Stocked("b", LOW, CREAM, 9.0), Stocked("c", LOW, OCHRE, 30.0)]
    (lot,) = lots_of([line(knowledge, 10.0)], stock[:2], knowledge)
    assert (lot.stock_l, lot.need_l) == (4.0, pytest.approx(10 + 0.946 - 4))
    assert [s.id for s in lot.stock] == ["a"]
    (full,) = lots_of([line(knowledge, 10.0)], [stock[0], stock[2]], knowledge)
    assert (full.need_l, full.packs, full.price) == (0.0, None, 0.0)


def test_a_primer_keeps_no_reserve(knowledge):
    (lot,) = lots_of([line(knowledge, 10.0, "", "rivermark-wood-primer")], [], knowledge)
    assert (lot.reserve_l, lot.need_l) == (0.0, pytest.approx(10.0))


def test_boxing_carries_a_third_over():
    # A bucket of 18 L; each later box takes 12 L more: 18, 30, 42.
    assert [boxes_of(v, 18.0, 1 / 3) for v in (0, 5, 18, 18.1, 30, 30.1, 42)] == [0, 1, 1, 2, 2, 3, 3]


@given(st.floats(0.1, 90), st.integers(1, 60), st.integers(1, 60))
@example(5.4, 6, 5)
@example(5.4, 1, 1)
@example(5.4, 1, 2)
def test_least_waste_never_wastes_more_than_the_cheapest(need, small, large):
    sizes = [Container("small", 0.9, float(small)), Container("large", 4.5, float(large))]
    cheapest = cheapest_packs(need, sizes)
    found = least_waste(need, sizes, cheapest.price * 1.1)
    assert found is not None
    assert found.leftover_l <= cheapest.leftover_l + 1e-9
    assert found.price <= cheapest.price * 1.1 + 1e-6
    # Nothing that the money allows leaves less over.
    tried = [
        a * 0.9 + b * 4.5 - need for a in range(110) for b in range(25)
        if a * small + b * large <= cheapest.price * 1.1 and a * 0.9 + b * 4.5 >= need - 1e-9
    ]  # fmt: skip
    assert found.leftover_l == pytest.approx(min(tried), abs=1e-6)


def test_a_price_on_paper(knowledge):
    # 1,000 + 200 of materials, 15 % on them: 180; 100 h at 55: 5,500; 300 hire; 85 disposal: 7,265 direct.
    # 10 % overhead: 726.50; 7,991.50 / 0.88 = 9,081.25, up to 9,082; 5.5 % tax: 499.51; in all 9,581.51.
    found = price_of(Costs(1000.0, 200.0, 300.0, 100.0), knowledge.money)
    assert [str(line.amount) for line in found.lines] == ["1000.00", "200.00", "180.00", "5500.00", "300.00", "85.00", "726.50", "1090.50"]
    assert (found.net, found.tax, found.total) == (Decimal("9082.00"), Decimal("499.51"), Decimal("9581.51"))
    assert found.deposit + found.halfway + found.rest == found.total
    assert sum(line.amount for line in found.lines) == found.net


@given(st.floats(0, 1e5), st.floats(0, 1e4), st.floats(0, 1e4), st.floats(0, 3000))
def test_lines_always_add_up_and_margin_is_never_below_what_was_asked(paint, sundries, access, hours):
    from amber_gable.core.knowledge.shipped import shipped

    found = price_of(Costs(paint, sundries, access, hours), shipped().money)
    assert sum(line.amount for line in found.lines) == found.net
    assert found.net + found.tax == found.total == found.deposit + found.halfway + found.rest
    assert found.amount("margin") >= found.net * Decimal("0.12") - Decimal("0.02")


def test_days_leave_room_for_set_up_and_weather(knowledge):
    # 100 h and 8 % slack are 108 h; two painters work 6.75 h of each 8: 8 days; 8 x 2 x 1.25 = 20 h of set-up.
    found = days_of(95.0, 5.0, 2, knowledge.practice)
    assert (found.days, found.setup_h, found.slack_h) == (8, 20.0, pytest.approx(8.0))
    assert found.hours == pytest.approx(128.0)


@pytest.mark.parametrize(
    ("path", "value", "words"),
    [
        ("money.labour_per_h", -3.0, "above 0 and at most 500"), ("money.labour_per_h", 0.0, "above 0"), ("money.margin_pct", 120.0,
            "at most 80"),
        ("access.lift.hire_per_day", -1.0, "at least 0"), ("labour.lap-rolled.first_per_h", 0.0, "above 0"),
        ("labour.lap-rolled.first_per_h", 5000.0, "at most 1000"), ("steps.sand.rate", 0.0, "above 0"), ("steps.sand.rate", -4.0,
            "above 0"),
        ("consumables.tape.price", -1.0, "at least 0"), ("unit_prices.board.price", 1e9, "at most 20000"), ("money.nothing", 1.0,
            "no such figure"),
        ("labour.nothing.first_per_h", 1.0, "no such figure"), ("nothing.at.all", 1.0, "no such figure"),
    ],
)  # fmt: skip
def test_negative_and_absurd_figures_are_refused_at_their_place(knowledge, path, value, words):
    with pytest.raises(FieldErrors) as caught:
        with_prices(knowledge, {"money.tax_pct": 7.0, path: value})
    assert set(caught.value.errors) == {path}
    assert words in caught.value.errors[path]


def test_own_figures_are_laid_over_the_tables_and_told_apart(knowledge):
    own = with_prices(
        knowledge, {"money.labour_per_h": 62.5, "labour.sash.first_per_h": 1.4, "steps.sand.rate": 12.0, "consumables.tape.price": 5.0}
    )
    assert (own.money.labour_per_h, own.labour["sash"].first_per_h) == (62.5, 1.4)
    assert (own.systems.steps["sand"].rate, own.systems.consumables["tape"].price) == (12.0, 5.0)
    changed = [f.path for f in figures(own, knowledge) if f.is_own]
    assert changed == ["money.labour_per_h", "labour.sash.first_per_h", "steps.sand.rate", "consumables.tape.price"]
    with pytest.raises(FieldErrors, match="more than the whole"):
        with_prices(knowledge, {"money.deposit_pct": 70.0, "money.halfway_pct": 40.0})


def test_a_dearer_can_is_bought_where_it_is_the_cheaper_mix(knowledge):
    product = knowledge.products[LOW]
    dear = product.model_copy(update={"sizes": tuple(replace_price(s, "5 gallons", 900.0) for s in product.sizes)})
    (lot,) = lots_of([line(knowledge, 18.0)], [], knowledge.model_copy(update={"products": {**knowledge.products, LOW: dear}}))
    assert "5 gallons" not in {s.name for s, _ in lot.packs.counts}


def replace_price(size, name: str, price: float):
    return size.model_copy(update={"price": price}) if size.name == name else size
