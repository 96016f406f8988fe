"""A house of our own from nothing to priced and planned, each click and each thing typed counted; the quick survey on a phone likewise.

The house by hand is of `make soak`; over its forms it is in tests/web/test_counted_house.py.

The hand goes only where a person's would: links, buttons and fields that are in sight. Addresses are typed once, for the start page.
"""

import re

import pytest
from playwright.sync_api import Locator, Page, expect

from tests.support.serving import Site

pytestmark = pytest.mark.e2e
MOST_ACTIONS, MOST_QUICK = 140, 40
WING = "Wing or extension"
BLOCKS = (
    (WING, {"side": "its left side", "from_left_m": "6", "across_m": "16", "projects_m": "14", "eaves_height_m": "10",
            "ridge_height_m": "16"}),
    (WING, {"side": "its back", "from_left_m": "2", "across_m": "14", "projects_m": "10", "eaves_height_m": "10", "ridge_height_m": "15"}),
    ("Dormer", {"from_left_m": "15", "across_m": "8", "setback_m": "2", "eaves_height_m": "22", "ridge_height_m": "25"}),
    ("Deck", {"side": "its back", "from_left_m": "20", "across_m": "14", "deep_m": "12", "eaves_height_m": "2"}),
)  # fmt: skip
FINDINGS = (("South-east gable wall", "Peeling"), ("Wing north-west wall", "Cracked"), ("South-west wall", "Mildew or algae"))
AROUND = (
    ("Plants against the wall", "South-west", "2"),
    ("Outdoor cooling unit", "North-east", "6"),
    ("Power line or service drop", "South-east gable", "14"),
)
COLOURS = {
    "Body": "#b8742e", "Doors": "#2a4a4e", "Garage doors": "#e8e2d2", "Deck": "#8a6a4a", "Windows": "#f4f1e8", "Shutters": "#2a4a4e",
    "Trim": "#f4f1e8",
}  # fmt: skip


class Hand:
    """A person's hand: what it clicks, chooses and types is counted, each once."""

    def __init__(self, page: Page) -> None:
        self.page = page
        self.actions: list[str] = []

    def _see(self, what: Locator, act: str) -> Locator:
        expect(what).to_be_visible()
        self.actions.append(act)
        return what

    def click(self, what: Locator, *, leaves: bool = False) -> None:
        self._see(what, f"click {what}")
        if leaves:
            with self.page.expect_navigation():
                what.click()
        else:
            what.click()

    def link(self, name: str, within: str = "main") -> None:
        self.click(self.page.locator(within).get_by_role("link", name=name, exact=True).first, leaves=True)

    def button(self, name: str | re.Pattern[str], within: str = "main", *, leaves: bool = False) -> None:
        self.click(self.page.locator(within).get_by_role("button", name=name).first, leaves=leaves)

    def put(self, form: str, **values: str) -> None:
        """Type or choose, field by field."""
        for name, value in values.items():
            field = self._see(self.page.locator(f"#{form}-{name}"), f"{form} {name}: {value}")
            if field.evaluate("e => e.tagName") == "SELECT":
                field.select_option(label=value)
            elif field.get_attribute("type") == "checkbox":
                field.check()
            else:
                field.fill(value)

    def saved(self, form: str, **values: str) -> None:
        """Change fields of a card that saves by itself: the next touch is what leaves a field, so it is counted with it."""
        self.card("surface")
        for name, value in values.items():
            with self.page.expect_response(re.compile("/surfaces/")):
                self.put(form, **{name: value})
                self.page.locator(f"#{form}-{name}").blur()

    def wall(self, name: str) -> None:
        """Tap a surface on the house band."""
        link = self.page.locator(".band-place").get_by_role("link", name=re.compile(rf"^{re.escape(name)}: ")).first
        self.actions.append(f"tap {name}")
        with self.page.expect_navigation():
            link.evaluate("e => e.dispatchEvent(new MouseEvent('click', {bubbles: true, cancelable: true}))")

    def card(self, name: str) -> None:
        part = self.page.locator(f"#{name}-part")
        if part.get_attribute("open") is None:
            self.click(part.locator("summary").first)


def surface_form(page: Page) -> str:
    return page.locator(".surface-form").get_attribute("id")


def opening_form(page: Page) -> str:
    return page.locator("#opening-card form").first.get_attribute("id")


def added(hand: Hand, count: int) -> None:
    hand.button("Add", "#opening-card")
    expect(hand.page.locator("#openings tbody tr")).to_have_count(count)


def alike(hand: Hand, name: str) -> None:
    with hand.page.expect_response(re.compile("/alike")):
        hand.button(re.compile(name))


def stage(hand: Hand, name: str) -> None:
    hand.click(hand.page.locator("#stages a", has_text=name), leaves=True)


@pytest.mark.slow
def test_a_house_is_entered_priced_and_planned_in_a_hundred_and_forty_actions(page: Page, site: Site):
    page.goto(site.url)
    hand = Hand(page)
    hand.link("Jobs", "header")
    hand.link("New job")
    hand.put("new-job", name="Weir House", year_built="1986", owner_name="Lark Sorrel")
    page.locator("#new-job-as-job").select_option(index=1)
    hand.actions.append("as an earlier job")
    hand.put(
        "new-job", front_azimuth_deg="south-west", across_m="38", deep_m="26", eaves_height_m="18", ridge_height_m="27", overhang_m="1"
    )
    hand.button("Draw the house", leaves=True)

    # Two wings, a dormer, a deck.
    hand.link("Blocks")
    for kind, values in BLOCKS:
        if page.locator("#new-block-form button").inner_text() != f"Add the {kind.lower()}":
            hand.button(kind, "#new-block")
            expect(page.locator("#new-block-form button")).to_have_text(f"Add the {kind.lower()}")
        hand.put("new-block-form", **values)
        hand.button(re.compile("^Add the "), "#new-block-form", leaves=True)

    # Fourteen openings in five entries: equal ones together, a storey up and on the other side with them.
    hand.link("Walls")
    hand.wall("South-west wall")
    hand.card("openings")
    form = opening_form(page)
    hand.put(form, count="3", rise_m="9", has_shutters="yes", has_trim="yes")
    added(hand, 18)
    hand.put(form, kind="Entry door", left_m="22.5")
    added(hand, 19)
    for wall, values, count in (
        ("South-east gable wall", {"count": "2", "rise_m": "9"}, 4),
        ("North-east wall", {"kind": "Entry door", "left_m": "24"}, 1),
        ("Wing south-west wall", {"kind": "Garage door"}, 1),
        ("Wing 2 north-east wall", {"kind": "Casement window"}, 1),
    ):
        hand.wall(wall)
        hand.card("openings")
        hand.put(opening_form(page), **values)
        added(hand, count)

    # Three claddings, each said once; the deck's wood.
    hand.wall("South-west wall")
    hand.saved(surface_form(page), coating="Acrylic paint", coated_year="2014")
    alike(hand, "^Make every wall")
    for wall, substrate in (("Wing north-west wall", "Stucco or render"), ("Wing 2 north-east wall", "Fibre cement")):
        hand.wall(wall)
        hand.saved(surface_form(page), substrate=substrate)
        alike(hand, "^Only those of")
    hand.wall("Deck boards")
    hand.saved(surface_form(page), substrate="Deck boards of cedar or redwood", coating="Bare, never coated")

    # What is wrong, and where.
    for wall, what in FINDINGS:
        hand.wall(wall)
        hand.card("findings")
        hand.put("finding", kind=what, x_m="6", y_m="3")
        hand.button("Pin it", "#finding")
        expect(page.locator("#findings article")).to_have_count(1)

    # What stands round it.
    hand.link("Around the house")
    for what, before, how_far in AROUND:
        hand.put("feature", kind=what, elevation_id=before, distance_m=how_far)
        hand.button("Note it", "#feature", leaves=True)
    # Its colours, by zone, in one go.
    stage(hand, "Systems")
    hand.link("Colours")
    for zone, code in COLOURS.items():
        field = page.locator("#all-colours").get_by_label(zone, exact=True)
        hand.click(field)
        field.fill(code)
    hand.button("Put them all on the house", leaves=True)
    expect(page.locator("h1")).to_contain_text("every one with its colour")

    # The price, and on what it rests; the plan.
    stage(hand, "Take-off")
    hand.link("Price")
    expect(page.locator("h1")).to_have_text(re.compile(r"\$\d\d,\d{3}\.\d\d\."))
    expect(page.locator("#rests-on li").first).to_be_visible()
    stage(hand, "Schedule")
    hand.button("Make the schedule", leaves=True)
    expect(page.locator(".made")).to_be_visible()
    assert len(hand.actions) <= MOST_ACTIONS, len(hand.actions)
    print(f"{len(hand.actions)} actions")


def test_a_quick_price_on_a_phone_takes_forty_actions(page: Page, site: Site):
    page.set_viewport_size({"width": 360, "height": 740})
    page.goto(site.url)
    hand = Hand(page)
    hand.click(page.locator("[data-more]"))
    hand.link("Jobs", "header")
    hand.link("New job")
    hand.link("Quick survey")
    hand.put("quick", name="Weir House", perimeter_m="128", eaves_height_m="18", storeys="2", substrate="Wood siding")
    hand.put("quick", grade="poor: peeling, cracked", year_built="1986")
    for label, count in (("Usual windows", "12"), ("Doors", "2"), ("Garage doors", "1")):
        field = page.locator("#quick").get_by_label(re.compile(f"^{label}")).first
        hand.click(field)
        field.fill(count)
    hand.button("Price it", leaves=True)
    expect(page.locator("h1")).to_contain_text(re.compile(r"^\$[\d,]+ to \$[\d,]+, likely \$[\d,]+"))
    box = page.locator("h1").bounding_box()
    assert box is not None
    assert box["y"] + box["height"] < 740, "the answer is on the first screen"
    assert len(hand.actions) <= MOST_QUICK, len(hand.actions)
    print(f"{len(hand.actions)} actions")
