"""Windows in the browser: weather from a file is read in, refused row by row, taken out; an hour says what would make it better."""

import re
from datetime import datetime, timedelta

import pytest
from PIL import Image
from playwright.sync_api import Page, expect

from amber_gable.drawing.tokens import token
from tests.support.browsing import violations
from tests.support.pace import slowness

pytestmark = pytest.mark.e2e


def hours(gust_mph: float, temp_f: str = "68") -> str:
    start = datetime.fromisoformat("2026-09-13T06:00:00")
    rows = [f"{(start + timedelta(hours=n)).isoformat()},{temp_f},50,{gust_mph},20,0" for n in range(120)]
    return "\n".join(["time,air temp (°F),humidity (%),wind (mph),cloud (%),chance of rain (%)", *rows])


@pytest.mark.slow
def test_weather_from_a_file(quiet_page: Page, site, tmp_path):
    page = quiet_page
    page.goto(site.job("windows"))
    page.get_by_text("Weather from a file").click()
    bad = tmp_path / "bad.csv"
    bad.write_text(hours(5, "20").replace("air temp (°F)", "air temp (°C)").replace(",20,50", ",72,50", 3), encoding="utf-8")
    page.get_by_label("Hourly CSV or JSON").set_input_files(bad)
    page.get_by_role("button", name="Read it in").click()
    expect(page.locator("#weather-file-error")).to_contain_text("row 2, air temp: air temperature 72 cannot be. If it is Fahrenheit")
    good = tmp_path / "windy.csv"
    good.write_text(hours(30), encoding="utf-8")
    page.get_by_label("Hourly CSV or JSON").set_input_files(good)
    page.get_by_role("button", name="Read it in").click()
    expect(page.locator("#weather-file .notice")).to_contain_text("rest on a file")
    # A gale all day: nothing is open, and the page says so and why.
    page.goto(site.job("windows"))
    expect(page.locator(".why-words h2")).to_contain_text("shut")
    expect(page.locator(".reasons")).to_contain_text("Gusts of 30 mph")
    assert violations(page) == []
    page.get_by_role("button", name="Take it out again").click()
    expect(page.locator("#weather-file .notice")).to_have_count(0)


def test_a_dewy_hour_says_when_it_opens_and_what_helps(quiet_page: Page, site):
    page = quiet_page
    page.goto(site.job("windows"))
    better = page.locator(".better")
    expect(better).to_contain_text(re.compile(r"By itself it opens (Tue|Wed) \d\d:\d\d\."))
    # The chance comes into the card by itself; a click before it has settled may be lost.
    page.wait_for_load_state("networkidle")
    page.locator(".why-words").get_by_role("link", name="How far now, by when?").click()
    expect(page.locator(".answer-lead")).to_have_text("Do not paint here now.")
    expect(page.locator(".answer-rest")).to_contain_text(re.compile(r"It opens \d\d:\d\d\."))


@pytest.mark.slow
def test_scrubbing_stays_in_the_browser_and_keeps_up(quiet_page: Page, site):
    page = quiet_page
    page.goto(site.job("windows") + "?days=10")
    expect(page.locator(".may-begin").first).to_be_visible()
    page.wait_for_load_state("networkidle")
    asked = []
    page.on("request", lambda r: asked.append(r.url))
    # A drag over all of ten days: each frame draws house, plan and cursors anew.
    spent = page.evaluate(
        """() => { const h = document.querySelector('[data-hours]').hours; const n = 240; const t = performance.now();
        for (let i = 0; i < n; i++) h.show(Math.floor(i * h.count / n)); return (performance.now() - t) / n; }"""
    )
    assert asked == [], "nothing is asked of the server while it moves"
    # 60 frames a second leave 16.7 ms for each.
    assert spent < 16.7 * slowness()
    shadow = page.locator(".plan-shadow").first
    page.evaluate("q => document.querySelector('[data-hours]').hours.show(q)", 48)
    assert shadow.get_attribute("d").startswith("M")
    page.evaluate("q => document.querySelector('[data-hours]').hours.show(q)", 4)
    assert shadow.get_attribute("d") == "", "no sun, no shadow"


@pytest.mark.slow
def test_a_palm_on_the_wall_overrules_the_model(quiet_page: Page, site):
    page = quiet_page
    page.goto(site.job("windows"))
    expect(page.locator(".why-words h2")).to_contain_text("shut")
    expect(page.locator(".reasons")).to_contain_text("wet surface")
    page.locator(".palms").get_by_role("button", name="dry", exact=True).click()
    expect(page.locator(".found h3 small").first).to_contain_text("dry at 06:50")
    # In the next quarter-hour the wall is not wet any more, whatever else there is.
    page.keyboard.press(">")
    expect(page.locator(".why-words h2")).to_contain_text("07:00")
    expect(page.locator(".why-words")).not_to_contain_text("Its face is dry from")
    page.get_by_label("Moisture by meter").fill("400")
    page.get_by_role("button", name="Note it").click()
    expect(page.locator("#meter-moisture_pct-error")).to_contain_text("at most 60 %")
    assert page.get_by_label("Moisture by meter").input_value() == "400", "nothing typed is lost"


@pytest.mark.slow
def test_two_ways_side_by_side_and_the_sheet_as_a_picture(quiet_page: Page, site):
    page = quiet_page
    page.goto(site.job("windows"))
    page.get_by_label("Hours for").select_option("wash")
    expect(page.locator(".why-after h3")).to_contain_text("Done at")
    page.get_by_role("link", name="Compare two ways").click()
    page.get_by_label("Another").select_option(label="School 2: follow the shade strictly")
    page.get_by_role("button", name="Compare").click()
    expect(page.locator(".answer-lead")).to_contain_text("gain")
    assert page.locator(".compare-row").count() == 2
    assert violations(page) == []
    page.goto(site.job("windows/sheet"))
    with page.expect_download() as picture:
        page.get_by_role("button", name="PNG").click()
    with Image.open(picture.value.path()) as image:
        assert image.size[0] == 2660
        # Not an empty canvas: teal of open hours is on it.
        assert tuple(bytes.fromhex(token("open")[1:])) in {c for _, c in image.convert("RGB").getcolors(1_000_000)}
    assert violations(page) == []
