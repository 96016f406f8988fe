"""Phone pages of the log: every target large enough, nothing cut, clean for axe, the answer first; a wall inspected with a thumb."""

from datetime import datetime

import pytest
from playwright.sync_api import Page, expect

from amber_gable.services.app.scope import OFFICE, Scope
from amber_gable.services.jobs import jobs
from amber_gable.services.takeoff.tasks import tasks_of
from tests.support.browsing import tap_wall, violations
from tests.support.pace import is_long
from tests.support.serving import Site, serving_now

pytestmark = [pytest.mark.e2e, pytest.mark.small]
PHONE = {"width": 360, "height": 740}
FIRST_PX = 120
AT_HAND = ("/today", "/kit")
OPEN_ALL = """() => {
  document.querySelectorAll('main details').forEach((one) => { one.open = true; });
  document.getElementById('mark')?.removeAttribute('hidden');
}"""
# What a thumb has to hit and that is smaller than 44 px, in words.
SMALL = """() => ['button', 'a.btn', 'summary', 'select', 'label.tick', 'input']
  .flatMap((what) => [...document.querySelectorAll(`main ${what}`)])
  .filter((one) => !['hidden', 'checkbox', 'radio'].includes(one.type) && !one.classList.contains('visually-hidden'))
  .map((one) => [one, one.getBoundingClientRect()])
  .filter(([one, box]) => box.width && box.height && box.height < 43.5)
  .map(([one, box]) => `${one.tagName} ${(one.textContent || one.name).trim().slice(0, 30)} ${box.height}`)"""


@pytest.fixture
def coated(page: Page, site: Site) -> Page:
    """Ines' phone, in the afternoon after the last coat of the east wall."""
    app = serving_now()
    scope = Scope(app, OFFICE)
    job = jobs.whole(scope, site.job_id)
    wall = next(s for e in job.building.elevations for s in e.surfaces if s.name == "East wall")
    app.clock.set(datetime.fromisoformat("2026-09-15T11:00:00-05:00"))
    steps = " ".join(t.id.replace(" ", "_") for t in tasks_of(scope, job) if t.id.startswith(f"{wall.id}:") and t.step.startswith("coat"))
    form = {"verb": "done", "tasks": steps, "painter": "Ines", "from": "09:30", "until": "10:30", "batch": "R-7"}
    assert page.request.post(f"{site.job('work')}", form=form, headers={"hx-request": "true"}).status == 200
    app.clock.set(datetime.fromisoformat("2026-09-15T16:45:00-05:00"))
    page.set_viewport_size(PHONE)
    page.context.add_cookies([{"name": "who", "value": "Ines", "url": site.url}])
    return page


def test_every_target_of_a_phone_is_large_and_the_answer_is_first(coated: Page, site: Site):
    page, found = coated, {}
    page.goto(site.job("log"))
    chosen = page.locator("#log-band a").first.get_attribute("href")
    for path in (
        site.job("log")[len(site.url) :] + chosen,
        *AT_HAND,
        "/phone",
        *(site.job(part)[len(site.url) :] for part in ("log", "inspection", "inspection?walk=1", "survey", "systems", "takeoff", "price")),
        "/jobs",
        "/reckoner",
    ):
        page.goto(f"{site.url}{path}")
        assert page.locator("header.bar").bounding_box()["height"] <= 48, f"one slim bar: {path}"
        top = page.locator("main h1").first.bounding_box()["y"]
        # All that opens, opened; and the form of a mark.
        page.evaluate(OPEN_ALL)
        wide = page.evaluate("document.documentElement.scrollWidth")
        # The rules of access of what is used with a thumb; of the other pages in test_access.py.
        small, broken = page.evaluate(SMALL), violations(page) if is_long() or path in AT_HAND or chosen in path else []
        if top >= FIRST_PX or wide > PHONE["width"] or small or broken:
            found[path] = (top, wide, small, broken)
    assert found == {}


def test_a_wall_is_inspected_with_a_thumb(coated: Page, site: Site):
    page = coated
    page.goto(f"{site.url}/today")
    expect(page.locator("#alarms")).to_contain_text("East wall is dry since")
    page.locator("#alarms a", has_text="East wall").click()
    page.get_by_role("link", name="East").click()
    expect(page.locator("h1")).to_contain_text("Look over east now")
    tap_wall(page, "East wall", 0.35, 0.5)
    expect(page.locator("[data-where]")).to_have_text("East wall: what is it?")
    # What is not enough is said at the field; nothing is lost.
    page.get_by_role("button", name="Other", exact=True).click()
    page.locator("#mark summary").click()
    expect(page.locator("#mark-text-error")).to_contain_text("a few words")
    page.get_by_label("Words").fill("a spider in the paint")
    with page.expect_navigation():
        page.get_by_role("button", name="Other", exact=True).click()
    expect(page.locator("h1")).to_have_text("East: 1 to mend.")
    expect(page.locator(".mark-open .mark-sign")).to_have_text("O1")
    # It may stay only by a name, in words.
    page.locator("summary", has_text="It may stay").click()
    page.get_by_role("button", name="Accept it").click()
    expect(page.locator(".field-error", has_text="Who accepts it?")).to_be_visible()
    page.get_by_label("Accepted by").fill("M. Thorn")
    page.get_by_label("Why").fill("it brings luck")
    with page.expect_navigation():
        page.get_by_role("button", name="Accept it").click()
    expect(page.locator(".mark-list")).to_contain_text("accepted as it is by M. Thorn")
    page.get_by_role("button", name="East is good").click()
    expect(page.locator("#over-looks-error")).to_contain_text("from the left end")
    for tick in page.locator("#over .tick input").all():
        tick.check()
    with page.expect_navigation():
        page.get_by_role("button", name="East is good").click()
    # Not all coats of the house are on: the owner does not walk yet.
    page.get_by_role("link", name="Owner's walk").click()
    expect(page.locator("h1")).to_have_text("Not yet: the work is not finished.")
    expect(page.locator("[data-sign]")).to_have_count(0)
