"""A week on the demonstration's clock by ticking what was done: one day late, one painter ill, one shower, one change of colour."""

import re

import pytest
from playwright.sync_api import Page, expect

from tests.support.serving import step_clock

pytestmark = [pytest.mark.e2e, pytest.mark.small]


def plan_again(page: Page, site, how: str = "Mend the plan") -> None:
    page.goto(site.job("schedule"))
    with page.expect_navigation():
        page.get_by_role("button", name=how, exact=True).click()
    expect(page.locator(".made")).to_be_visible()
    page.wait_for_load_state("networkidle")


def hours_done(page: Page) -> float:
    return float(re.search(r"(\d+) of \d+ h are done", page.locator(".answer").first.inner_text(), re.I)[1])


@pytest.mark.slow
def test_a_week_of_work_by_ticking_what_was_done(quiet_page: Page, site):
    page = quiet_page
    plan_again(page, site, "Make the schedule")
    assert page.locator(".evening.is-recorded").count() >= 1
    expect(page.locator(".evening.is-today")).to_contain_text("first coat")
    done = hours_done(page)

    # Tuesday afternoon: the first piece of the day is entered with its hours, litres and batch.
    step_clock(page, 3, 3, 1)
    page.goto(site.job("schedule"))
    row = page.locator(".unsaid .work-row").first
    what = row.locator("strong").inner_text()
    row.locator("summary").click()
    row.get_by_label("From").fill("09:30")
    row.get_by_label("Until").fill("12:10")
    row.get_by_label("Paint used").fill("1.5")
    row.get_by_label("Batch").fill("B-2231")
    row.get_by_role("button", name="Done, as typed").click()
    newest = page.locator("#record li").first
    expect(newest).to_contain_text(what.split(":")[0])
    expect(newest).to_contain_text("today 09:30 to 12:10")
    expect(newest).to_contain_text("1.50 gal")
    expect(newest).to_contain_text("batch B-2231")
    assert hours_done(page) > done

    # What cannot be is refused at its field, and nothing typed is lost.
    row = page.locator("#day .work-row", has=page.locator(".work-form")).first
    row.locator("summary").click()
    row.get_by_label("Until").fill("23:50")
    row.get_by_label("Remark").fill("north side in the wind")
    row.get_by_role("button", name="Done, as typed").click()
    expect(row.locator(".field-error[data-field=until]")).not_to_be_empty()
    expect(row.get_by_label("Remark")).to_have_value("north side in the wind")

    # Wednesday: Tuesday's rest was not entered. It is asked for and counts as not done until somebody says so.
    before = hours_done(page)
    step_clock(page, 24)
    page.goto(site.url)
    card = page.locator("article", has=page.get_by_role("link", name="Tollkeeper's House", exact=True))
    expect(card.locator(".unsaid")).to_contain_text("What nobody recorded is not done")
    page.goto(site.job("schedule"))
    assert hours_done(page) == before, "nothing counts as done that was not recorded"
    page.locator(".unsaid .work-row").first.get_by_role("button", name="Yes, done").click()
    expect(page.locator("#record li").first).to_contain_text("Said by")
    page.wait_for_load_state("networkidle")
    assert hours_done(page) > before

    # An entry is taken back: both stay readable.
    page.locator("#record li").first.get_by_role("button", name="Take back").click()
    expect(page.locator("#record li").first).to_have_class("is-back")
    page.wait_for_load_state("networkidle")
    assert hours_done(page) == before

    # One day late: the plan is mended, and says what moved and why.
    plan_again(page, site)
    expect(page.locator("#moves")).to_contain_text("it was not recorded as done in its time")
    expect(page.locator(".unsaid")).to_have_count(0)
    plan_again(page, site)
    expect(page.locator("#moves")).to_have_count(0)

    # Tobias is ill tomorrow.
    page.goto(f"{site.url}/crew")
    page.locator("#ill-Tobias").get_by_role("button").click()
    expect(page.locator("#person-Tobias")).to_contain_text("(ill)")
    plan_again(page, site)
    page.goto(f"{site.url}/crew")
    page.locator(".crew-days a").nth(2).click()
    expect(page.locator(".board-note")).to_contain_text("off")

    # A shower: rain is seen on site, and the start page says so at once.
    page.goto(site.job("log"))
    page.get_by_role("button", name=re.compile("rain", re.I)).first.click()
    page.wait_for_load_state("networkidle")
    page.goto(site.url)
    expect(page.locator(".sky").first).to_contain_text("Rain")

    # The owner takes another colour for the body: what goes on later walls warms otherwise, and the plan says what moved for it.
    page.goto(site.job("systems/colours"))
    page.locator(".zones li", has_text=re.compile("body", re.I)).first.get_by_role("link").click()
    page.locator("#zone-colour input[name=hex]").fill("#1f2226")
    with page.expect_navigation():
        page.get_by_role("button", name="Put it on the house").click()
    plan_again(page, site)
    expect(page.locator("#moves")).to_contain_text("its colour is another now")

    # A search for a better plan, stopped: the plan stands.
    page.goto(f"{site.url}/crew")
    costs = page.locator(".plan-total").inner_text()
    page.get_by_role("button", name="Look for a better plan").click()
    expect(page.locator("progress")).to_be_visible()
    page.get_by_role("button", name="Stop here").click()
    expect(page.get_by_role("button", name="Look for a better plan")).to_be_visible()
    assert page.locator(".plan-total").inner_text() == costs

    # The plan anew, undone again.
    plan_again(page, site, "Plan anew")
    page.goto(site.job("schedule"))
    expect(page.locator("#undo")).to_contain_text("make the schedule")
    page.locator("#undo button").click()
    page.wait_for_load_state("networkidle")
    expect(page.locator("#undo")).to_be_visible()


def test_work_is_dragged_moved_by_keys_refused_and_let_go(quiet_page: Page, site):
    page = quiet_page
    plan_again(page, site, "Make the schedule")
    mark = page.locator(".board-movable").last
    form, what, began = mark.get_attribute("data-put"), mark.get_attribute("data-what"), float(mark.get_attribute("data-from"))

    # Dragged to a quarter past five in the morning: nobody works then; it stays where it was, and says why.
    hour_px = float(page.locator("#day svg.board").get_attribute("data-hour"))
    mark.scroll_into_view_if_needed()
    box, drawn = mark.bounding_box(), page.locator("#day svg.board").bounding_box()
    scale = drawn["width"] / float(page.locator("#day svg.board").get_attribute("viewBox").split()[2])
    page.mouse.move(box["x"] + 8, box["y"] + 10)
    page.mouse.down()
    page.mouse.move(box["x"] + 8 + (5.25 - began) * hour_px * scale, box["y"] + 12, steps=4)
    expect(page.locator("#board-told")).to_contain_text("start 05:15")
    page.mouse.up()
    refused = page.locator(f"#{form} .field-error", has_text=re.compile("Not then|has passed"))
    expect(refused.first).to_be_visible()
    assert float(page.locator(f".board-movable[data-put={form}]").first.get_attribute("data-from")) == began

    # By keys a quarter of an hour later, and Enter: it is checked, put there and pinned.
    mark = page.locator(f".board-movable[data-put={form}]").first
    mark.focus()
    mark.press("ArrowRight")
    expect(page.locator("#board-told")).to_contain_text(what)
    with page.expect_navigation():
        mark.press("Enter")
    moved = page.locator(f".board-movable[data-put={form}]").first
    assert float(moved.get_attribute("data-from")) == began + 0.25
    expect(page.locator(".work-row", has=page.locator(f"#{form}")).first).to_contain_text("Pinned.")
    page.locator(f"#{form}").locator("xpath=ancestor::details").locator("summary").click()
    with page.expect_navigation():
        page.locator(f"#{form}").get_by_role("button", name="Let it go").click()
    expect(page.locator(".work-row", has=page.locator(f"#{form}")).first).not_to_contain_text("Pinned.")


@pytest.mark.four
def test_who_is_where_on_one_page(quiet_page: Page, site):
    page = quiet_page
    plan_again(page, site, "Make the schedule")
    page.goto(f"{site.url}/crew")
    assert page.locator(".board-mark").count() >= 8
    expect(page.locator(".weeks a")).to_have_count(4)
    with page.expect_download() as download:
        page.get_by_role("link", name="Calendar of Ines").click()
    assert b"BEGIN:VEVENT" in download.value.path().read_bytes()
    page.get_by_label("Another painter").fill("tobias")
    page.get_by_role("button", name="Take on").click()
    expect(page.locator("#add-person .field-error")).to_contain_text("There is a tobias already")
