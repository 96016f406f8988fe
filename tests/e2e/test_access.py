"""Accessible: no axe violations on any page, in both themes and on a phone; keys reach everything."""

import pytest
from playwright.sync_api import Page, expect

from tests.support.browsing import violations
from tests.support.seeded import running

pytestmark = [pytest.mark.e2e, pytest.mark.small]

STAGES = ("survey", "systems", "takeoff", "windows", "schedule", "log")
PARTS = ("blocks", "items", "around", "gates", "walk", "facts", "files", "walk/around/damage")
OF_SYSTEMS = ("schools", "colours", "samples", "shelf", "strokes", "cards", "limits")
OF_TAKEOFF = ("takeoff/sundries", "takeoff/spray", "takeoff/ways", "takeoff/hours", "price", "price/changes", "truck", "papers", "rates")


@pytest.fixture(scope="module")
def site(seeded_folder, pool, tmp_path_factory):
    """One application for all tests here: they only look."""
    with running(seeded_folder, pool, tmp_path_factory.mktemp("access") / "data") as found:
        yield found


OUTSIDE = (
    "",
    "/jobs",
    "/jobs/new",
    "/reckoner",
    "/reckoner/surface-temperature",
    "/nowhere",
    "/quick",
    "/bids",
    "/crew",
    "/crew/hours",
    "/tomorrow",
    "/settings",
)
OF_WINDOWS = ("windows/compare", "windows/sheet", "windows?work=wash&days=10&order=next")
OF_A_JOB = (*STAGES, *OF_TAKEOFF, *OF_WINDOWS, *(f"survey/{p}" for p in PARTS), *(f"systems/{p}" for p in OF_SYSTEMS))
DESK = (*OUTSIDE, *OF_A_JOB)


def address_of(site, path: str) -> str:
    return site.job(path) if path in OF_A_JOB else f"{site.url}{path}"


OFTEN = (
    "", "survey", "windows",
)  # fmt: skip
ON_SITE = (
    "windows",
    "log",
    "survey/walk/around/damage",
    "truck",
    "systems/cards",
    "survey",
    "/today",
    "/quick",
    "systems",
    "systems/colours",
    "/bids",
)
GLARE = ("windows", "schedule", "takeoff", "systems", "takeoff/hours", "takeoff/ways")
DESK_SIZE, PHONE_SIZE = (1280, 800), (360, 740)


# What is looked at daily, in each theme and size; all the other pages in the long run.
@pytest.mark.parametrize(
    ("theme", "size", "pages"),
    [
        ("linen", DESK_SIZE, OFTEN),
        ("linen", PHONE_SIZE, ON_SITE[:2]),
        pytest.param("glare", DESK_SIZE, GLARE[:1], marks=pytest.mark.slow),
        pytest.param("linen", PHONE_SIZE, ON_SITE[2:3], marks=pytest.mark.slow),
        pytest.param("linen", DESK_SIZE, tuple(p for p in DESK if p not in OFTEN), marks=pytest.mark.slow),
        pytest.param("glare", DESK_SIZE, GLARE[1:], marks=pytest.mark.slow),
        pytest.param("linen", PHONE_SIZE, ON_SITE[3:], marks=pytest.mark.slow),
    ],
)
def test_no_page_breaks_a_rule_of_access(page: Page, site, theme, size, pages):
    page.set_viewport_size({"width": size[0], "height": size[1]})
    page.context.add_cookies([{"name": "theme", "value": theme, "url": site.url}])
    page.goto(site.job("schedule") if "schedule" in pages else site.url)
    if "schedule" in pages and not page.get_by_role("heading", name="Coat by coat").count():
        page.get_by_role("button", name="Make the schedule", exact=True).click()
        expect(page.get_by_role("heading", name="Coat by coat")).to_be_visible()
    broken = {}
    for path in pages:
        page.goto(address_of(site, path))
        if size == PHONE_SIZE:
            assert page.evaluate("document.documentElement.scrollWidth") <= 360, f"{path} is wider than the phone"
        if found := violations(page):
            broken[path] = found
    assert broken == {}


@pytest.mark.slow
def test_errors_and_answers_are_accessible_too(page: Page, site):
    page.goto(site.job("log"))
    page.get_by_role("button", name="Answer").click()
    expect(page.locator("#reading-air_temp_c-error")).not_to_be_empty()
    assert violations(page) == []
    page.get_by_label("Air").fill("70")
    page.get_by_label("Humidity").fill("50")
    page.get_by_label("Surface").fill("68")
    page.get_by_role("button", name="Answer").click()
    expect(page.locator(".verdict-word")).to_be_visible()
    assert violations(page) == []


@pytest.mark.slow
def test_on_a_phone_nothing_is_wider_than_the_screen(page: Page, site):
    page.set_viewport_size({"width": 360, "height": 740})
    for path in DESK:
        page.goto(address_of(site, path))
        wide = page.evaluate("document.documentElement.scrollWidth")
        assert wide <= 360, f"{path} is {wide} px wide"


def test_thumbs_find_their_targets(page: Page, site):
    page.set_viewport_size({"width": 360, "height": 740})
    page.goto(site.job("log"))
    for name in ("Answer",):
        assert page.get_by_role("button", name=name).bounding_box()["height"] >= 44
    for control in page.locator("main input:visible, main select:visible").all():
        assert control.bounding_box()["height"] >= 44


def test_undo_stays_beside_a_long_headline(page: Page, site):
    page.set_viewport_size({"width": 1280, "height": 800})
    for path in ("takeoff", "systems/colours", "price"):
        page.goto(site.job(path))
        page.locator("main h1").first.evaluate("h => { h.textContent = 'A headline of many words, '.repeat(6); }")
        head, undo = page.locator("main h1").first.bounding_box(), page.locator("#undo button").bounding_box()
        assert undo["y"] < head["y"] + head["height"], f"{path}: beside it, not below"
        assert undo["x"] >= head["x"] + head["width"]


def test_keys_go_to_stages_and_the_list_of_keys_opens(page: Page, site):
    page.goto(site.job("survey"))
    for key, stage in (("4", "windows"), ("6", "log"), ("2", "systems")):
        page.locator("#main").focus()
        page.keyboard.press(key)
        page.wait_for_url(f"**/{stage}*")
    page.keyboard.press("?")
    expect(page.get_by_role("dialog")).to_be_visible()
    page.keyboard.press("Escape")
    # In a field, keys are letters.
    page.goto(site.job("log"))
    page.get_by_label("Air").press("4")
    expect(page.get_by_label("Air")).to_have_value("4")
    page.goto(site.job("windows"))
    page.locator("#main").focus()
    page.keyboard.press("g")
    expect(page.locator("html")).to_have_attribute("data-theme", "glare")
    page.reload()
    expect(page.locator("html")).to_have_attribute("data-theme", "glare")
