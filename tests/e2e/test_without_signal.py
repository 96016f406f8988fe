"""Without a signal: pages that the phone carries, entries that wait on it, what happens when the signal is back; two phones, one wall."""

import re
from contextlib import suppress
from datetime import datetime, timedelta
from urllib.parse import parse_qs

import pytest
from playwright.sync_api import Browser, Page, expect
from playwright.sync_api import Error as PlaywrightError

from tests.support.serving import Site, serving_now, step_clock

pytestmark = [pytest.mark.e2e, pytest.mark.small]
PHONE = {"width": 360, "height": 740}


def loaded_again(page: Page) -> None:
    """Load a page again; it may be loading itself just then, which comes to the same."""
    try:
        page.reload()
    except PlaywrightError as fault:
        if "ERR_ABORTED" not in str(fault) and "interrupted by another" not in str(fault):
            raise
        page.wait_for_load_state("load")


def hold(page: Page, site: Site, name: str) -> None:
    page.set_viewport_size(PHONE)
    page.goto(f"{site.url}/today")
    with page.expect_navigation():
        page.get_by_role("button", name=name).click()


def carry(page: Page) -> None:
    """Wait until the phone carries the pages of the next days."""
    expect(page.locator("[data-carried]")).to_contain_text("pages of the next three days")
    page.wait_for_function("() => navigator.serviceWorker.controller !== null")


@pytest.fixture
def planned(page: Page, site: Site) -> Page:
    page.goto(site.job("schedule"))
    page.get_by_role("button", name="Make the schedule", exact=True).click()
    expect(page.locator(".made")).to_be_visible()
    return page


def sent(page: Page) -> None:
    """Wait until nothing waits on the phone."""
    while True:
        # The page may just be loading itself again because of what was sent.
        with suppress(PlaywrightError):
            if page.evaluate("async () => (await amberQueue.all()).every((one) => one.state !== 'waiting')"):
                return
        page.wait_for_timeout(50)


def signal(page: Page):
    return page.locator("#signal summary")


def test_an_afternoon_without_a_signal_loses_nothing(planned: Page, site: Site):
    page = planned
    # The phone's clock is five hours fast: what it says of time is the server's all the same.
    page.add_init_script("const told = Date.now; Date.now = () => told() + 5 * 3600e3;")
    hold(page, site, "Tobias")
    step_clock(page, 1, 1, 1)
    page.goto(f"{site.url}/today")
    carry(page)
    began = page.locator("h1").inner_text()
    page.context.set_offline(True)

    # My day, tomorrow, the log and the stop line are on the phone; a page that is not says so.
    loaded_again(page)
    expect(page.locator("h1")).to_have_text(began)
    expect(signal(page)).to_contain_text(re.compile(r"No signal since 09:5\d"))
    page.get_by_role("link", name="Tomorrow").click()
    expect(page.locator("h1")).to_contain_text("Tomorrow")
    page.goto(f"{site.url}/crew")
    expect(page.locator("h1")).to_contain_text("this page is not on this phone")

    # A coat is begun and done, a reading taken, a note with a photograph written, each kept here.
    page.goto(f"{site.url}/today")
    page.get_by_role("button", name="Start", exact=True).first.click()
    expect(page.locator("#current [data-waits-line]")).to_contain_text("waiting to be sent")
    expect(page.locator("#current .before-start")).to_be_hidden()
    page.locator("#coat summary").click()
    page.get_by_label("Paint used").fill("2")
    page.get_by_label("Batch", exact=True).fill("R-7")
    page.get_by_role("button", name="Done, as typed").click()
    expect(page.locator("h1")).to_contain_text("Next: ")
    page.goto(site.job("log"))
    for field, value in {"Air": "62", "Humidity": "60", "Surface": "60"}.items():
        page.get_by_label(re.compile(f"^{field}")).first.fill(value)
    page.get_by_role("button", name="Answer").click()
    expect(signal(page)).to_contain_text("3 entries wait")
    page.locator(".log-kind summary", has_text="Note").click()
    page.locator("#kind-note-text").fill("Gate of the neighbour stood open")
    page.locator("#kind-note-photos").set_input_files(photograph())
    page.locator("#kind-note").get_by_role("button", name="Write it down").click()
    expect(signal(page)).to_contain_text("5 entries wait")

    # The browser is closed and opened again: nothing is gone, and what waits can be read.
    address = site.job("log")
    page.close()
    page = page.context.new_page()
    page.goto(address)
    expect(signal(page)).to_contain_text("5 entries wait")
    signal(page).click()
    expect(page.locator("#signal li").first).to_contain_text("begun")

    # The signal is back: all goes out in its order, at the hours it was made.
    page.context.set_offline(False)
    loaded_again(page)
    expect(page.locator("#signal")).to_be_hidden()
    page.goto(address)
    lines = page.locator("#lines")
    expect(lines).to_contain_text("Gate of the neighbour stood open")
    expect(lines.locator("img[alt*=Note]")).to_have_count(1)
    expect(lines).to_contain_text("batch R-7")
    expect(lines).to_contain_text("Reading, ")
    expect(lines.locator("li", has_text="first coat, done").first).to_contain_text("09:5")


def test_two_phones_of_one_wall_are_both_kept_and_the_office_settles_it(planned: Page, site: Site, browser: Browser):
    page = planned
    hold(page, site, "Tobias")
    step_clock(page, 1, 1, 1)
    other = browser.new_context(viewport=PHONE).new_page()
    other.set_default_timeout(90_000)
    hold(other, site, "Marlow")
    what = page.locator("h1").inner_text().split(":")[0]
    carry(page)
    page.context.set_offline(True)
    with other.expect_navigation():
        other.get_by_role("button", name="Done", exact=True).first.click()
    page.get_by_role("button", name="Done", exact=True).first.click()
    expect(signal(page)).to_contain_text("1 entry waits")
    page.context.set_offline(False)
    loaded_again(page)
    sent(page)
    other.context.close()

    page.set_viewport_size({"width": 1280, "height": 800})
    page.goto(site.job("log"))
    twice = page.locator("#disputes li").first
    expect(twice).to_contain_text(what)
    expect(twice).to_contain_text("Tobias: done, 100 %")
    expect(twice).to_contain_text("Marlow: done, 100 %")
    with page.expect_navigation():
        twice.get_by_role("button", name=re.compile("what Tobias said")).click()
    expect(page.locator("#disputes")).to_have_count(0)
    expect(page.locator("#lines li.is-back", has_text="first coat")).to_contain_text("taken back")


def test_a_full_phone_says_that_an_entry_is_not_kept_and_loses_nothing_typed(page: Page, site: Site):
    page.set_viewport_size(PHONE)
    page.add_init_script("indexedDB.open = () => { throw new DOMException('full', 'QuotaExceededError'); };")
    page.goto(site.job("log"))
    page.locator(".log-kind summary", has_text="Delivery").click()
    page.locator("#kind-delivery-text").fill("Four cans, one dented")
    page.context.set_offline(True)
    page.locator("#kind-delivery").get_by_role("button", name="Write it down").click()
    # Wherever the page is scrolled to.
    expect(page.locator("#said .notice", has_text="This phone is full: the entry is not kept on it")).to_be_in_viewport()
    expect(page.locator("#kind-delivery-text")).to_have_value("Four cans, one dented")
    # With a signal it goes all the same.
    page.context.set_offline(False)
    with page.expect_navigation():
        page.locator("#kind-delivery").get_by_role("button", name="Write it down").click()
    expect(page.locator("#lines")).to_contain_text("Four cans, one dented")


def test_what_the_server_refuses_later_stays_on_the_phone_with_its_reason(page: Page, site: Site):
    page.set_viewport_size(PHONE)
    page.goto(site.job("log"))
    page.locator(".log-kind summary", has_text="Delay").click()
    page.locator("#kind-delay-text").fill("waited for the lift")
    page.locator("#kind-delay-hours").fill("900")
    page.context.set_offline(True)
    page.locator("#kind-delay").get_by_role("button", name="Write it down").click()
    expect(signal(page)).to_contain_text("1 entry waits")
    page.context.set_offline(False)
    loaded_again(page)
    expect(signal(page)).to_contain_text("1 entry was refused")
    signal(page).click()
    refused = page.locator("#signal li")
    expect(refused).to_contain_text("at most 100 hours")
    expect(refused).to_contain_text("waited for the lift")
    page.on("dialog", lambda dialog: dialog.accept())
    refused.get_by_role("button", name="Throw away").click()
    expect(page.locator("#signal")).to_be_hidden()


def photograph() -> dict:
    """Return a photograph of about twelve million pixels, with a place written into it."""
    import io

    from PIL import ExifTags, Image

    exif = Image.Exif()
    exif[ExifTags.IFD.GPSInfo] = {1: "N", 2: (43.0, 48.0, 0.0)}
    out = io.BytesIO()
    Image.effect_noise((4000, 3000), 40).convert("RGB").save(out, "JPEG", quality=92, exif=exif)
    return {"name": "gate.jpg", "mimeType": "image/jpeg", "buffer": out.getvalue()}


@pytest.mark.parametrize("has_signal", [True, False])
def test_a_tap_in_the_moment_in_which_the_page_loads_itself_is_kept(page: Page, site: Site, has_signal: bool):
    hold(page, site, "Ines")
    carry(page)
    page.goto(site.job("log"))
    page.context.set_offline(not has_signal)
    for number in range(3):
        tapped = False
        while not tapped:
            # In one task: nothing that is waited for comes to its end. The page may as well be loading itself just before.
            with suppress(PlaywrightError):
                page.wait_for_function("() => document.readyState === 'complete' && window.amberSignal")
                page.evaluate(
                    """([words, number]) => { if (localStorage.tapped === number) return;
                    const form = document.querySelector("#kind-note"); form.querySelector("[name=text]").value = words;
                    form.querySelector("button.btn-slate").click(); localStorage.tapped = number; location.reload(); }""",
                    [f"In the moment, {number}", str(number)],
                )
            with suppress(PlaywrightError):
                tapped = page.evaluate("number => localStorage.tapped === number", str(number))
    page.context.set_offline(False)
    loaded_again(page)
    sent(page)
    loaded_again(page)
    for number in range(3):
        expect(page.locator("#lines li", has_text=f"In the moment, {number}.")).to_have_count(1)


@pytest.mark.parametrize("off_h", [-1, 3])
def test_no_hour_is_sent_that_was_not_compared_with_the_servers(page: Page, site: Site, off_h: int):
    """The clock was set before the page was opened, and the server says late what time it is: an act that waits is not sent before."""
    hold(page, site, "Ines")
    page.wait_for_function("() => 'signal' in localStorage")
    page.add_init_script(f"""const own = Date.now, real = Date, by = {off_h} * 3600e3, origin = performance.timeOrigin + by;
        Object.defineProperty(performance, "timeOrigin", {{ get: () => origin }});
        Date = class extends real {{ constructor(...given) {{ super(...(given.length ? given : [own() + by])); }} }};
        Date.now = () => own() + by;""")
    held, hours = [], []
    page.route("**/signal", lambda route: held.append(route))
    page.goto(site.job("log"), wait_until="load")
    page.on("request", lambda asked: hours.extend(parse_qs(asked.post_data or "").get("made_at", ())) if "entries" in asked.url else None)

    def write(words: str) -> None:
        page.locator("#kind-note").locator("xpath=ancestor::details").evaluate("one => { one.open = true; }")
        page.locator("#kind-note [name=text]").fill(words)
        page.locator("#kind-note").get_by_role("button", name="Write it down").click()

    page.route("**/log/entries", lambda route: route.abort(), times=1)
    write("Kept on the phone")
    page.wait_for_function("async () => (await amberQueue.all()).some((one) => one.state === 'waiting' && !one.is_on_its_way)")
    # One that arrives at once has all that waits sent after it.
    write("Sent at once")
    while len(held) < 2 and not hours:
        page.wait_for_timeout(20)
    assert hours == []
    page.unroute("**/signal")
    for one in held:
        with suppress(PlaywrightError):
            one.abort()
    with suppress(PlaywrightError):
        page.evaluate("dispatchEvent(new Event('online'))")
    sent(page)
    assert hours
    assert all(abs(datetime.fromisoformat(hour) - serving_now().clock.now()) < timedelta(minutes=1) for hour in hours)


HOUR = 3600_000
# Each by hand: what the acts were read by (offset, when that was told, how far their page saw the clock jump) and the hour that they said;
# the server's word; by how much each hour is off. The server's clock stands at 20 h.
SET = {
    "nothing was set": ([(0, 1, 0, 19)], 0, [0]),
    "slow before its page was opened": ([(0, 19.9, 0, 19)], 1, [-1]),
    "fast before its page was opened": ([(0, 19.9, 0, 22)], -2, [2]),
    "slow while its page was open, the last word long ago": ([(0, 1, -1, 19)], 1, [-1]),
    "after the act, which stays": ([(0, 1, 0, 18)], 1, [0]),
    "between two acts of a page": ([(0, 1, 0, 18), (0, 1, -3, 16)], 3, [0, -3]),
    "what follows one that was read off it": ([(0, 1, -3, 15), (0, 1, 0, 16)], 3, [-3, -3]),
    "another page has heard between two acts": ([(0, 19.9, 0, 18.95), (1, 19.95, -1, 19.98)], 1, [-1, 0]),
    "a phone that had never heard the time": ([(0, 0, 0, 12)], 8, [-8]),
}


@pytest.mark.parametrize("name", SET)
def test_hours_are_put_right_by_what_they_were_read_by(page: Page, site: Site, name: str):
    acts, offset_h, off_h = SET[name]
    page.goto(site.job("log"))
    page.wait_for_function("() => window.amberQueue")
    made = page.evaluate(
        """([acts, offset_ms, at, hour]) => amberQueue.righted(acts.map(([offset, told, skew, said], id) => ({ id, state: "waiting",
            read_by: { offset_ms: offset * hour, at: told * hour, skew_ms: skew * hour }, made_at: new Date(said * hour).toISOString() })),
            { offset_ms, at }).map((one) => Date.parse(one.made_at) / hour)""",
        [acts, offset_h * HOUR, 20 * HOUR, HOUR],
    )
    assert made == pytest.approx([said - off for (*_, said), off in zip(acts, off_h, strict=True)])
