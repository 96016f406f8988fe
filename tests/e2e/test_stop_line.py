"""The stop line on a phone before the wall: the joint moves when a shower is typed in, when hands or the wet edge change."""

import re

import pytest
from playwright.sync_api import Page, expect

from tests.support.browsing import violations
from tests.support.serving import step_clock

pytestmark = [pytest.mark.e2e, pytest.mark.small]


def x_of(page: Page) -> float:
    return float(re.match(r"M([\d.]+)", page.locator(".stop-mark").get_attribute("d"))[1])


@pytest.mark.slow
def test_the_stop_joint_moves_when_a_shower_is_typed_in(quiet_page: Page, site):
    page = quiet_page
    page.set_viewport_size({"width": 360, "height": 740})
    page.goto(site.job("windows"))
    step_clock(page, 3, 1)
    page.goto(site.job("windows"))
    href = page.get_by_role("link", name="East wall").first.get_attribute("href")
    surface = re.search(r"surface=([\w-]{36})", href)[1]
    page.goto(site.job(f"stop/{surface}?painters=1"))
    lead = page.locator(".answer-lead")
    expect(lead).to_have_text(re.compile(r"^(Finish the wall|Stop at the .+), by \d\d:\d\d\.$"))
    before, first = lead.inner_text(), x_of(page)
    page.get_by_label("I see rain, now or at").fill("tea time")
    page.get_by_role("button", name="I see rain").click()
    expect(page.locator("#stop-form-rain_at-error")).to_contain_text("A time like 15:00")
    page.get_by_label("I see rain, now or at").fill("16:15")
    page.get_by_role("button", name="I see rain").click()
    expect(page.locator(".stop-rain")).to_contain_text("Rain seen for 16:15")
    expect(lead).not_to_have_text(before)
    expect(lead).to_have_text(re.compile(r"^Stop at the (left|right) side of the .+, by 1[12]:\d\d\.$"))
    assert x_of(page) < first
    assert page.locator(".stop-joints .is-stop").count() == 1
    # More hands reach farther; a wet edge that is already there counts from where it is.
    moved = x_of(page)
    page.get_by_label("Painters").fill("3")
    page.get_by_role("button", name="How far now?").click()
    expect(page.locator(".stop .quiet")).to_contain_text("with 3 painters")
    assert x_of(page) > moved
    page.get_by_label("Wet edge").fill("12'")
    page.get_by_role("button", name="How far now?").click()
    expect(page.locator(".stop-edge")).to_have_count(1)
    expect(page.locator(".stop-drawing")).to_contain_text("done")
    assert page.evaluate("document.documentElement.scrollWidth") <= 360
    assert violations(page) == []
    # Rain in an hour: nothing can be put on any more; what dry work there is, is said.
    page.get_by_label("I see rain, now or at").fill("12:00")
    page.get_by_role("button", name="I see rain").click()
    expect(lead).to_have_text("Do not paint here now.")
    expect(page.locator(".stop-rain")).to_contain_text("Dry work:")
    page.get_by_role("button", name="Undo: rain seen at 12:00").click()
    expect(lead).not_to_have_text("Do not paint here now.")
