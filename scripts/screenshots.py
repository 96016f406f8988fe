"""Rebuilds docs/screenshots from the demonstration's data: one picture of each main view.

Run by `make screenshots`. Starts the demonstration on data of its own.
"""

import re
import shutil
import subprocess
import sys
import tempfile
import time
import urllib.request
from contextlib import suppress
from pathlib import Path

from playwright.sync_api import Browser, Page, expect, sync_playwright

from amber_gable.demo.run import free_port

ROOT = Path(__file__).parents[1]
OUT = ROOT / "docs" / "screenshots"
DESK, TALL, PHONE = {"width": 1280, "height": 800}, {"width": 1280, "height": 1500}, {"width": 360, "height": 740}
# Half past ten on the first morning: the first walls are open.
HALF_PAST_TEN = 42


def wait_for(url: str) -> None:
    for _ in range(3000):
        with suppress(OSError), urllib.request.urlopen(url, timeout=2):
            return
        time.sleep(0.1)
    raise SystemExit(f"{url} did not answer")


def show_hour(page: Page, step: int) -> None:
    page.evaluate("q => { const s = document.getElementById('hour'); s.value = q; s.dispatchEvent(new Event('input')); }", step)
    page.wait_for_timeout(600)


def read_a_wall(page: Page) -> None:
    page.get_by_label("Wall", exact=True).select_option(label="North gable wall")
    for name, value in {"air_temp_c": "64", "rel_humidity_pct": "62", "surface_temp_c": "62"}.items():
        page.locator(f"#reading-{name}").fill(value)
    page.get_by_role("button", name="Answer").click()
    page.locator(".verdict-word").wait_for()


def step_clock(page: Page, hours: int) -> None:
    page.get_by_role("button", name=f"Step the demonstration clock by {hours} h").click()
    page.wait_for_timeout(1200)


def inspect(page: Page, job: str) -> None:
    page.goto(f"{job}/inspection")
    walls = page.locator("[data-inspect] path[data-surface]")
    for across, what in ((0.3, "Run or sag"), (0.7, "Miss")):
        box = walls.filter(has=page.locator("title", has_text=re.compile("wall: coat"))).first.bounding_box()
        assert box is not None
        page.mouse.click(box["x"] + across * box["width"], box["y"] + 0.5 * box["height"])
        with page.expect_navigation():
            page.get_by_role("button", name=what).click()


def take(browser: Browser, url: str) -> None:
    page = browser.new_page(viewport=DESK)

    def shot(name: str) -> None:
        expect(page.locator("main [aria-busy=true]")).to_have_count(0, timeout=60_000)
        page.wait_for_timeout(300)
        page.evaluate("document.activeElement.blur()")
        page.screenshot(path=OUT / f"{name}.png")
        print(name)

    page.goto(url)
    shot("morning")
    page.goto(f"{url}/crew")
    shot("crew")
    page.goto(f"{url}/jobs")
    job = f"{url}/jobs/" + re.findall(r"/jobs/([\w-]{36})/survey", page.content())[0]
    for stage in ("survey", "systems", "takeoff"):
        page.goto(f"{job}/{stage}")
        shot(stage)
    page.goto(f"{job}/systems/schools")
    page.locator("#school-peeling-wood").get_by_role("button", name="bonding build-up over what holds").click()
    page.locator("#school-peeling-wood .difference").wait_for()
    page.locator("#school-recoat").scroll_into_view_if_needed()
    shot("house-rules")
    page.goto(f"{job}/systems/strokes")
    shot("strokes")
    page.goto(f"{job}/systems/colours?light=evening")
    shot("colours")
    for part, name in (("price", "price"), ("takeoff/ways", "ways-up")):
        page.goto(f"{job}/{part}")
        page.wait_for_timeout(800)
        shot(name)
    page.goto(f"{url}/bids")
    shot("bids")
    page.set_viewport_size(TALL)
    page.goto(f"{job}/windows")
    show_hour(page, HALF_PAST_TEN)
    page.wait_for_timeout(1500)
    shot("windows")
    page.set_viewport_size(DESK)
    page.set_viewport_size(TALL)
    page.goto(f"{job}/schedule")
    shot("schedule")
    page.set_viewport_size(DESK)
    step_clock(page, 3)
    step_clock(page, 1)
    page.goto(f"{job}/log")
    read_a_wall(page)
    shot("site-log")

    page.set_viewport_size(PHONE)
    page.goto(url)
    shot("phone-morning")
    page.goto(f"{url}/today")
    page.get_by_role("button", name="Tobias").click()
    page.get_by_role("button", name="Start").first.wait_for()
    for _ in range(3):
        if page.get_by_role("button", name="Yes, done").count():
            with page.expect_navigation():
                page.get_by_role("button", name="Yes, done").first.click()
    with page.expect_navigation():
        page.get_by_role("button", name="Start", exact=True).first.click()
    shot("phone-my-day")
    inspect(page, job)
    shot("phone-inspection")
    page.goto(f"{job}/windows")
    wall = re.findall(r'surface=([\w-]{36})"[^>]*>East wall<', page.content())[0]
    page.goto(f"{job}/stop/{wall}?painters=1&done_m=8")
    shot("phone-stop-line")
    page.context.add_cookies([{"name": "theme", "value": "glare", "url": url}])
    page.set_viewport_size(DESK)
    page.goto(f"{job}/windows")
    page.wait_for_timeout(600)
    shot("windows-glare")


def main() -> None:
    OUT.mkdir(parents=True, exist_ok=True)
    port = free_port()
    url = f"http://127.0.0.1:{port}"
    with tempfile.TemporaryDirectory() as holder, sync_playwright() as playwright:
        # Its name is in the picture of the settings.
        data = f"{holder}/firm"
        command = [sys.executable, "-m", "amber_gable.cli", "demo", "--port", str(port), "--data-dir", data]
        process = subprocess.Popen(command, stdout=subprocess.DEVNULL)
        try:
            wait_for(f"{url}/healthz")
            browser = playwright.chromium.launch(
                executable_path=next(filter(None, map(shutil.which, ("chromium", "chromium-browser", "chromium-headless-shell")))),
                args=["--no-sandbox", "--disable-dev-shm-usage", "--disable-gpu"],
            )
            take(browser, url)
            browser.close()
        finally:
            process.terminate()
            process.wait(timeout=20)


if __name__ == "__main__":
    main()
