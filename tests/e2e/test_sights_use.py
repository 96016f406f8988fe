"""What somebody sees on site, in the browser: rain with one tap from any page and ended with one, sides by palm, a stricter film school."""

import re

import pytest
from playwright.sync_api import Page, expect

from tests.support.browsing import violations
from tests.support.serving import step_clock

pytestmark = [pytest.mark.e2e, pytest.mark.small]


def test_rain_is_seen_stands_everywhere_and_has_stopped_with_one_tap(quiet_page: Page, site):
    page = quiet_page
    page.goto(site.job("log"))
    step_clock(page, 3, 3)
    page.goto(site.job("log"))
    sky = page.locator("#see")
    sky.get_by_label("Rain", exact=True).select_option("heavy")
    sky.get_by_label("Seen by").select_option(index=0)
    sky.get_by_role("button", name="I see rain").click()
    here = page.locator("form.sky")
    expect(here).to_contain_text(
        re.compile(r"Heavy rain here since \d\d:\d\d \(\w+\): nothing opens until somebody says that it has stopped")
    )
    expect(page.locator(".now-list")).not_to_contain_text("open")
    assert violations(page) == []
    # On the start page, on Windows, two hours on: it still rains by somebody's eyes.
    page.goto(site.url)
    expect(page.locator("form.sky")).to_have_count(1)
    page.goto(site.job("windows"))
    step_clock(page, 1)
    page.goto(site.job("windows"))
    expect(page.locator(".why-words h2")).to_contain_text("shut")
    page.locator("form.sky").get_by_role("button", name="Rain has stopped").click()
    page.wait_for_load_state("networkidle")
    expect(page.locator("form.sky")).to_have_count(0)
    expect(page.get_by_role("button", name=re.compile("Undo: rain has stopped"))).to_be_visible()
    # The walls are as wet as it made them.
    page.goto(site.job("log"))
    expect(page.locator(".now-list")).to_contain_text("wet surface")


def test_two_sides_are_felt_at_once_and_a_wash_ends_it(quiet_page: Page, site):
    page = quiet_page
    page.goto(site.job("log"))
    page.get_by_text("Several sides at once, or earlier").click()
    several = page.locator("#several")
    several.get_by_label("At", exact=True).fill("25:00")
    several.get_by_label("East", exact=True).check()
    several.get_by_label("South gable", exact=True).check()
    several.get_by_role("button", name="dry").click()
    expect(page.locator("#several-found_at-error")).to_contain_text("A time like 15:00")
    several.get_by_label("At", exact=True).fill("06:30")
    several.get_by_role("button", name="dry").click()
    expect(page.locator("#palms")).to_contain_text(re.compile(r"East wall\s+dry at 06:30"))
    expect(page.locator("#palms")).to_contain_text(re.compile(r"South gable wall\s+dry at 06:30"))
    page.get_by_text("Several sides at once, or earlier").click()
    page.locator("#several").get_by_label("East", exact=True).check()
    page.locator("#several").get_by_role("button", name="washed").click()
    expect(page.locator("#palms")).to_contain_text(re.compile(r"East wall\s+washed at 06:50"))


def test_a_stricter_film_school_costs_hours_that_are_named_before(quiet_page: Page, site):
    page = quiet_page
    page.goto(site.job("systems/schools"))
    school = page.locator("#school-fresh-film")
    hours = [float(h) for h in re.findall(r"([\d.]+) h", school.inner_text()) if float(h) > 5]
    assert len(hours) == 3
    # Strict, half-way, the label's clock: each looser one opens no fewer hours.
    assert hours[0] < hours[1] <= hours[2]
    school.get_by_role("button", name=re.compile("safe only when rain-ready")).click()
    school.get_by_role("button", name="Take it for this job").click()
    expect(page.locator("#school-fresh-film .is-now")).to_contain_text("safe only when rain-ready")
    # On the card of an afternoon hour the film's rule speaks, by its school.
    page.goto(site.job("windows"))
    expect(page.locator(".why-words")).to_contain_text("school 21")
