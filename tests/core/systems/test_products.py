"""The shelf: what is chosen for a step, and what should not meet (handbook 5)."""

import pytest

from amber_gable.core.coat.products import choose, choose_all, clashes
from amber_gable.core.systems.facts import Facts
from amber_gable.core.systems.specify import specify

SIDING = Facts("wood-siding", coating="acrylic", old_hex="#a8b59a", new_hex="#a8b59a")


def said(knowledge, facts: Facts, products: dict[str, str]) -> set[tuple[str, str]]:
    return {(c.level, c.where) for c in clashes(knowledge, specify(facts, knowledge), facts, products)}


@pytest.mark.parametrize(
    ("facts", "products", "wanted"),
    [
        # Product over the old coating.
        (SIDING, {"coat 1": "rivermark-exterior-low-lustre"}, set()),
        (SIDING, {"coat 1": "rivermark-trim-gloss"}, {("ask", "coat 1")}),
        (Facts("wood-siding", coating="alkyd"), {"coat 1": "rivermark-exterior-low-lustre"}, {("ask", "coat 1")}),
        (Facts("wood-siding", coating="alkyd", tests={"cross-cut": "pass"}), {"coat 1": "rivermark-exterior-low-lustre"}, set()),
        # Stain over film, and a more open stain over a closed one.
        (Facts("deck-wood", "deck", coating="solid-stain"), {"coat 1": "rivermark-deck-semi"}, {("never", "coat 1")}),
        (Facts("deck-wood", "deck", coating="semi-stain"), {"coat 1": "rivermark-deck-clear"}, {("never", "coat 1")}),
        (Facts("deck-wood", "deck", coating="semi-stain"), {"coat 1": "rivermark-deck-solid"}, set()),
        # Mineral paint holds on mineral ground only.
        (Facts("lime-render", coating="mineral"), {"coat 1": "rivermark-open-stone"}, set()),
        (Facts("stucco", coating="acrylic"), {"coat 1": "rivermark-open-stone"}, {("never", "coat 1")}),
        # On a ground it is not made for.
        (Facts("galvanised", coating="none"), {"prime": "rivermark-rust-primer"}, {("never", "prime")}),
        (Facts("vinyl", coating="none"), {"coat 1": "rivermark-deck-solid"}, {("never", "coat 1")}),
        # Primer under finish: elastomeric on a metal primer, which no data sheet has.
        (Facts("galvanised", coating="none"), {"prime": "rivermark-zinc-primer", "coat 1": "rivermark-metal-satin"}, set()),
        (Facts("galvanised", coating="none"), {"prime": "rivermark-zinc-primer", "coat 1": "rivermark-trim-satin"}, {("never", "coat 1")}),
    ],
)
def test_what_should_not_meet_is_said(knowledge, facts, products, wanted):
    found = said(knowledge, facts, products)
    assert {c for c in found if c[1] in products} == wanted


def test_a_clear_sealer_goes_on_floor_paint(knowledge):
    floor = Facts("concrete", "deck", coating="none", wanted="floor-and-sealer")
    system = specify(floor, knowledge)
    products = choose_all(knowledge, system, floor)
    assert products["sealer 1"] == "rivermark-clear-sealer"
    assert clashes(knowledge, system, floor, products) == []


def test_the_shelf_serves_sheen_cold_and_preference(knowledge):
    assert choose(knowledge, "acrylic", SIDING, "flat") == "rivermark-exterior-flat"
    assert choose(knowledge, "acrylic", SIDING, "low-lustre") == "rivermark-exterior-low-lustre"
    assert choose(knowledge, "acrylic", SIDING, "low-lustre", {"acrylic": "rivermark-exterior-satin"}) == "rivermark-exterior-satin"
    cold = Facts("wood-siding", schools={"cold-nights": "cold-rated"})
    assert choose(knowledge, "acrylic", cold, "flat", {"acrylic": "rivermark-exterior-satin"}) == "rivermark-cold-season"
    # Waterborne before oil, which leaves rags that catch fire; nothing for what no product is made for.
    assert choose(knowledge, "wood-primer", SIDING) == "rivermark-wood-primer"
    assert choose(knowledge, "wood-primer", Facts("brick")) is None


def test_every_family_that_goes_on_has_a_product_with_sizes_and_prices(knowledge):
    on_the_wall = {k for k, f in knowledge.systems.families.items() if f.role in ("primer", "undercoat", "finish", "sealer")}
    assert {p.family for p in knowledge.products.values()} == on_the_wall
    for product in knowledge.products.values():
        assert product.sizes
        assert product.touch_h <= product.recoat_h
        assert product.min_surface_temp_c < product.max_surface_temp_c
        assert product.goes_on
