"""A contractor's way through the application in the real browser, stage by stage."""

import re
from pathlib import Path

import pytest
from icalendar import Calendar
from playwright.sync_api import Page, expect

from tests.support.serving import step_clock

pytestmark = [pytest.mark.e2e, pytest.mark.small]

COTTAGE = {
    "Name": "Ferry Cottage", "Year built": "1962", "Latitude": "43.81", "Longitude": "-91.22", "Altitude": "680 ft",
    "Width along its front": "32' 6\"", "Depth": "7.3 m", "Eaves height": "9' 6\"", "Ridge height": "17'", "Overhang": "1'",
    "Plinth height": "1'", "Front faces": "165",
}  # fmt: skip


def fill(page: Page, fields: dict[str, str]) -> None:
    for label, value in fields.items():
        page.get_by_label(re.compile(f"^{label}")).first.fill(value)


def fills(page: Page) -> dict[str, str]:
    shapes = page.locator(".band-surface[data-state]")
    return {s.get_attribute("data-surface"): s.get_attribute("fill") for s in shapes.all()}


def test_a_new_house_from_the_tape_to_the_first_reading(quiet_page: Page, site, tmp_path: Path):
    page = quiet_page
    page.goto(site.url)
    page.get_by_role("link", name="Jobs").click()
    page.get_by_role("link", name="New job").click()

    # A fault first: it is named beside its field, and nothing typed is lost.
    fill(page, COTTAGE | {"Ridge height": "8'", "Latitude": "91"})
    page.get_by_role("button", name="Draw the house").click()
    expect(page.locator("#new-job-ridge_height_m-error")).to_contain_text("above the eaves")
    expect(page.locator("#new-job-latitude_deg-error")).to_contain_text("between -90 and 90")
    expect(page.get_by_label("Latitude")).to_be_focused()
    expect(page.get_by_label("Latitude")).to_have_attribute("aria-invalid", "true")
    expect(page.get_by_label("Width along its front")).to_have_value("32' 6\"")
    fill(page, {"Ridge height": "17'", "Latitude": "43.81"})
    page.get_by_role("button", name="Draw the house").click()

    # Survey: the drawing is there, to scale, and takes an opening.
    expect(page.locator(".band [data-view]")).to_have_count(4)
    expect(page.locator("#gate-lead")).to_contain_text("built 1962, before 1978")
    page.locator(".band").get_by_role("link", name="South wall: to be painted").click()
    page.locator("#openings-part summary").click()
    card = page.locator("#opening-card")
    fill_opening = {"Width": "3'", "Height": "6' 8\"", "From left": "14'", "Sill": "1'"}
    card.get_by_label("What").select_option("entry-door")
    for label, value in (fill_opening | {"Width": "40'"}).items():
        card.get_by_label(re.compile(f"^{label}")).fill(value)
    card.get_by_role("button", name="Add").click()
    expect(card.locator(".field-error:not(:empty)")).to_contain_text("Wider than the wall")
    expect(card.get_by_label(re.compile("^Height"))).to_have_value("6' 8\"")
    expect(page.locator("[data-marks] .mark-fault")).to_have_count(1)
    card.get_by_label(re.compile("^Width")).fill("3'")
    card.get_by_role("button", name="Add").click()
    expect(page.locator("#openings").get_by_role("cell", name="Entry door", exact=True)).to_be_visible()
    expect(page.locator("#surfaces").get_by_role("link", name="South entry door")).to_be_visible()
    expect(page.locator(".band .band-door")).to_have_count(1)
    page.locator("#surface-part summary").first.click()
    lrv = page.locator(".surface-form").get_by_label("New colour, LRV")
    lrv.fill("62")
    lrv.blur()
    expect(page.locator("#undo")).to_contain_text("Undo: change South wall")

    # Take-off: 32.5 ft x 8.5 ft of siding less a door of 3 ft x 6 ft 8 in: 256 ft2.
    page.keyboard.press("Escape")
    page.locator("body").click(position={"x": 5, "y": 790})
    page.keyboard.press("3")
    expect(page.locator("h1")).to_contain_text(re.compile(r"\d+ cans in \d+ lots"))
    page.locator(".lot-how summary").first.click()
    expect(page.get_by_role("row", name=re.compile("^South wall First coat.* 256 ft²"))).to_be_visible()

    # Schedule, and the calendar file to take along.
    page.get_by_role("link", name=re.compile("Schedule")).click()
    page.get_by_role("button", name=re.compile("^Make ")).click()
    expect(page.locator(".made")).to_be_visible()
    with page.expect_download() as download:
        page.get_by_role("link", name="Calendar file").click()
    file = tmp_path / "schedule.ics"
    download.value.save_as(file)
    events = list(Calendar.from_ical(file.read_bytes()).walk("VEVENT"))
    assert len(events) >= 20, "all of the work"
    assert all(str(e["summary"]).startswith("Ferry Cottage: ") for e in events)

    # The first reading is answered at once and kept.
    page.get_by_role("link", name=re.compile("Site log")).click()
    fill(page, {"Air": "55", "Humidity": "93", "Surface": "51"})
    page.get_by_role("button", name="Answer").click()
    expect(page.locator(".verdict-word")).to_have_text("No")
    expect(page.locator("#lines li", has_text="Reading, ")).to_have_count(1)

    # And the start page leads with what to do next there.
    page.get_by_role("link", name="Morning", exact=True).click()
    job = page.locator("article", has=page.get_by_role("link", name="Ferry Cottage", exact=True))
    expect(job.locator(".answer-lead")).to_contain_text(re.compile(r"Clear and cover the .* at \d\d:\d\d"))


@pytest.mark.slow
def test_hours_are_scrubbed_without_asking_the_server(quiet_page: Page, site):
    page = quiet_page
    page.goto(site.job("windows"))
    expect(page.locator("#why h2")).to_contain_text("06:45")
    asked: list[str] = []
    # How likely a start holds comes after the reasons, by itself.
    page.on("request", lambda r: asked.append(r.url) if "/chance" not in r.url else None)
    slider = page.get_by_label("Hour shown")
    at_dawn = fills(page)
    assert set(at_dawn.values()) == {"url(#fill-shut)"}
    page.evaluate("""() => {
        const slider = document.getElementById("hour");
        for (let q = 0; q < 200; q += 1) { slider.value = q; slider.dispatchEvent(new Event("input")); }
        slider.value = 52; slider.dispatchEvent(new Event("input"));
    }""")
    assert asked == [], "two hundred hours, not one request"
    expect(page.locator("#hour-word")).to_have_text("Tue 13:00")
    assert "var(--open)" in fills(page).values()
    # When the cursor rests, the reasons of one surface are asked for, once.
    expect(page.locator("#why h2")).to_contain_text("Tue 13:00")
    assert len(asked) == 1

    # Keys: hours and surfaces; the slider and every cursor follow.
    page.locator("#main").focus()
    page.keyboard.press(".")
    expect(page.locator("#hour-word")).to_have_text("Tue 14:00")
    page.keyboard.press(",")
    page.keyboard.press(",")
    expect(page.locator("#hour-word")).to_have_text("Tue 12:00")
    assert slider.input_value() == "48"
    selected = page.locator(".ribbon-row.is-selected a")
    before = selected.inner_text()
    page.keyboard.press("]")
    expect(selected).not_to_have_text(before)
    expect(page.locator("#why h2")).to_contain_text(selected.inner_text())

    # Dragging anywhere on the ribbons moves the same cursor.
    ribbon = page.locator(".ribbon").first
    box = ribbon.bounding_box()
    page.mouse.move(box["x"] + 5, box["y"] + 10)
    page.mouse.down()
    page.mouse.move(box["x"] + box["width"] * 0.5, box["y"] + 10, steps=8)
    page.mouse.up()
    expect(page.locator("#hour-word")).to_contain_text("Thu")
    cursors = {line.get_attribute("x1") for line in page.locator(".windows [data-cursor]").all()}
    assert len(cursors) == 1
    # A click on a wall selects it, with its reasons.
    page.locator(".band a[data-surface-link]", has=page.locator("[data-surface]")).nth(2).click()
    expect(page.locator("#why h2")).to_contain_text("Thu")
    page.get_by_role("button", name="now", exact=True).click()
    expect(page.locator("#hour-word")).to_have_text("Tue 06:45")


@pytest.mark.four
def test_colour_is_never_alone(quiet_page: Page, site):
    page = quiet_page
    page.goto(site.job("windows"))
    expect(page.locator("#hour-word")).not_to_be_empty()
    page.evaluate("const s = document.getElementById('hour'); s.value = 42; s.dispatchEvent(new Event('input'))")
    shapes = page.locator(".band-surface[data-state]").all()
    assert {s.get_attribute("data-state") for s in shapes} >= {"open", "tight"}
    for shape in shapes:
        state = shape.get_attribute("data-state")
        assert state in shape.locator("xpath=..").get_attribute("aria-label")
        assert {"open": "var(--open)", "tight": "url(#fill-tight)", "shut": "url(#fill-shut)"}[state] == shape.get_attribute("fill")
    expect(page.locator("[data-caption]").first).to_contain_text(re.compile("open|tight: |shut: "))


@pytest.mark.slow
def test_a_stopped_weather_service_is_said_and_everything_goes_on(quiet_page: Page, site):
    page = quiet_page
    page.goto(site.url)
    site.weather.stop()
    # Eight hours on, the forecast in hand is no longer the newest.
    step_clock(page, 3, 3, 3)
    expect(page.locator(".notice")).to_contain_text("cannot be reached")
    expect(page.locator(".notice")).to_contain_text(re.compile(r"10 h old"))
    for stage in ("survey", "takeoff", "windows", "schedule", "log"):
        page.goto(site.job(stage))
        expect(page.locator("main")).to_be_visible()
    page.goto(site.job("windows"))
    expect(page.locator(".ribbon").first).to_be_visible()
    page.goto(f"{site.url}/reckoner/dew-point")
    fill(page, {"Air temperature": "25", "Relative humidity": "50"})
    page.get_by_role("button", name="Reckon").click()
    expect(page.locator(".reckoned-lead")).to_contain_text("13.86")


@pytest.mark.slow
def test_undo_brings_a_removed_job_back(quiet_page: Page, site):
    page = quiet_page
    page.goto(f"{site.url}/jobs")
    page.get_by_role("button", name="Remove Tollkeeper's House").click()
    expect(page.locator("tbody tr")).to_have_count(3)
    page.get_by_role("button", name="Undo: remove Tollkeeper's House").click()
    page.get_by_role("link", name="Tollkeeper's House").click()
    expect(page.locator(".band .band-sash-window")).to_have_count(14)


def test_a_reckoning_is_asked_and_refused_in_words(quiet_page: Page, site):
    page = quiet_page
    page.goto(f"{site.url}/reckoner")
    page.get_by_role("link", name="Surface temperature").click()
    expect(page.locator("#answer tbody tr")).to_have_count(16)
    page.get_by_label("Solar absorptance").fill("60")
    page.get_by_role("button", name="Reckon").click()
    expect(page.locator("#reckon-solar_absorptance-error")).to_contain_text("divide it by 100")
    page.get_by_label("Solar absorptance").fill("0.9")
    page.get_by_role("button", name="Reckon").click()
    expect(page.locator("#reckon-solar_absorptance-error")).to_be_empty()


@pytest.mark.slow
def test_what_was_typed_survives_a_lost_connection_and_a_reload(page: Page, site):
    page.goto(f"{site.url}/jobs/new")
    fill(page, COTTAGE)
    page.context.set_offline(True)
    page.get_by_role("button", name="Draw the house").click()
    expect(page.locator("#notice")).to_contain_text("No connection")
    expect(page.get_by_label("Name")).to_have_value("Ferry Cottage")
    page.context.set_offline(False)
    page.reload()
    page.get_by_role("button", name="Put it back").click()
    expect(page.get_by_label("Width along its front")).to_have_value("32' 6\"")
    page.get_by_role("button", name="Draw the house").click()
    expect(page.locator(".band [data-view]")).to_have_count(4)
    page.goto(f"{site.url}/jobs/new")
    expect(page.get_by_label("Name")).to_have_value("")
