"""Many at once, in one breath: the server gets slower and says so, nothing that was acknowledged is lost, and it ends when told."""

import asyncio
import random
import re
import shutil
import socket
import sqlite3
import time
from collections import Counter
from collections.abc import Coroutine
from concurrent.futures import ThreadPoolExecutor
from contextlib import ExitStack, closing
from dataclasses import dataclass, field
from typing import Any, TypeVar

import httpx
import pytest

from tests.soak.phones import Told, let_loose
from tests.soak.server import Server

_T = TypeVar("_T")
# The hundred are of this process, and take of its processor.
pytestmark = pytest.mark.takes(15)


@pytest.fixture(scope="module")
def folder(seeded_folder, tmp_path_factory):
    found = tmp_path_factory.mktemp("flood") / "served"
    shutil.copytree(seeded_folder, found)
    return found


@pytest.fixture(scope="module")
def served(folder):
    """One server for all floods, one after another."""
    server = Server(folder, "http://127.0.0.1:9", prepares="false").start()
    yield server
    server.stop()


@pytest.fixture(scope="module")
def job_id(folder) -> str:
    with sqlite3.connect(folder / "amber-gable.sqlite3") as base:
        return str(base.execute("SELECT id FROM jobs ORDER BY created_at LIMIT 1").fetchone()[0])


@dataclass
class Flood:
    """What came of a flood: how long answers took [s], by kind and status; the notes that were acknowledged."""

    job_id: str
    took: dict[tuple[str, int], list[float]] = field(default_factory=dict)
    acknowledged: list[str] = field(default_factory=list)
    unanswered: list[str] = field(default_factory=list)

    async def ask(self, client: httpx.AsyncClient, kind: str, act: str) -> int:
        """Ask for a page, or enter a note; return the status, 0 where no answer came."""
        began = time.monotonic()
        try:
            if kind == "note":
                form = {"kind": "note", "text": act, "entry": ""}
                answer = await client.post(
                    f"/jobs/{self.job_id}/log/entries", data=form, headers={"x-entry": re.sub("[^A-Za-z0-9]+", "-", act)}
                )
            else:
                answer = await client.get({"start": "/", "log": f"/jobs/{self.job_id}/log", "jobs": "/jobs"}[kind])
        except httpx.HTTPError as fault:
            self.unanswered.append(repr(fault))
            return 0
        self.took.setdefault((kind, answer.status_code), []).append(time.monotonic() - began)
        if answer.headers.get("x-entry-state") == "kept":
            self.acknowledged.append(act)
        if answer.status_code == 503:
            assert int(answer.headers["retry-after"]) >= 1
        return answer.status_code

    def statuses(self) -> Counter[int]:
        counts: Counter[int] = Counter()
        for (_, status), times in self.took.items():
            counts[status] += len(times)
        return counts

    def p95(self, status: int) -> float:
        times = sorted(t for (_, of), took in self.took.items() if of == status for t in took)
        return times[int(0.95 * (len(times) - 1))] if times else 0.0


async def at_once(flood: Flood, url: str, kinds: list[str], comes_back: bool = True) -> None:
    """Ask everything in one breath; a note that is told to come back does, as the queue of a phone."""

    async def one(number: int, kind: str) -> None:
        for _ in range(60):
            status = await flood.ask(client, kind, f"Phone {number} of {len(kinds)}.")
            if kind != "note" or status == 200 or not comes_back:
                return
            await asyncio.sleep(0.2 + number % 10 / 10)

    limits = httpx.Limits(max_connections=None)
    async with httpx.AsyncClient(base_url=url, timeout=60, limits=limits, headers={"hx-request": "true"}) as client:
        await asyncio.gather(*(one(number, kind) for number, kind in enumerate(kinds)))


def apart(work: Coroutine[Any, Any, _T]) -> _T:
    """Return what is asked at once, in a thread of its own: in that of the tests the loop of the browser may be running."""
    with ThreadPoolExecutor(1) as own:
        return own.submit(asyncio.run, work).result()


def notes(folder) -> Counter[str]:
    with sqlite3.connect(folder / "amber-gable.sqlite3") as base:
        return Counter(row[0] for row in base.execute("SELECT text FROM log_entries WHERE kind = 'note'"))


def mixed(count: int, seed: int) -> list[str]:
    return random.Random(seed).choices(("note", "start", "log", "jobs"), (6, 2, 1, 1), k=count)


def test_a_hundred_at_once_are_answered_or_told_to_come_back(served, folder, job_id):
    flood = Flood(job_id)
    apart(at_once(flood, served.url, mixed(100, 1)))
    assert not flood.unanswered
    assert set(flood.statuses()) <= {200, 503}
    kept = notes(folder)
    assert kept == Counter(flood.acknowledged), "what was acknowledged is kept, each once"
    assert len(kept) == mixed(100, 1).count("note"), "who was told to come back has come back"
    # The server is as it was.
    began = time.monotonic()
    assert httpx.get(f"{served.url}/jobs", timeout=10).status_code == 200
    assert time.monotonic() - began < 5


def test_a_foreign_lock_and_slow_clients_stop_nobody_who_reads(served, folder, job_id):
    host, port = "127.0.0.1", served.port
    ends = ExitStack()
    slow = [ends.enter_context(socket.create_connection((host, port))) for _ in range(60)]
    for one in slow:
        # It says what it will send, and then sends it slowly or never.
        one.sendall(
            f"POST /jobs/{job_id}/log/entries HTTP/1.1\r\nHost: {host}\r\nContent-Type: application/x-www-form-urlencoded\r\n".encode()
        )
        one.sendall(b"Content-Length: 500\r\n\r\ntext=")
    with ends, closing(sqlite3.connect(folder / "amber-gable.sqlite3", isolation_level=None, check_same_thread=False)) as foreign:
        foreign.execute("BEGIN IMMEDIATE")

        async def meanwhile() -> tuple[Flood, Flood]:
            writing, reading = Flood(job_id), Flood(job_id)
            async with httpx.AsyncClient(base_url=served.url, timeout=60) as client:
                writes = [asyncio.ensure_future(writing.ask(client, "note", f"Behind the lock {n}.")) for n in range(12)]
                await asyncio.sleep(0.2)
                for _ in range(5):
                    assert await reading.ask(client, "log", "") == 200
                assert not all(write.done() for write in writes), "they wait for the lock"
                foreign.execute("ROLLBACK")
                await asyncio.gather(*writes)
            return writing, reading

        writing, reading = apart(meanwhile())
    assert reading.p95(200) < 3
    assert Counter(writing.acknowledged) == Counter({text: 1 for text in notes(folder) if text.startswith("Behind")})


@pytest.mark.slow
def test_five_hundred_phones_for_a_minute(served, folder, job_id):
    before = notes(folder)
    told = let_loose(served.url, 500, 60, 1.0, [job_id])
    print(f"\n500 phones, 60 s: {dict(told.statuses())}, unanswered {len(told.unanswered)}; {len(told.acknowledged)} notes acknowledged")
    # All connect within one second, to a machine that they share with the server: its first breath, and then.
    first, then = Told(told.took[:600]), Told(told.took[600:])
    print(
        f"{told.line()}; p95 of a 503 {first.p95(503):.3f} s in the first breath, {then.p95(503):.3f} s then; {served.memory_mb():.0f} MB"
    )
    assert set(told.statuses()) <= {200, 503}
    assert not told.unanswered
    assert not told.unsent, "who comes back gets through"
    assert notes(folder) - before == Counter(told.acknowledged), "nothing that was acknowledged is lost or doubled"
    assert first.p95(503) < 2
    assert then.p95(503) < 0.1


def test_it_ends_when_told_although_a_hundred_wait(served, job_id):
    async def flooded() -> None:
        asked = asyncio.ensure_future(at_once(Flood(job_id), served.url, ["start"] * 60, comes_back=False))
        await asyncio.sleep(0.5)
        process = served.process
        process.terminate()
        began = time.monotonic()
        while process.poll() is None:
            await asyncio.sleep(0.05)
        assert time.monotonic() - began < 12
        await asked

    apart(flooded())
