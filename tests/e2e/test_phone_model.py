"""Three phones in random short histories: each act is on the server exactly once, in the right hand's name and hour.

A phone is opened again, loaded again, in two tabs, its tab is killed; it has no signal, a hotel's sign-in page, answers that get lost; the
server is killed; its clock is wrong and set meanwhile; it changes hands; it is full. The model is a list of what was done.
"""

import random
import shutil
import sqlite3
import time
from collections.abc import Iterable, Iterator
from dataclasses import dataclass, field
from datetime import UTC, datetime
from pathlib import Path

import pytest
from playwright.sync_api import Browser, BrowserContext, Page
from playwright.sync_api import Error as PlaywrightError
from playwright.sync_api import TimeoutError as PlaywrightTimeout

from tests.soak.server import Server
from tests.support.network import STATES, Network

PAINTERS = ("Ines", "Tobias", "Marlow")
# The clock of a phone, wrong by what `localStorage.clock` says; full while `localStorage.full` is set.
WRONG = """
const own = Date.now, real = Date, by = () => Number(localStorage.getItem("clock") ?? 0);
const origin = performance.timeOrigin + by();
Object.defineProperty(performance, "timeOrigin", { get: () => origin });
Date = class extends real { constructor(...given) { super(...(given.length ? given : [own() + by()])); } };
Date.now = () => own() + by();
const add = IDBObjectStore.prototype.add;
IDBObjectStore.prototype.add = function (...given) {
  if (localStorage.getItem("full")) throw new DOMException("full", "QuotaExceededError");
  return add.apply(this, given);
};
"""
WRITE = """
async ([words, waits]) => {
  const began = performance.now();
  const later = () => new Promise((go, fail) => {
    if (performance.now() - began > 60000) fail(new Error(`${words}: not kept in a minute at ${location.href}`));
    setTimeout(go, 5);
  });
  // It may be loading just now.
  while (document.readyState !== "complete" || !window.amberSignal) await later();
  const form = document.querySelector("#kind-note");
  form.querySelector("[name=text]").value = words;
  form.querySelector("button.btn-slate").click();
  const is_kept = async () => (await amberQueue.all()).some((one) => one.fields.some(([, value]) => value === words));
  while (waits && !(await is_kept())) await later();
}
"""
IDLE = """
async () => Boolean(window.amberQueue) && !document.querySelector("form[data-sending]")
  && (await amberQueue.all()).every((one) => one.state === "sent")
"""

STANDS = """
async () => JSON.stringify([location.href, document.title, document.readyState, { ...localStorage },
  (await (await caches.open("pages")).keys()).map((one) => one.url), Boolean(navigator.serviceWorker.controller),
  window.amberQueue && (await amberQueue.all()).filter((one) => one.state !== "sent")])
"""
TOLD = "Math.abs(JSON.parse(localStorage.signal ?? '{}').offset_ms + Number(localStorage.clock ?? 0)) < 60000"


# A browser that never answers would hold up the test for good.
WITHIN = """
(given) => Promise.race([
  (async () => { const it = (%s); return typeof it === "function" ? it(given) : it; })(),
  new Promise((_, fail) => { setTimeout(() => fail(new Error(`no answer in two minutes at ${location.href}`)), 120000); }),
])
"""


def asked(page: Page, script: str, given: object = None) -> object:
    """Return what a script of the page says."""
    return page.evaluate(WITHIN % script, given)


@dataclass
class Act:
    """What somebody did: who, and the earliest and latest moment."""

    who: str
    after: datetime
    before: datetime


@dataclass
class Phone:
    """A phone, the tab in front, and another that may stand open behind it."""

    number: int
    context: BrowserContext
    network: Network
    address: str
    who: str = ""
    page: Page | None = None
    behind: Page | None = None
    is_clock_sure: bool = True
    # Its clock was set, and it may not have heard since what time it is.
    needs_word: bool = False
    # What the browser calls each tab.
    targets: dict[Page, str] = field(default_factory=dict)
    # A phone that was full has given up the pages that it carried, for the entry.
    has_pages: bool = True

    def hand_to(self, who: str) -> None:
        self.who = who
        self.context.add_cookies([{"name": "who", "value": who, "url": self.address}])

    def open(self) -> None:
        """Open the log in a new tab, from the cache where there is no signal."""
        if self.page is not None:
            # Killed by the browser itself: the driver may wait for ever for a page to close that was loading itself.
            self.context.browser.new_browser_cdp_session().send("Target.closeTarget", {"targetId": self.targets[self.page]})
        self.page = self.context.new_page()
        self.targets[self.page] = self.context.new_cdp_session(self.page).send("Target.getTargetInfo")["targetInfo"]["targetId"]
        self.page.set_default_timeout(60_000)
        self.load()

    def load(self) -> None:
        while True:
            try:
                self.page.goto(self.address, wait_until="domcontentloaded", timeout=20_000)
                break
            except PlaywrightTimeout:
                # It loaded itself again in our place, of which the driver does not hear: what counts is that it is there.
                break
            except PlaywrightError as fault:
                # The page loads itself again just then.
                if "ERR_ABORTED" not in str(fault) and "interrupted by another" not in str(fault):
                    raise
        # Both in one question: it may load itself between two.
        if self.wait_for("document.readyState === 'complete' && [Boolean(window.amberQueue)]") == [False]:
            assert not self.has_pages, f"the page is not on phone {self.number}: {self.page.title()}"
            self.network.set(self.number, "signal")
            self.load()
            return
        # The page that it carries may have been made for whoever held it before.
        self.who = self.page.locator("meta[name=holder]").get_attribute("content")

    def turn(self) -> None:
        """Take the other tab; the one in front stays open behind it."""
        self.page, self.behind = self.behind, self.page
        if self.page is None:
            self.open()
        else:
            self.wait_for("document.readyState === 'complete' && Boolean(window.amberQueue)")
            self.who = self.page.locator("meta[name=holder]").get_attribute("content")

    def wait_until_sent(self) -> None:
        self.wait_for(IDLE)

    def wait_for(self, script: str) -> object:
        """Ask until it is so; fail in a minute and a half with what stands on the page."""
        until = time.monotonic() + 90
        while not (found := self.run(script)):
            assert time.monotonic() < until, f"{script}: {self.run(STANDS)}"
            self.page.wait_for_timeout(20)
        return found

    def run(self, script: str) -> object:
        """Run a script that may as well run twice: the page may load itself in the midst of it."""
        while True:
            try:
                return asked(self.page, script)
            except PlaywrightError as fault:
                if "navigation" not in str(fault):
                    raise

    @property
    def state(self) -> str:
        return self.network.states[self.number]

    def carry(self) -> None:
        self.open()
        self.page.evaluate("navigator.serviceWorker.register('/worker.js')")
        self.page.wait_for_function("() => navigator.serviceWorker.controller !== null")
        self.load()
        # It is kept beside being shown.
        self.wait_until_carried()

    def wait_until_told(self) -> None:
        """It has heard what time it is: by how much its own clock is wrong."""
        self.wait_for(TOLD)
        self.needs_word = False

    def wait_until_carried(self) -> None:
        """The page is kept beside being shown."""
        self.wait_for("async () => Boolean(await caches.match(location.href))")
        self.has_pages = True


@dataclass
class World:
    """Server, phones, and the list of what was done."""

    server: Server
    phones: list[Phone]
    acts: dict[str, Act] = field(default_factory=dict)
    # The tab may have been killed before the phone had kept it.
    maybe: dict[str, Act] = field(default_factory=dict)
    kills: int = 0

    def write(self, phone: Phone, chance: random.Random) -> None:
        words = f"Act {len(self.acts) + len(self.maybe) + 1} on phone {phone.number}"
        began = datetime.now(UTC)
        # Without waiting: the tab may be killed in the midst of it. What was not kept then is no act.
        waits = chance.random() < 0.8
        try:
            asked(phone.page, WRITE, [words, waits])
        except PlaywrightError as fault:
            # The page loaded itself in the midst of it.
            if "navigation" not in str(fault):
                raise
            waits = False
        (self.acts if waits else self.maybe)[words] = Act(phone.who, began, datetime.now(UTC))

    def step(self, phone: Phone, chance: random.Random) -> None:
        what = chance.choices(("write", "reload", "open", "turn", "network", "hand", "clock", "full"), (8, 2, 2, 2, 5, 1, 1, 1))[0]
        if what == "write":
            self.write(phone, chance)
        elif what == "reload":
            phone.load()
        elif what == "open":
            phone.open()
        elif what == "turn":
            phone.turn()
        elif what == "network":
            phone.network.set(phone.number, chance.choice(STATES))
            phone.is_clock_sure = phone.is_clock_sure and (phone.state == "signal" or not phone.needs_word)
        elif what == "hand" and phone.state == "signal":
            phone.hand_to(chance.choice(PAINTERS))
            phone.load()
        elif what == "clock":
            phone.is_clock_sure = phone.is_clock_sure and phone.state == "signal"
            phone.needs_word = True
            phone.run(f"localStorage.setItem('clock', {chance.randint(-5, 5) * 3600_000})")
        elif what == "full":
            self.full(phone)

    def full(self, phone: Phone) -> None:
        """A phone that is full keeps nothing: the words stay in the form until they are sent, once."""
        if phone.state != "none":
            return
        words = f"Act {len(self.acts) + len(self.maybe) + 1} on phone {phone.number}, full"
        phone.has_pages = False
        phone.run("localStorage.setItem('full', '1')")
        asked(phone.page, WRITE, [words, False])
        phone.page.wait_for_function("() => !document.querySelector('form[data-sending]')")
        assert phone.page.locator("#kind-note [name=text]").input_value() == words
        phone.run("localStorage.removeItem('full')")
        began = datetime.now(UTC)
        asked(phone.page, WRITE, [words, True])
        self.acts[words] = Act(phone.who, began, datetime.now(UTC))

    def settle(self) -> None:
        """Give every phone its signal, and wait until nothing waits."""
        for phone in self.phones:
            phone.network.set(phone.number, "signal")
        for phone in self.phones:
            phone.load()
            phone.wait_until_sent()
            phone.wait_until_carried()
            phone.wait_until_told()


@pytest.fixture
def world(browser: Browser, seeded_folder: Path, job, tmp_path: Path) -> Iterator[World]:
    folder = tmp_path / "served"
    shutil.copytree(seeded_folder, folder)
    server = Server(folder, "http://127.0.0.1:9", prepares="false")
    # The real clock: it goes on where the server is killed.
    del server.environment["AMBER_GABLE_NOW"]
    server.start()
    network = Network(len(PAINTERS), server.port)
    phones = []
    try:
        for number, who in enumerate(PAINTERS):
            context = browser.new_context(viewport={"width": 360, "height": 740})
            context.add_init_script(WRONG)
            phones.append(Phone(number, context, network, f"http://127.0.0.1:{network.ports[number]}/jobs/{job.id}/log"))
            phones[-1].hand_to(who)
            phones[-1].carry()
        yield World(server, phones)
    finally:
        for phone in phones:
            phone.context.close()
        network.close()
        server.stop()


def lines(folder: Path) -> list[tuple[str, str, datetime]]:
    with sqlite3.connect(folder / "amber-gable.sqlite3") as base:
        rows = base.execute("SELECT text, said_by, at FROM log_entries WHERE text LIKE 'Act %'").fetchall()
    return [(text, who, datetime.fromisoformat(at).replace(tzinfo=UTC)) for text, who, at in rows]


def histories(world: World, numbers: Iterable[str], kills: float = 0.01) -> int:
    """Play histories, with a kill of the server after that share of all steps; return how many acts there were, those of which the tab was
    killed at once among them."""
    for number in numbers:
        chance = random.Random(number)
        sure = {phone.number for phone in world.phones if phone.is_clock_sure}
        known = set(world.acts)
        for _ in range(chance.randint(4, 12)):
            world.step(chance.choice(world.phones), chance)
            if chance.random() < kills or (not known and len(world.acts) == 3):
                for phone in world.phones:
                    phone.is_clock_sure = phone.is_clock_sure and not phone.needs_word
                world.server.process.kill()
                world.server.process.wait()
                world.kills += 1
                world.server.start()
        world.settle()
        found = lines(world.server.folder)
        texts = [text for text, _, _ in found]
        assert len(texts) == len(set(texts)), f"history {number}: an act is there twice"
        assert set(world.acts) <= set(texts) <= set(world.acts) | set(world.maybe), f"history {number}: an act is lost"
        for text, who, at in found:
            act = world.acts.get(text) or world.maybe[text]
            assert who == act.who, f"history {number}: {text} is in another's name"
            phone = int(text.split("phone ")[1].split(",")[0])
            if text not in known and phone in sure and world.phones[phone].is_clock_sure:
                assert (act.after - at).total_seconds() < 90, f"history {number}: {text} at {at}, not {act.after}"
                assert (at - act.before).total_seconds() < 90, f"history {number}: {text} at {at}, not {act.before}"
        for phone in world.phones:
            phone.is_clock_sure = True
    return len(world.acts) + len(world.maybe)


@pytest.mark.e2e
def test_each_act_is_on_the_server_once_in_the_right_name_and_hour(world: World):
    # Once for certain: without a signal and full, then with room again.
    world.phones[0].network.set(0, "none")
    world.full(world.phones[0])
    assert histories(world, (f"1 {number}" for number in range(5))) > 8


@pytest.mark.slow
@pytest.mark.e2e
@pytest.mark.parametrize("quarter", range(4))
def test_a_thousand_histories(world: World, quarter: int):
    acts = histories(world, (f"2 {number}" for number in range(250 * quarter, 250 * (quarter + 1))), kills=0.03)
    print(f"\n250 histories of three phones: {acts} acts, each once; the server was killed {world.kills} times")
