"""Windows in the browser: weather from a file is read in, refused row by row, taken out; an hour says what would make it better."""

import re
from datetime import datetime, timedelta

import pytest
from playwright.sync_api import Page, expect

from tests.e2e.test_access import violations

pytestmark = pytest.mark.e2e


def hours(gust_mph: float, temp_f: str = "68") -> str:
    start = datetime.fromisoformat("2026-09-13T06:00:00")
    rows = [f"{(start + timedelta(hours=n)).isoformat()},{temp_f},50,{gust_mph},20,0" for n in range(120)]
    return "\n".join(["time,air temp (°F),humidity (%),wind (mph),cloud (%),chance of rain (%)", *rows])


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
    page.locator(".why-words").get_by_role("link", name="How far now, by when?").click()
    expect(page.locator(".answer-lead")).to_have_text("Do not paint here now.")
    expect(page.locator(".answer-rest")).to_contain_text(re.compile(r"It opens \d\d:\d\d\."))
