"""Three hundred thousand changes behind them cost a write no more than three thousand."""

import statistics
import time
from collections.abc import Callable

import pytest
from sqlalchemy import text

from amber_gable.services.changes import changes
from amber_gable.services.jobs import jobs
from amber_gable.services.survey.evidence import findings
from amber_gable.services.survey.evidence.findings import FindingFacts
from tests.support.pages import HTMX

pytestmark = [pytest.mark.small, pytest.mark.slow]
FEW, MANY = 3_000, 300_000

# A tenth of them are of the job's own rows, the others of rows and jobs that are gone.
FILL = """
WITH RECURSIVE counted(n) AS (SELECT :first UNION ALL SELECT n + 1 FROM counted WHERE n < :last)
INSERT INTO changes (id, set_id, contractor_id, job_id, number, at, who, label, table_name, row_id, before, after)
SELECT lower(hex(randomblob(16))), lower(hex(randomblob(16))), :firm, CASE n % 10 WHEN 0 THEN :job ELSE 'job-' || n % 900 END,
       n, :at, 'Ines', 'name the wall', 'surfaces', CASE n % 10 WHEN 0 THEN :wall ELSE 'wall-' || n % 9000 END,
       json_object('name', 'north'), json_object('name', 'north wall') FROM counted
"""


def fill(opened, job, count: int) -> None:
    wall = next(s for e in job.building.elevations for s in e.surfaces if s.is_painted)
    with opened.writing() as session:
        there, last = session.execute(text("SELECT count(*), max(number) FROM changes")).one()
        given = {"first": last + 1, "last": last + count - there, "firm": opened.contractor_id, "job": job.id, "wall": wall.id}
        session.execute(text(FILL), given | {"at": "2026-09-01 08:00:00"})
    with opened.app.engine.connect() as connection:
        connection.execute(text("PRAGMA wal_checkpoint(TRUNCATE)"))
        assert connection.execute(text("SELECT count(*) FROM changes")).scalar_one() == count


def cpu_ms(ask: Callable[[], None], times: int = 40) -> float:
    ask()
    taken = []
    for _ in range(times):
        began = time.process_time()
        ask()
        taken.append(time.process_time() - began)
    return 1000 * statistics.median(taken)


def test_a_write_costs_the_same(client, opened, job):
    client.cookies.set("who", "Tobias")
    wall = next(s for e in job.building.elevations for s in e.surfaces if s.is_painted)
    number = iter(range(100_000))

    def entry() -> None:
        form = {"kind": "note", "text": "kept", "entry": f"quick-{next(number)}"}
        assert client.post(f"/jobs/{job.id}/log/entries", data=form, headers={**HTMX, "x-entry": form["entry"]}).status_code == 200

    def edit() -> None:
        findings.add_finding(opened, job.id, wall.elevation_id, FindingFacts("peeling", "to-30", 1.0, 1.5))

    def undo() -> None:
        edit()
        last = changes.undoable(opened, job.id)
        assert last is not None
        changes.undo(opened, last.set_id)

    def measured() -> dict[str, float]:
        return {"an entry": cpu_ms(entry), "an edit": cpu_ms(edit), "an edit and its undo": cpu_ms(undo)}

    fill(opened, job, FEW)
    few = measured()
    fill(opened, jobs.whole(opened, job.id), MANY)
    many = measured()
    print("\n3,000 -> 300,000 changes: " + ", ".join(f"{name} {few[name]:.1f} -> {ms:.1f} ms" for name, ms in many.items()))
    for name, ms in many.items():
        assert ms < 1.25 * few[name] + 1, name
