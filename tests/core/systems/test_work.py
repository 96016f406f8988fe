"""Work: amounts, hours and what is used up, worked by hand from the handbook's rates."""

from dataclasses import replace

import pytest

from amber_gable.core.coat.products import choose_all
from amber_gable.core.systems.facts import Facts, Found
from amber_gable.core.systems.overrides import Edit, apply
from amber_gable.core.systems.specify import specify
from amber_gable.core.systems.work import Extent, work_of

# A painted wall of 60 m2, 38 m of joints round four windows, a tenth of it peeling.
WALL = Facts("wood-siding", coating="acrylic", findings=(Found("peeling", "to-10"), Found("mildew", "spots")), texture="smooth")
EXTENT = Extent(
    area_m2=60.0, profile=1.1, joints_m=38.0, openings=4, pieces=1, edge_m=22.0, cover_m2=13.0, foot_m=6.0, shape="lap"
)  # fmt: skip


@pytest.fixture
def works(knowledge):
    system = specify(WALL, knowledge)
    products = choose_all(knowledge, system, WALL)
    return {s.key: work_of(s, products.get(s.key, ""), EXTENT, WALL, "roller", knowledge, system) for s in system.steps}


def needs(work) -> dict[str, float]:
    return {n.key: n.quantity for n in work.needs}


def test_hours_are_amount_over_rate(works, knowledge):
    # A tenth peels; mildew on spots is washed, not scraped.
    share = knowledge.extents["to-10"].share
    scrape, caulk, mask = works["scrape"], works["caulk"], works["mask"]
    # Handbook 7: light scraping and sanding 10 m2, caulk 18 m an hour, an opening masked in a quarter of one.
    assert (scrape.amount, scrape.of) == (pytest.approx(60 * share), "m2 found")
    assert scrape.hours == pytest.approx(60 * share / 10)
    assert caulk.hours == pytest.approx(38 / 18)
    assert mask.hours == pytest.approx(4 * 0.25)
    # Lap siding with brush and roller, the second coat quicker; each hour is one painter's.
    assert works["coat 1"].hours == pytest.approx(60 / 10)
    assert works["coat 2"].hours == pytest.approx(60 / 13)


def test_what_is_used_up_is_counted_up_to_whole_pieces(works, knowledge):
    # 38 m of joint: 300 ml make 10.6 m at 6 mm, a tenth is wasted; 22 m round openings of 45 m a roll; 6 m of ground.
    assert needs(works["caulk"]) == {"caulk": 4}
    assert needs(works["mask"]) == {"tape": 1, "film": 1, "ground-sheets": 2}
    assert [n.key for n in works["mask"].needs if n.is_reused] == ["ground-sheets"]
    low = knowledge.products["rivermark-exterior-low-lustre"]
    # Handbook 7: 10 x solids / film, less loss, over profile and texture.
    # A tenth of it is bare where it peeled and drinks 30 % more: the spot prime took that, so the finish does not.
    litres = 60 * 1.1 / (10 * low.volume_solids_pct / low.dry_film_um * 0.92)
    assert needs(works["coat 1"]) == {"rivermark-exterior-low-lustre": pytest.approx(litres)}
    assert works["coat 1"].needs[0].basis * litres == pytest.approx(60)


def test_concentrate_is_counted_at_the_strongest_mix(works, knowledge):
    bleach = knowledge.sundries["bleach-wash"]
    share = knowledge.extents["spots"].share
    mix = works["mildew-wash"].amount / bleach.spread_m2_per_l
    assert works["mildew-wash"].amount in (60.0, pytest.approx(60 * share))
    # One part to three of water (handbook 6).
    assert needs(works["mildew-wash"])["bleach-wash"] == pytest.approx(mix / 4)


def test_repairs_are_counted_by_what_was_found_not_by_how_much_there_is(knowledge):
    """One sill that is rotten among fourteen windows is one place, and putty on spots is one window."""
    windows = Facts(
        "wood-trim", kind="window", coating="alkyd", findings=(Found("rot", "spots"), Found("failed-putty", "spots")), access="ladder"
    )
    many = Extent(area_m2=21.6, openings=14, pieces=14, run_m=65.0, edge_m=65.0, cover_m2=17.0)

    def works_for(facts):
        system = specify(facts, knowledge)
        return {s.key: work_of(s, "", many, facts, "brush", knowledge, system) for s in system.steps}

    spots = works_for(windows)
    assert (spots["cut-out-rot"].amount, spots["fill-rot"].amount, spots["replace-putty"].amount) == (1, 1, 1)
    assert spots["scrape-glass-lip"].amount == 14
    # More than a third of all putty: five and more of the fourteen; three rotten places are three.
    bad = works_for(replace(windows, findings=(*[Found("rot", "spots")] * 3, Found("failed-putty", "more"))))
    assert bad["cut-out-rot"].amount == 3
    assert 5 <= bad["replace-putty"].amount <= 14


def test_every_step_of_the_table_can_be_reckoned(knowledge):
    """Whatever a step counts by, its amounts are finite and never below nothing."""
    system = specify(WALL, knowledge)
    for key in knowledge.systems.steps:
        by_hand, _ = apply(
            system, [Edit("drop", key)] * (key in {s.key for s in system.steps}) + [Edit("add", key, "clear")], WALL, knowledge
        )
        step = next(s for s in by_hand.steps if s.key == key)
        work = work_of(step, "", EXTENT, WALL, "roller", knowledge, by_hand)
        assert 0 <= work.hours < 200
        assert all(0 < n.quantity < 2000 and n.basis > 0 for n in work.needs), key
