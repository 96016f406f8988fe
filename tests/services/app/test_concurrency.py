"""Several people at once: writers wait for each other, and no edit is lost or half done."""

import sqlite3
import threading
import time
from concurrent.futures import ThreadPoolExecutor
from contextlib import closing

from sqlalchemy import func, select
from sqlalchemy.exc import OperationalError

from amber_gable.errors import ConflictError
from amber_gable.services.jobs import jobs
from amber_gable.services.outlook import outlook
from amber_gable.services.survey.building import openings, surfaces
from amber_gable.services.survey.building.openings import OpeningFacts
from amber_gable.services.survey.building.surfaces import SurfaceFacts
from amber_gable.store import engine, turn
from amber_gable.store.engine import file_of
from amber_gable.store.models import Change


def test_eight_people_adding_windows_lose_none(opened, job):
    west = next(e for e in job.building.elevations if e.name == "West")
    before = len(west.openings)

    def add(i: int) -> str:
        return openings.add_opening(opened, job.id, west.id, OpeningFacts("vent", 0.2, 0.2, 0.5 + 0.5 * i, 5.2))

    with ThreadPoolExecutor(8) as people:
        made = list(people.map(add, range(16)))
    again = jobs.whole(opened, job.id)
    found = next(e for e in again.building.elevations if e.name == "West").openings
    assert len(found) == before + 16
    assert set(made) <= {o.id for o in found}
    with opened.reading() as session:
        numbers = list(session.scalars(select(Change.number)))
        assert len(numbers) == len(set(numbers)), "every change has its own place in the order"


def test_writers_of_one_process_wait_for_their_turn_and_not_for_a_program_that_never_ends(opened, job, monkeypatch):
    for module in (engine, turn):
        monkeypatch.setattr(module, "BUSY_TIMEOUT_MS", 20)
    opened.app.engine.dispose()
    holds, ends = threading.Event(), threading.Event()

    def slow() -> None:
        with opened.writing():
            holds.set()
            ends.wait(60)

    with ThreadPoolExecutor(5) as people:
        first = people.submit(slow)
        assert holds.wait(60)
        others = [people.submit(jobs.set_state, opened.alone(), job.id, state) for state in ("resting", "done", "running")]
        # Many times as long as one waits for another program.
        time.sleep(0.3)
        assert not any(one.done() for one in others)
        ends.set()
        for one in (first, *others):
            one.result()

    # Another program holds it: whoever has the turn waits for that, and those behind no longer than by themselves.
    with closing(sqlite3.connect(file_of(opened.settings.resolved_database_url), isolation_level=None)) as foreign:
        foreign.execute("BEGIN IMMEDIATE")
        with ThreadPoolExecutor(4) as people:
            waiting = [people.submit(jobs.set_state, opened.alone(), job.id, "done") for _ in range(4)]
            assert all(isinstance(one.exception(), OperationalError) for one in waiting)
    jobs.set_state(opened, job.id, "done")
    opened.app.engine.dispose()


def test_of_two_who_read_the_same_only_one_saves(opened, job, surface_named):
    wall = surface_named("East wall")

    def save(lrv: float) -> bool:
        facts = SurfaceFacts(wall.substrate, wall.profile, wall.texture, lrv, True)
        try:
            surfaces.update_surface(opened, job.id, wall.id, facts, wall.version)
        except ConflictError:
            return False
        return True

    with ThreadPoolExecutor(6) as people:
        saved = list(people.map(save, [40.0, 50.0, 60.0, 70.0, 80.0, 90.0]))
    assert saved.count(True) == 1
    with opened.reading() as session:
        edits = session.scalar(select(func.count()).where(Change.row_id == wall.id, Change.label == "change East wall"))
    assert edits == 2, "the seed's own, and this one"


def test_many_pages_at_once_compute_an_outlook_once(opened, job, weather):
    known = outlook.status(opened, job)
    with ThreadPoolExecutor(8) as readers:
        found = list(readers.map(lambda _: outlook.outlook(opened, job, known), range(16)))
    assert all(f is found[0] for f in found)
