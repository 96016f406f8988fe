"""The power fails: whatever was acknowledged is in the files as they lie on the disk at that instant.

The process is stopped in the middle of what it does and its files are copied: what it holds in memory is lost, as with the power.
"""

import random
import shutil
import signal
import sqlite3
import threading
import time
from contextlib import closing

import pytest

from tests.soak.server import Server

WRITERS = 4


@pytest.fixture
def folder(seeded_folder, tmp_path):
    shutil.copytree(seeded_folder, tmp_path / "served")
    return tmp_path / "served"


def notes_in(folder) -> list[str]:
    with closing(sqlite3.connect(folder / "amber-gable.sqlite3")) as base:
        assert base.execute("PRAGMA integrity_check").fetchone() == ("ok",)
        return [row[0] for row in base.execute("SELECT text FROM log_entries WHERE kind = 'note'")]


def losses(folder, tmp_path, job_id: str, count: int, seed: int) -> tuple[int, list[str]]:
    """Let writers write notes, let the power fail so many times; return how many were acknowledged, and those that were lost."""
    chance, acknowledged, ends, faults = random.Random(seed), list[str](), threading.Event(), list[BaseException]()
    server = Server(folder, "http://127.0.0.1:9", prepares="false").start()

    def write(number: int) -> None:
        with server.client() as client:
            for act in range(100_000):
                if ends.is_set():
                    return
                text = f"Note {act} of writer {number}."
                form, headers = {"kind": "note", "text": text, "entry": ""}, {"x-entry": f"power-{number}-{act}"}
                answer = client.post(f"/jobs/{job_id}/log/entries", data=form, headers=headers)
                assert answer.status_code == 200, answer.text[:200]
                acknowledged.append(text)

    def writes(number: int) -> None:
        try:
            write(number)
        except BaseException as fault:
            faults.append(fault)

    writers = [threading.Thread(target=writes, args=(number,)) for number in range(WRITERS)]
    for one in writers:
        one.start()
    while not acknowledged and not faults:
        time.sleep(0.01)
    lost: list[str] = []
    for nth in range(count):
        time.sleep(chance.uniform(0.01, 0.15))
        # What was acknowledged before the instant; an answer that is on its way then is one that nobody heard.
        heard = list(acknowledged)
        server.process.send_signal(signal.SIGSTOP)
        copy = tmp_path / f"loss-{nth}"
        copy.mkdir()
        for name in ("amber-gable.sqlite3", "amber-gable.sqlite3-wal"):
            if (folder / name).exists():
                shutil.copy(folder / name, copy / name)
        server.process.send_signal(signal.SIGCONT)
        lost += sorted(set(heard) - set(notes_in(copy)))
        shutil.rmtree(copy)
    ends.set()
    for one in writers:
        one.join()
    server.stop()
    assert not faults, faults[0]
    return len(acknowledged), lost


def test_the_power_fails_and_nothing_that_was_acknowledged_is_lost(folder, tmp_path, job):
    acknowledged, lost = losses(folder, tmp_path, job.id, 3, 1)
    assert acknowledged > 3
    assert lost == []


@pytest.mark.slow
def test_the_power_fails_a_hundred_times(folder, tmp_path, job):
    acknowledged, lost = losses(folder, tmp_path, job.id, 100, 2)
    print(f"\n100 power losses among {acknowledged} acknowledged notes: {len(lost)} lost")
    assert lost == []
