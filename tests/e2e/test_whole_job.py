"""A whole job on the phone, day by day: washed, repaired, coated, rained on, marked, mended, looked at again, signed by the owner."""

import json
import re
from datetime import datetime, timedelta

import pytest
from playwright.sync_api import Browser, Page, expect

from amber_gable.services.app.scope import OFFICE, Scope
from amber_gable.services.jobs import jobs
from amber_gable.services.planning import schedules
from amber_gable.services.planning.kept import SavedStint
from amber_gable.services.takeoff.tasks import tasks_of
from amber_gable.standins.gauge import create_app as create_gauge
from tests.e2e.test_without_signal import carry, photograph, signal
from tests.support.browsing import tap_wall
from tests.support.serving import Served, Site, serving_now

pytestmark = pytest.mark.e2e
PHONE = {"width": 360, "height": 740}
HTMX = {"hx-request": "true"}
_MOST_PIECES = 30


class OneWall:
    """The job, its clock, and the phone of whoever works at it."""

    def __init__(self, page: Page, site: Site) -> None:
        self.page, self.site = page, site
        self.app = serving_now()
        self.scope = Scope(self.app, OFFICE)
        self.job_id = self._made()
        self.address = f"{site.url}/jobs/{self.job_id}"
        trim = " ".join(t.id.replace(" ", "_") for t in tasks_of(self.scope, self.job) if not t.id.startswith(self.wall.id))
        self.post("work", {"verb": "left-out", "tasks": trim, "remark": "The owner paints the trim"})

    def _made(self) -> str:
        """Make the job of the cottage's survey, one wall of it."""
        quarry = next(row.id for row in jobs.list_jobs(self.scope) if "Quarry" in row.name)
        bundle = self.page.request.get(f"{self.site.url}/jobs/{quarry}/survey.json").json()
        for side in bundle["building"]["elevations"]:
            side["surfaces"] = [s for s in side["surfaces"] if s.get("opening") is None]
            side["openings"] = []
            for surface in side["surfaces"]:
                surface["is_painted"] = surface["name"] == "East wall"
        for rows in ("findings", "site_tests", "samples", "candidates", "clearances", "systems"):
            bundle[rows] = []
        bundle["building"]["items"], bundle["job"]["name"] = [], "One wall"
        made = self.page.request.post(f"{self.site.url}/api/jobs", data=json.dumps(bundle), headers={"content-type": "application/json"})
        assert made.status == 201, made.text()
        job_id: str = made.json()["job_id"]
        return job_id

    @property
    def job(self):
        return jobs.whole(self.scope, self.job_id)

    @property
    def wall(self):
        return next(s for e in self.job.building.elevations for s in e.surfaces if s.is_painted)

    def post(self, path: str, form: dict[str, str]) -> None:
        answer = self.page.request.post(f"{self.address}/{path}", form=form, headers=HTMX)
        assert answer.status == 200, answer.text()[:400]

    def at(self, moment: datetime) -> None:
        self.app.clock.set(moment)

    def plan(self) -> list[SavedStint]:
        """Plan anew from what is on record; return what is still to be done."""
        self.post("schedule", {})
        now = self.app.clock.now()
        kept = schedules.saved(self.scope, self.job)
        return [s for s in kept.stints if s.ends_at > now]

    def hold(self, name: str) -> None:
        self.page.context.add_cookies([{"name": "who", "value": name, "url": self.site.url}])

    def today(self) -> None:
        self.page.goto(f"{self.site.url}/today")

    def tap(self, name: str) -> None:
        with self.page.expect_navigation():
            self.page.get_by_role("button", name=name, exact=True).first.click()

    def work(self, piece: SavedStint) -> None:
        """Do a piece of work as the painter whose it is, from its beginning to its end."""
        self.hold(piece.painters[0])
        self.at(piece.starts_at + timedelta(minutes=1))
        self.today()
        self.tap("Start")
        self.at(max(piece.ends_at - timedelta(minutes=5), piece.starts_at + timedelta(minutes=5)))
        self.today()
        self.tap("Done")

    def until(self, stage: str, coat: int = 0) -> SavedStint:
        """Do what comes before a kind of work; return the piece itself."""
        for _ in range(_MOST_PIECES):
            piece = self.plan()[0]
            if piece.stage == stage and piece.coat == coat:
                return piece
            self.work(piece)
        raise AssertionError(f"no {stage} comes")


@pytest.fixture
def one(page: Page, site: Site) -> OneWall:
    page.set_viewport_size(PHONE)
    return OneWall(page, site)


@pytest.mark.slow
def test_a_whole_job_from_the_first_wash_to_the_signed_walk(one: OneWall, page: Page, site: Site, browser: Browser):
    gauge = Served(create_gauge())
    one.app.settings = one.app.settings.model_copy(update={"gauge_url": gauge.url})
    # Washed, repaired, masked, primed, day by day; then the first coat, with the wall measured by the gauge before it.
    first = one.until("coat", 1)
    one.hold(first.painters[0])
    one.at(first.starts_at + timedelta(minutes=1))
    page.goto(f"{one.address}/log")
    page.get_by_label("Code on the gauge's display").fill("4711")
    one.tap("Pair the gauge")
    page.get_by_role("button", name="From Gauge 214").click()
    expect(page.locator("[data-gauge-words]")).to_contain_text("samples")
    for field, typed in {"Air": "66", "Humidity": "55", "Surface": "68"}.items():
        if not page.get_by_label(re.compile(f"^{field}")).first.input_value():
            page.get_by_label(re.compile(f"^{field}")).first.fill(typed)
    page.get_by_role("button", name="Answer", exact=True).click()
    expect(page.locator(".verdict-word")).to_be_visible()
    expect(page.locator("#lines")).to_contain_text("by gauge")

    # A shower on the young film: it is seen, it rings, it is over.
    one.today()
    one.tap("Start")
    one.at(first.ends_at - timedelta(minutes=5))
    one.today()
    one.tap("Done")
    one.at(first.ends_at + timedelta(minutes=20))
    page.goto(f"{one.address}/log")
    page.locator("#see-rain_at").fill(f"{(one.app.clock.now() + timedelta(minutes=40)).astimezone(first.starts_at.tzinfo):%H:%M}")
    with page.expect_navigation():
        page.get_by_role("button", name="I see rain").click()
    one.today()
    expect(page.locator("#alarms .is-urgent")).to_contain_text("finds the film young")
    one.at(one.app.clock.now() + timedelta(hours=1))
    page.goto(f"{one.address}/log")
    one.tap("Rain has stopped")
    expect(page.locator("#lines")).to_contain_text("Rain, light")

    # The wrong entry: half the paint. It is corrected; both stay readable.
    line = page.locator("#lines li", has_text="first coat, done")
    line.locator("summary", has_text="Correct").click()
    line.get_by_label("Paint used").fill("1 gal")
    line.get_by_label("Why").fill("the second can was forgotten")
    with page.expect_navigation():
        line.get_by_role("button", name="Correct it").click()
    expect(page.locator("#lines li.is-back", has_text="first coat")).to_contain_text("corrected by")
    expect(page.locator("#lines li:not(.is-back)", has_text="first coat, done")).to_contain_text("1.00 gal")

    # The second coat in an afternoon without a signal, with a mark, a reading and a photograph; another phone says it too.
    second = one.until("coat", 2)
    one.hold(second.painters[0])
    one.at(second.starts_at + timedelta(minutes=1))
    one.today()
    carry(page)
    page.goto(f"{one.address}/inspection")
    page.goto(f"{one.address}/log")
    page.goto(f"{site.url}/today")
    page.context.set_offline(True)
    page.get_by_role("button", name="Start", exact=True).first.click()
    expect(page.locator("#current [data-waits-line]")).to_contain_text("waiting")
    page.locator("#coat summary").click()
    page.get_by_label("Paint used").fill("1.2")
    page.locator("#coat").get_by_label("Photographs").set_input_files(photograph())
    page.get_by_role("button", name="Done, as typed").click()
    expect(signal(page)).to_contain_text("3 entries wait")
    page.goto(f"{one.address}/log")
    for field, typed in {"Air": "66", "Humidity": "55", "Surface": "68"}.items():
        page.get_by_label(re.compile(f"^{field}")).first.fill(typed)
    page.get_by_role("button", name="Answer", exact=True).click()
    expect(signal(page)).to_contain_text("4 entries wait")
    page.goto(f"{one.address}/inspection")
    tap_wall(page, "East wall", 0.04, 0.4)
    page.get_by_role("button", name="Damage").click()
    expect(signal(page)).to_contain_text("5 entries wait")
    other = browser.new_context(viewport=PHONE)
    other.add_cookies([{"name": "who", "value": "Marlow", "url": site.url}])
    said = other.request.post(f"{one.address}/work", form={"verb": "done", "tasks": " ".join(t.replace(" ", "_") for t in second.tasks),
                              "painter": "Marlow"}, headers=HTMX)  # fmt: skip
    assert said.status == 200
    other.close()
    page.context.set_offline(False)
    page.reload()
    expect(page.locator("#signal")).to_be_hidden()
    page.goto(f"{one.address}/log")
    expect(page.locator("#disputes")).to_contain_text("Marlow")
    with page.expect_navigation():
        page.get_by_role("button", name=re.compile("what Marlow said")).first.click()
    expect(page.locator("#disputes")).to_have_count(0)
    expect(page.locator("#lines img").first).to_be_visible()

    # The tape comes off while the film is soft.
    one.at(one.app.clock.now() + timedelta(hours=2))
    tape = [t for t in tasks_of(one.scope, one.job) if t.step == "tape-off" and t.id.startswith(one.wall.id)]
    one.post("work", {"verb": "done", "tasks": " ".join(t.id.replace(" ", "_") for t in tape)})

    # The inspection fails: damage and a run. Mended, still to be seen, mended again, good.
    one.at(one.app.clock.now() + timedelta(hours=30))
    page.goto(f"{one.address}/inspection")
    expect(page.locator("h1")).to_have_text("East: 1 to mend.")
    tap_wall(page, "East wall", 0.96, 0.6)
    one.tap("Run or sag")
    touch = next(s for s in one.plan() if any("touch-up" in t for t in s.tasks))
    one.at(touch.starts_at + timedelta(minutes=1))
    one.hold(touch.painters[0])
    one.today()
    expect(page.locator("h1")).to_contain_text(re.compile("sand marks|touch up"))
    page.goto(f"{one.address}/inspection")
    one.tap("Mended")
    one.tap("Mended")
    page.get_by_role("button", name="Good now").first.click()
    expect(page.locator(".field-error", has_text="judged dry")).to_be_visible()
    one.at(one.app.clock.now() + timedelta(hours=26))
    page.goto(f"{one.address}/inspection")
    one.tap("Still there")
    one.tap("Mended")
    one.at(one.app.clock.now() + timedelta(hours=26))
    page.goto(f"{one.address}/inspection")
    one.tap("Good now")
    one.tap("Good now")
    # Nothing is open: the side is looked over and is good.
    page.goto(f"{one.address}/inspection")
    for tick in page.locator("#over .tick input").all():
        tick.check()
    with page.expect_navigation():
        page.locator("#over button").click()
    expect(page.locator("h1")).to_have_text("East is looked over.")

    # The owner walks by daylight: nothing more; the list is signed, then the work.
    one.at(one.app.clock.now().replace(hour=16, minute=0) + timedelta(days=1))
    page.goto(f"{one.address}/inspection?walk=1")
    for _ in range(2):
        page.get_by_label("Owner's name").fill("M. Thorn")
        page.locator("[data-sign]").scroll_into_view_if_needed()
        box = page.locator("[data-sign]").bounding_box()
        page.mouse.move(box["x"] + 20, box["y"] + 60)
        page.mouse.down()
        page.mouse.move(box["x"] + 120, box["y"] + 20, steps=6)
        page.mouse.move(box["x"] + 200, box["y"] + 70, steps=6)
        page.mouse.up()
        one.tap("Sign")
    expect(page.locator("h1")).to_have_text("Signed by M. Thorn.")
    gauge.stop()
