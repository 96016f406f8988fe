"""Days on the demonstration's clock, in the real browser: what a crew is told from hour to hour."""

import re
from datetime import datetime

import pytest
from playwright.sync_api import Page, expect

from tests.support.serving import step_clock, tap_clock

pytestmark = [pytest.mark.e2e, pytest.mark.small]


def shown_time(page: Page) -> datetime:
    return datetime.fromisoformat(page.locator("[data-clock]").get_attribute("datetime"))


@pytest.mark.slow
def test_a_day_from_dew_to_dusk_and_the_front_after_it(quiet_page: Page, site):
    page = quiet_page
    page.goto(site.job("schedule"))
    page.get_by_role("button", name="Make the schedule", exact=True).click()
    expect(page.locator(".made")).to_be_visible()
    page.goto(site.url)
    first = page.locator("article", has=page.get_by_role("link", name="Tollkeeper's House", exact=True))
    lead, until = first.locator(".answer-lead"), first.locator(".answer-until")
    expect(until).to_contain_text("All 7 surfaces are wet")
    start = re.search(r"at (\d\d):(\d\d)", lead.inner_text())
    assert 8 <= int(start[1]) <= 11, "late in the morning, once the dew is gone"

    step_clock(page, 3, 1, 1)
    expect(lead).to_have_text(re.compile(r"^Paint the .* now\.$"))
    expect(until).to_have_count(0)
    # The drawing beside it shows a side that may be painted.
    assert {"var(--open)", "url(#fill-tight)"} & {s.get_attribute("fill") for s in first.locator(".morning-house .band-surface").all()}

    # After dusk the sentence speaks of tomorrow, and the forecast is the newest.
    step_clock(page, 3, 3, 3)
    assert shown_time(page).hour == 20
    expect(lead).to_contain_text(re.compile("was (it|each) done"))
    first.get_by_role("button", name=re.compile("were done as planned")).click()
    expect(lead).to_contain_text(re.compile("tomorrow at|at \\d\\d:\\d\\d"))
    expect(page.locator(".bar-facts")).to_contain_text(re.compile(r"forecast \d+ (min|h)"))

    # Thursday: rain. Nothing is opened, and every shut hour says why.
    step_clock(page, 24, 3, 3, 3, 3, 3)
    assert shown_time(page).strftime("%a %H") == "Thu 11"
    page.goto(site.job("windows"))
    expect(page.locator("[data-caption]").first).to_contain_text("shut:")
    expect(page.locator("#why .reasons")).to_contain_text(re.compile("rain", re.I))
    # A plan made on Tuesday is held against Thursday's forecast.
    page.goto(site.job("schedule"))
    expect(page.locator(".made")).to_contain_text("from the forecast of Tuesday 06:00")
    expect(page.locator(".unsaid")).to_contain_text("What nobody recorded is not done")


@pytest.mark.slow
def test_a_metric_house_south_of_the_equator(quiet_page: Page, site):
    page = quiet_page
    page.goto(f"{site.url}/jobs/new")
    page.get_by_label("Units").select_option("metric")
    fields = {
        "Name": "Sandbar Hut", "Latitude": "-38,5", "Longitude": "145.2", "Altitude": "15", "Time zone": "Australia/Melbourne",
        "Width along its front": "9,9", "Depth": "7.2", "Eaves height": "2.9", "Ridge height": "5.1 m", "Front faces": "0",
    }  # fmt: skip
    for label, value in fields.items():
        page.get_by_label(re.compile(f"^{label}")).first.fill(value)
    page.get_by_role("button", name="Draw the house").click()
    expect(page.locator("h1")).to_contain_text("m² to paint on 4 sides")
    # The sun side is computed: here it is the north.
    sun_side = page.locator(".band [data-view]", has=page.locator(".band-sun.is-on")).locator(".band-name")
    expect(sun_side).to_have_text("North")
    # 2 x (9.9 + 7.2) x 2.9 of walls and two gables of 7.2 x 2.2 / 2.
    assert page.locator("h1").inner_text().startswith(f"{2 * (9.9 + 7.2) * 2.9 + 7.2 * 2.2:.1f} m²")
    page.keyboard.press("4")
    # The page's script says the hour once it is there to be asked.
    expect(page.locator("#hour-word")).not_to_be_empty()
    # At local noon the sun stands in the north there, and the clock is the house's own.
    page.evaluate("const s = document.getElementById('hour'); s.value = 48; s.dispatchEvent(new Event('input'))")
    expect(page.locator("#hour-word")).to_contain_text("12:00")
    sunny = page.locator(".band-sun.is-on").all()
    names = {s.locator("xpath=../*[contains(@class, 'band-name')]").text_content() for s in sunny}
    assert "South" not in names
    cy = float(page.locator("[data-plan-sun]").get_attribute("cy"))
    assert cy < 120, "north of the middle of the plan"
    expect(page.locator("[data-caption]").first).to_contain_text("°C")
    assert shown_time(page).utcoffset().total_seconds() == 10 * 3600


def test_a_tap_steps_the_demonstrations_clock(page: Page, site):
    page.goto(f"{site.url}/jobs/new")
    before = page.locator("[data-clock]").get_attribute("datetime")
    tap_clock(page, 3)
    expect(page.locator("[data-clock]")).not_to_have_attribute("datetime", before)
    assert shown_time(page).hour == 9
