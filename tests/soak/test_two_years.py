"""Two years of entries on eight jobs: the day's list and the log stay quick, an entry is kept quickly."""

import statistics
import time
from datetime import timedelta

import pytest

from amber_gable.services.jobs import jobs
from amber_gable.services.planning import schedules
from amber_gable.services.takeoff.tasks import tasks_of
from amber_gable.store.models import LogEntry, Reading, WorkEntry
from amber_gable.store.types import new_id
from tests.support.pages import HTMX

DAYS, ENTRIES_A_DAY = 730, 4


def fill(scope, job_id: str) -> int:
    """Write two years of entries of a job, four of work, one of the log and one reading a day; return how many."""
    job = jobs.whole(scope, job_id)
    tasks = [t for t in tasks_of(scope, job) if t.hours]
    wall = next(s for e in job.building.elevations for s in e.surfaces if s.is_painted)
    rows: list[object] = []
    for day in range(2, DAYS):
        at = scope.clock.now() - timedelta(days=day)
        for number in range(ENTRIES_A_DAY):
            task, entry = tasks[(day * ENTRIES_A_DAY + number) % len(tasks)], new_id()
            common = {"version": 1, "job_id": job_id, "entry": entry, "task": f"old-{task.id}", "name": f"{task.name}: {task.label}"}
            rows.append(
                WorkEntry(
                    id=new_id(), **common, told="done", from_at=at, until_at=at + timedelta(hours=2), share_frac=0.5, painters=["Ines"],
                    litres=None, product="", batch="", remark="", said_at=at, said_by="Ines", corrects="", details={},
                )
            )  # fmt: skip
        rows.append(LogEntry(id=new_id(), version=1, job_id=job_id, entry=new_id(), kind="note", at=at, said_at=at, said_by="Ines",
                             surface_id=None, place="", text="as every day", details={}, refers="", corrects=""))  # fmt: skip
        rows.append(Reading(id=new_id(), version=1, job_id=job_id, surface_id=wall.id, surface_name=wall.name, taken_at=at, painter="Ines",
                            air_temp_c=18.0, rel_humidity_pct=55.0, surface_temp_c=17.0, details={},
                            verdict={"may_paint": True, "dew_point_c": 8.9, "dew_margin_c": 8.1, "rules": []}))  # fmt: skip
    with scope.writing() as session:
        session.add_all(rows)
    return len(rows)


def median_s(ask, times: int = 7) -> float:
    taken = []
    for _ in range(times):
        began = time.perf_counter()
        ask()
        taken.append(time.perf_counter() - began)
    return statistics.median(taken)


@pytest.mark.slow
def test_the_days_list_and_an_entry_with_two_years_behind_them(client, opened):
    heads = jobs.list_jobs(opened)
    for row in heads[:4]:
        bundle = client.get(f"/jobs/{row.id}/survey.json").json()
        bundle["job"]["name"] += ", again"
        made = client.post("/api/jobs", json=bundle)
        assert made.status_code == 201
    ids = [row.id for row in jobs.list_jobs(opened)][:8]
    for job_id in ids:
        jobs.set_state(opened, job_id, jobs.RUNNING)
    schedules.make(opened, jobs.whole(opened, ids[0]))
    client.cookies.set("who", "Tobias")

    def measured() -> dict[str, float]:
        client.get("/today")
        number = iter(range(1000))

        def entry() -> None:
            form = {"kind": "note", "text": "kept", "entry": f"quick-{time.time_ns()}-{next(number)}"}
            assert client.post(f"/jobs/{ids[0]}/log/entries", data=form, headers=HTMX).status_code == 200

        return {
            "a bare page": median_s(lambda: client.get("/phone")), "my day": median_s(lambda: client.get("/today")),
            "site log": median_s(lambda: client.get(f"/jobs/{ids[0]}/log")), "an entry kept": median_s(entry),
        }  # fmt: skip

    before = measured()
    count = sum(fill(opened, job_id) for job_id in ids)
    for job_id in ids:
        # Written past the one door: the jobs have moved on.
        jobs.set_state(opened, job_id, "resting")
        jobs.set_state(opened, job_id, jobs.RUNNING)
    after = measured()
    print(
        f"\n{count} lines on {len(ids)} jobs: "
        + ", ".join(f"{name} {1000 * before[name]:.0f} -> {1000 * s:.0f} ms" for name, s in after.items())
    )
    assert after["an entry kept"] < 5 * after["a bare page"]
    assert after["my day"] < 1.0
    assert after["site log"] < 1.0
