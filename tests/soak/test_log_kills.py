"""Entries of the log while the server is killed: what was acknowledged is kept, and sent again it is one entry (as phones send them)."""

import random
import shutil
import threading
from collections import Counter
from contextlib import suppress
from dataclasses import dataclass, field
from datetime import UTC, datetime, timedelta
from pathlib import Path

import httpx
import pytest
from sqlalchemy.orm import Session

from amber_gable.services.takeoff.tasks import tasks_of
from amber_gable.store.engine import open_engine
from amber_gable.store.models import LogEntry, Sighting, WorkEntry
from tests.soak.server import NOW, Server

TABLE = Path(__file__).parents[2] / "docs" / "kills.md"
# Entered on a phone so long before the server's clock stands there: each waited for a signal.
MADE_AT = (datetime.fromisoformat(NOW) - timedelta(minutes=30)).astimezone(UTC).isoformat()


@dataclass
class Sent:
    """Entries that were made, and what became of them."""

    made: Counter[str] = field(default_factory=Counter)
    answered: int = 0
    again: int = 0


def entries(job_id: str, surfaces: list[str], tasks: list[str], side: str, chance: random.Random):
    """Yield entries without end, each of one kind with its number in it: kind, path, form."""
    number = 0
    while True:
        number += 1
        mark = f"entry {number}"
        both = {"form_key": f"key-of-entry-{number:06d}", "entry": f"device-entry-{number:06d}", "made_at": MADE_AT, "made_by": "Tobias"}
        kind = chance.choice(("work", "note", "mark", "palm", "rain"))
        if kind == "work":
            yield kind, f"/jobs/{job_id}/work", both | {"verb": "done", "tasks": chance.choice(tasks), "remark": mark, "share_pct": "1"}
        elif kind == "note":
            yield kind, f"/jobs/{job_id}/log/entries", both | {"kind": "note", "text": mark}
        elif kind == "mark":
            yield (
                kind,
                f"/jobs/{job_id}/inspection/marks",
                both | {"mark": "damage", "text": mark, "spot": "1,1", "surface_id": side} | SIDE,
            )
        elif kind == "palm":
            yield kind, f"/jobs/{job_id}/windows/{chance.choice(surfaces)}/found", both | {"what": chance.choice(("dry", "damp", "wet"))}
        else:
            yield kind, f"/jobs/{job_id}/sky", both | {"verb": "rain", "strength": "light"}


SIDE: dict[str, str] = {}


def killed(folder: Path, about: tuple, kills: int, seed: int) -> Sent:
    """Send entries one after another, kill the process at random moments, send again whatever was not answered."""
    chance, sent, waiting = random.Random(seed), Sent(), []
    source = entries(*about, chance)
    server = Server(folder, "http://127.0.0.1:9", prepares="false")
    for _ in range(kills):
        server.start()
        killer = threading.Timer(chance.uniform(0.05, 0.9), lambda: server.process.kill())
        with httpx.Client(base_url=server.url, timeout=120, headers={"hx-request": "true"}) as client, suppress(httpx.HTTPError):
            while True:
                if waiting:
                    sent.again += 1
                else:
                    waiting.append(next(source))
                    sent.made[waiting[0][0]] += 1
                _send(client, waiting[0])
                sent.answered += 1
                waiting.pop(0)
                # What is asked first imports what is slow to import: a kill before it would prove nothing of writing.
                if killer.ident is None:
                    killer.start()
        # On a crowded machine not even the first may have been answered in its time.
        server.process.kill() if killer.ident is None else killer.join()
        server.process.wait(timeout=60)
    server.start()
    with httpx.Client(base_url=server.url, timeout=120, headers={"hx-request": "true"}) as client:
        for entry in waiting:
            # Twice: the second answer is the first.
            _send(client, entry)
            _send(client, entry)
    server.stop()
    return sent


def _send(client: httpx.Client, entry: tuple[str, str, dict[str, str]]) -> None:
    answer = client.post(entry[1], data=entry[2])
    assert answer.status_code == 200, f"{entry[0]}: {answer.text[:300]}"


def kept(folder: Path, job_id: str, before: Counter[str]) -> tuple[Counter[str], int]:
    """Return how many entries of each kind are in the database, and how many of them twice."""
    engine = open_engine(f"sqlite:///{folder / 'amber-gable.sqlite3'}")
    found: Counter[str] = Counter()
    marks: Counter[str] = Counter()
    with Session(engine) as session:
        for row in session.query(WorkEntry).filter_by(job_id=job_id):
            if row.remark.startswith("entry "):
                found["work"] += 1
                marks[row.remark] += 1
        for row in session.query(LogEntry).filter_by(job_id=job_id):
            if row.text.startswith("entry "):
                found[row.kind] += 1
                marks[row.text] += 1
        for row in session.query(Sighting).filter_by(job_id=job_id):
            found["rain" if row.kind == "rain" else "palm"] += 1
    engine.dispose()
    return found - before, sum(n > 1 for n in marks.values())


@pytest.fixture
def folder(seeded_folder, tmp_path):
    shutil.copytree(seeded_folder, tmp_path / "served")
    return tmp_path / "served"


@pytest.fixture
def about(opened, job):
    surfaces = [s.id for e in job.building.elevations for s in e.surfaces if s.is_painted]
    tasks = [t.id.replace(" ", "_") for t in tasks_of(opened, job) if t.hours and not t.held_by][-6:]
    # A wall whose primer is on record: only where a coat is on can something be marked.
    wall = next(s for e in job.building.elevations for s in e.surfaces if s.name == "East wall")
    SIDE["side"] = wall.elevation_id
    return job.id, surfaces, tasks, wall.id


def proved(folder: Path, about: tuple, kills: int, seed: int) -> tuple[Sent, Counter[str]]:
    before, _ = kept(folder, about[0], Counter())
    sent = killed(folder, about, kills, seed)
    found, twice = kept(folder, about[0], before)
    assert found == sent.made, "none that was acknowledged is lost, none is doubled"
    assert twice == 0
    return sent, found


@pytest.mark.takes(11)
def test_entries_outlive_a_kill_and_are_never_doubled(folder, about):
    sent, _ = proved(folder, about, 1, 5)
    assert sent.answered > 1


@pytest.mark.slow
def test_entries_outlive_two_hundred_kills(folder, about):
    sent, found = proved(folder, about, 200, 6)
    lines = [
        "# Entries and kills", "",
        "The server is killed (`kill -9`) at 200 random moments while a phone sends entries, one after another; what got no answer is sent",
        "again with the same key. Made by `make soak` (tests/soak/test_log_kills.py).", "",
        "| kind | made | kept | lost | doubled |", "|---|---|---|---|---|",
        *(f"| {kind} | {sent.made[kind]} | {found[kind]} | {sent.made[kind] - found[kind]} | 0 |" for kind in sorted(sent.made)),
        f"| together | {sent.made.total()} | {found.total()} | {sent.made.total() - found.total()} | 0 |", "",
        f"Acknowledged at once: {sent.answered}; sent again after a kill: {sent.again}.", "",
    ]  # fmt: skip
    TABLE.write_text("\n".join(lines), encoding="utf-8")
    assert sent.again > 20
