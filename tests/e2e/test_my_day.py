"""My day on a phone: who holds it, start, pause by a tap on the wall, go on, done; the answer stands on the first screen everywhere."""

import re

import pytest
from playwright.sync_api import Page, expect

from tests.support.serving import step_clock

pytestmark = [pytest.mark.e2e, pytest.mark.small]
PHONE = {"width": 360, "height": 740}
# Used on site; the answer starts within so many pixels from the top.
PAGES, FIRST_PX = ("windows", "schedule", "log", "takeoff", "survey", "systems"), 120


def test_the_answer_starts_at_the_top_of_a_phone_and_the_stages_are_one_tap_away(quiet_page: Page, site):
    page = quiet_page
    page.set_viewport_size(PHONE)
    for path in (site.url, f"{site.url}/today", f"{site.url}/crew", *(site.job(stage) for stage in PAGES)):
        page.goto(path)
        top = page.locator("main h1").first.bounding_box()["y"]
        assert top < FIRST_PX, f"{path}: {top:.0f} px"
    page.goto(site.job("log"))
    expect(page.locator("[data-more]")).to_have_text("Site log")
    page.locator("[data-more]").click()
    page.get_by_role("link", name=re.compile("Windows")).click()
    expect(page.locator("[data-more]")).to_have_text("Windows")
    # A gate is one line that opens.
    gate = page.locator("#gate-lead")
    assert gate.bounding_box()["height"] < 48
    gate.locator("summary").click()
    expect(gate.locator("li").first).to_be_visible()


def test_a_coat_is_started_paused_on_the_wall_gone_on_with_and_done(quiet_page: Page, site):
    page = quiet_page
    page.goto(site.job("schedule"))
    page.get_by_role("button", name="Make the schedule", exact=True).click()
    expect(page.locator(".made")).to_be_visible()
    page.set_viewport_size(PHONE)
    page.goto(f"{site.url}/today")
    expect(page.locator("h1")).to_have_text("Who holds this phone?")
    with page.expect_navigation():
        page.get_by_role("button", name="Tobias").click()
    step_clock(page, 1, 1, 1, 1)
    # What came before is said first; each thumb is large enough.
    for _ in range(3):
        asks = page.get_by_role("button", name="Yes, done")
        if not asks.count():
            break
        with page.expect_navigation():
            asks.first.click()
    for button in page.locator("main .btn:visible").all():
        assert button.bounding_box()["height"] >= 44
    with page.expect_navigation():
        page.get_by_role("button", name="Start", exact=True).first.click()
    what = page.locator("h1").inner_text()
    expect(page.locator("h1")).to_contain_text("first coat")
    step_clock(page, 1)
    expect(page.locator("[data-since]")).to_have_text(re.compile("^1 h 0"))
    # The timer is the server's: another visit shows the same.
    page.reload()
    expect(page.locator("[data-since]")).to_have_text(re.compile("^1 h 0"))

    # Tapped in the middle of the wall: the joint, and half of it on record; a tap behind it is refused and loses nothing.
    page.locator("#pause summary").click()
    wall = page.locator(".today-wall svg").bounding_box()
    page.mouse.click(wall["x"] + wall["width"] / 2, wall["y"] + wall["height"] / 2)
    expect(page.locator("#pause-told")).to_contain_text("from the left corner")
    with page.expect_navigation():
        page.get_by_role("button", name="Stopped here").click()
    expect(page.locator("h1")).to_have_text(re.compile("^Go on: "))
    expect(page.locator(".today-note")).to_contain_text(re.compile(r"paused, (4\d|5\d) % done"))
    expect(page.locator(".stop-mark")).to_have_count(1)
    with page.expect_navigation():
        page.get_by_role("button", name="Go on").click()
    page.locator("#pause summary").click()
    page.get_by_label("Wet edge, from the left corner").fill("2 ft")
    page.get_by_role("button", name="Stopped here").click()
    expect(page.locator(".field-error", has_text="on record already")).to_be_visible()
    expect(page.get_by_label("Wet edge, from the left corner")).to_have_value("2 ft")
    with page.expect_navigation():
        page.get_by_role("button", name="Done", exact=True).click()
    done = page.locator(".today-list li.is-done", has_text=what.split(":")[0])
    expect(done).to_be_visible()
    # From three o'clock on the day is being closed: the hours that are on record.
    step_clock(page, 3, 1, 1)
    expect(page.locator("#leaving")).to_contain_text(re.compile(r"[1-9]\.\d h of today are on record for you"))

    # The record in the office has each line, the joint's among them.
    page.set_viewport_size({"width": 1280, "height": 800})
    page.goto(site.job("schedule"))
    expect(page.locator("#record li").first).to_contain_text("Said by Tobias")
