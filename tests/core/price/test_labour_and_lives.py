"""The labour table against the handbook's starting values; years and warranties against its intervals; prices as properties."""

from decimal import Decimal

import pytest
from hypothesis import given
from hypothesis import strategies as st

from amber_gable.core.coat.lives import lasting, mean_years
from amber_gable.core.knowledge.shipped import shipped
from amber_gable.core.price.price import Costs, cents, price_of
from amber_gable.core.price.range import Driver, price_range
from amber_gable.core.systems.facts import Facts, Found
from amber_gable.core.systems.overrides import Edit, apply
from amber_gable.core.systems.specify import specify
from amber_gable.core.takeoff.labour import COAT, WorkGround, height_factor, rate_for

# Handbook 7, starting values of a coat per painter-hour: name, method, kind, shape, texture, technique, coat, units an hour.
HANDBOOK = [
    ("lap siding", "roller", "wall", "lap", "smooth", "", 1, 10.0),
    ("lap siding again", "roller", "wall", "lap", "smooth", "", 2, 13.0),
    ("smooth wall", "roller", "wall", "flat", "smooth", "", 1, 16.0),
    ("rough stucco", "roller", "wall", "flat", "heavy-stucco", "", 1, 8.0),
    ("airless", "sprayer", "wall", "lap", "smooth", "", 1, 50.0),
    ("with back-roll", "sprayer", "wall", "flat", "light-stucco", "back-roll", 1, 30.0),
    ("from two angles", "sprayer", "wall", "flat", "heavy-stucco", "several-angles", 1, 35.0),
    ("multi-pane sash", "brush", "window", "flat", "smooth", "", 1, 1 / 0.9),
    ("panel door", "brush", "door", "panel-door", "smooth", "", 1, 1 / 1.1),
    ("railing", "brush", "railing", "balusters", "smooth", "", 1, 3.0),
    ("shutter sprayed", "sprayer", "shutter", "louvre", "smooth", "", 1, 10.0),
]


@pytest.mark.parametrize(("_name", "method", "kind", "shape", "texture", "technique", "coat", "per_h"), HANDBOOK)
def test_starting_values_are_the_handbooks(knowledge, _name, method, kind, shape, texture, technique, coat, per_h):
    found = rate_for(COAT, WorkGround(method, kind, shape, texture, technique), knowledge, coat)
    # Hours an item, written as items an hour to four places.
    assert found.per_h == pytest.approx(per_h, rel=1e-4)
    assert "handbook" in found.source


@pytest.mark.parametrize(("step", "per_h"), [("soft-wash", 60.0), ("caulk", 18.0)])
def test_steps_have_their_own_starting_values(knowledge, step, per_h):
    assert knowledge.systems.steps[step].rate == per_h


def test_heavy_scraping_is_slower_and_the_second_storey_longer(knowledge):
    ground = WorkGround("brush", "wall", "lap", "smooth", extents=("more",))
    assert rate_for("scrape", ground, knowledge).per_h == 3.0
    assert knowledge.systems.steps["scrape"].rate == 10.0
    # All above: x 1.3 from a ladder; half of it: x 1.15.
    assert [height_factor(s, 1.3) for s in (0.0, 0.5, 1.0, 2.0)] == pytest.approx([1.0, 1.15, 1.3, 1.3])


# Handbook 5, repaint intervals, of the film that is there: facts, least and most years, label.
PEELS = (Found("peeling", "more"),)
INTERVALS = [
    (Facts("wood-siding", coating="acrylic"), 4, 7, "Wood"),
    (Facts("stucco", coating="acrylic"), 5, 10, "Stucco and masonry"),
    (Facts("vinyl", coating="none"), 10, 12, "Aluminium and vinyl"),
    (Facts("aluminium", coating="factory", coating_age_y=15), 10, 12, "Aluminium and vinyl"),
    (Facts("deck-wood", kind="deck", coating="none"), 2, 3, "Deck stain"),
    (Facts("concrete", kind="deck", coating="none", coating_age_y=9), 3, 5, "Floor paint"),
    (Facts("wood-door", kind="door", coating="acrylic"), 5, 5, "Doors"),
    (Facts("wood-siding", coating="acrylic", findings=PEELS), 12, 15, "Bonding build-up on wood"),
    (Facts("wood-trim", kind="window", coating="acrylic"), 4, 7, "Windows"),
    (Facts("fibre-cement", coating="acrylic"), 5, 12, "Fibre cement"),
    (Facts("metal-roof", kind="roof", coating="alkyd", findings=(Found("rust", "to-10"),)), 2, 8, "Metal roof, rust treated"),
    (Facts("metal-roof", kind="roof", coating="acrylic"), 5, 12, "Metal roof"),
    (Facts("galvanised", coating="none"), 5, 12, "Steel and zinc"),
    (Facts("stone", coating="none"), 5, 10, "Mineral paint"),
]  # fmt: skip


@pytest.mark.parametrize(("facts", "low", "high", "label"), INTERVALS, ids=lambda v: v if isinstance(v, str) else None)
def test_years_to_the_next_coat_lie_within_the_handbooks(knowledge, facts, low, high, label):
    found = lasting(facts, specify(facts, knowledge), knowledge)
    assert found.label == label
    assert low <= found.years <= high
    assert 0 < found.warranty_years <= found.years, "nothing is warranted for longer than it lasts"
    assert found.not_warranted == ""


def test_the_sun_side_comes_sooner_and_fewer_coats_than_hold_are_not_warranted(knowledge):
    def last(**facts):
        given = Facts("wood-siding", coating="acrylic", **facts)
        return lasting(given, specify(given, knowledge), knowledge)

    north, south, once, thrice = last(), last(is_sunny=True), last(coats=1), last(coats=3)
    assert south.years < north.years
    assert once.years < north.years < thrice.years
    assert (once.warranty_years, once.not_warranted, thrice.warranty_years > 0) == (0, "1 coat where 2 hold", True)
    # A window has an undercoat below its top coat: two coats of film, and a coat that somebody left out by hand is not there.
    window = Facts("wood-trim", kind="window", coating="acrylic")
    system = specify(window, knowledge)
    assert lasting(window, system, knowledge).warranty_years > 0
    fewer, _ = apply(system, [Edit("drop", "undercoat 1")], window, knowledge)
    assert lasting(window, fewer, knowledge).not_warranted == "1 coat where 2 hold"
    chimney = Facts("brick", kind="chimney", coating="none")
    assert "half" in lasting(chimney, specify(chimney, knowledge), knowledge).not_warranted
    # Thirty square metres of five years and ten of nine are six on average.
    five, nine = (type(once)("k", "l", y, 1, "s") for y in (5.0, 9.0))
    assert mean_years([(five, 30.0), (nine, 10.0)]) == pytest.approx(6.0)
    assert mean_years([]) == 0.0


MONEY = st.floats(0, 50_000).map(lambda v: round(v, 2))
COSTS = st.builds(Costs, MONEY, MONEY, MONEY, st.floats(0, 2000))


@given(COSTS)
def test_every_line_of_a_price_adds_up_to_the_cent(costs):
    money = shipped().money
    price = price_of(costs, money)
    assert sum(line.amount for line in price.lines) == price.net
    assert price.net + price.tax == price.total == price.deposit + price.halfway + price.rest
    assert price.net % Decimal("1") == 0
    # Margin is a share of the price before tax, and gets what rounding up adds: at least its share, less than a dollar more.
    share = price.net * Decimal("0.12")
    assert share - Decimal("0.01") <= price.amount("margin") <= share + Decimal("1.01")
    for line in price.lines:
        assert "{" not in line.explained(lambda v: f"${v}")


@given(COSTS, st.floats(0.5, 40), st.floats(1, 3))
def test_a_dearer_hour_or_a_longer_job_never_costs_less(costs, more_h, dearer):
    money = shipped().money
    base = price_of(costs, money).total
    assert price_of(Costs(costs.paint, costs.sundries, costs.access, costs.hours + more_h), money).total >= base
    assert price_of(costs, money.model_copy(update={"labour_per_h": money.labour_per_h * dearer})).total >= base


def test_halves_of_a_cent_go_up():
    assert [cents(v) for v in (0.005, 1.015, 2.675, -0.004)] == [Decimal(v) for v in ("0.01", "1.02", "2.68", "-0.00")]


@given(st.floats(100, 1e5), st.lists(st.tuples(st.floats(0, 5000), st.floats(0, 5000)), max_size=6))
def test_a_range_holds_the_likely_price_and_is_no_wider_than_all_at_once(likely, spreads):
    drivers = [Driver(str(i), str(i), likely - d, likely + u) for i, (d, u) in enumerate(spreads)]
    found = price_range(likely, drivers)
    assert 0 <= found.low <= likely <= found.high
    assert found.high - likely <= sum(u for _, u in spreads) + 1e-6
    assert found.high - likely >= max((u for _, u in spreads), default=0.0) - 1e-6
