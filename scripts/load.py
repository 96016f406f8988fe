"""Measures pages with few and many jobs: cold and warm by themselves, then asked by fifty phones with a plan made. Run by `make load`.

`python scripts/load.py COMMAND` measures another checkout's application, to compare: the path of its `amber-gable`.
"""

import statistics
import sys
import tempfile
import time
from pathlib import Path

import httpx

sys.path.insert(0, str(Path(__file__).parents[1]))

from tests.soak.phones import let_loose
from tests.soak.server import Server, read_in, weather, whole_page
from tests.support.serving import open_at

from amber_gable.exchange import jobbundle
from amber_gable.services.jobs import jobs
from amber_gable.services.survey.bundle.export import export

PAGES = {"start page": "/", "bids": "/bids"}
WARM = 15
PHONES, SECONDS, THINK_S = 50, 60.0, 6.0


def demo_bundles() -> list[str]:
    """Return the demonstration's jobs as bundles."""
    from amber_gable.demo.seed import seed

    with tempfile.TemporaryDirectory() as folder:
        context = open_at(Path(folder))
        seed(context.app)
        found = [jobbundle.write(export(context, jobs.whole(context, job.id))) for job in jobs.list_jobs(context)]
        context.app.close()
    return found


def warm_ms(client: httpx.Client, path: str) -> float:
    times = []
    for _ in range(WARM):
        began = time.monotonic()
        assert client.get(path).status_code == 200
        times.append(1000 * (time.monotonic() - began))
    return statistics.median(times)


def row(server: Server, label: str) -> None:
    """Print one row: cold is after a new start, and until every card is there."""
    server.stop()
    server.start()
    figures = []
    with server.client() as client:
        for path in PAGES.values():
            first, whole = whole_page(client, path)
            figures += [1000 * first, 1000 * whole, warm_ms(client, path)]
    print(f"{label:28}" + "".join(f"{f:11.0f}" for f in figures) + f"{server.memory_mb():9.0f}", flush=True)


def plan(client: httpx.Client, job_id: str) -> float:
    """Plan all running jobs; return how long it took [s]."""
    began = time.monotonic()
    assert client.post(f"/jobs/{job_id}/schedule", data={}).status_code == 200
    while client.get(f"/jobs/{job_id}/schedule/making").headers.get("hx-refresh") is None and time.monotonic() - began < 600:
        time.sleep(0.5)
    return time.monotonic() - began


def asked(server: Server, running: list[str]) -> None:
    """Print how long fifty phones wait that look at running jobs and write into them."""
    with server.client() as client:
        took_s = plan(client, running[0])
        for job_id in running:
            whole_page(client, f"/jobs/{job_id}/schedule")
    told = let_loose(server.url, PHONES, SECONDS, THINK_S, running)
    others = {status: count for status, count in told.statuses().items() if status != 200}
    print(f"  planned in {took_s:.0f} s; {PHONES} phones: {told.line()}; others {others}, unanswered {len(told.unanswered)};"
          f" {server.memory_mb():.0f} MB", flush=True)  # fmt: skip


def main() -> int:
    command = [sys.argv[1]] if len(sys.argv) > 1 else None
    bundles = demo_bundles()
    heads = [f"{name} {what}" for name in ("start", "bids") for what in ("first", "whole", "warm")]
    print(f"{'jobs [ms, MB]':28}" + "".join(f"{h:>11}" for h in heads) + f"{'memory':>9}")
    with tempfile.TemporaryDirectory() as folder, weather(command) as url:
        server = Server(Path(folder) / "data", url, command).start()
        made: list[str] = []
        try:
            for count in (4, 28):
                with server.client() as client:
                    made += read_in(client, bundles, count - len(made))
                row(server, f"{count} running")
                if command is None:
                    asked(server, made)
            if command is None:
                # Another checkout may know no states of jobs.
                with server.client() as client:
                    made += read_in(client, bundles, 200 - len(made))
                    for job_id in made[8:]:
                        assert client.post(f"/jobs/{job_id}/state", data={"state": "done"}).status_code == 200
                row(server, "200, 8 of them running")
                asked(server, made[:8])
        finally:
            server.stop()
    return 0


if __name__ == "__main__":
    sys.exit(main())
