"""What moves when a figure moves: `python -m tests.soak.figures DATA-FOLDER [few]`, cases by lines on the standard input.

A case is a JSON list: table and column of the knowledge, or "assumptions" and a name. Each is tried in a process of its own, forked
before anything of the application is imported, since modules read assumptions when they are imported. What is looked at, dearest last:
small computations, specifications, take-off and price, hours and chances, the plan, all pages; with "few", no more than the first house
comes to by itself. Prints, for each case, what moved.
"""

import hashlib
import json
import os
import re
import shutil
import sys
import tempfile
from collections.abc import Callable, Iterator
from pathlib import Path
from typing import Any

# Imported once, for all that are forked.
import fastapi.testclient
import html5lib
import httpx
import numba
import numpy
import pandas
import pvlib
import scipy.special
import shapely
import sqlalchemy.orm
import uvicorn

HEAVY = (fastapi, html5lib, httpx, numba, numpy, pandas, pvlib, scipy, shapely, sqlalchemy, uvicorn)
_FACTORS = (1.6, 0.45)
# Keys of forms are made by chance for each page; hashes of files, and of the moment, are none of a figure's.
_BY_CHANCE = re.compile(r'name="form_key" value="[^"]*"|\?v=[0-9a-f]+|value="[0-9a-f]{32}"')


def moved(value: Any, factor: float) -> Any:
    """Return a figure, or what holds figures, with each of them moved; texts stay."""
    if isinstance(value, bool):
        return not value
    if isinstance(value, int):
        return max(round(value * factor), 0) if round(value * factor) != value else value + 1
    if isinstance(value, float):
        return value * factor if value else factor
    if isinstance(value, tuple | list):
        return type(value)(moved(one, factor) for one in value)
    if isinstance(value, dict):
        return {key: moved(one, factor) for key, one in value.items()}
    if hasattr(value, "model_copy"):
        return value.model_copy(update={name: moved(one, factor) for name, one in value})
    return value


def holds_figures(value: Any) -> bool:
    return moved(value, 1.6) != value


def with_moved(knowledge: Any, table: str, column: str, factor: float) -> Any:
    """Return the knowledge with a column moved in all rows of a table; a table within another is named with a dot."""
    name, _, inner = table.partition(".")
    whole = getattr(knowledge, name)
    if inner:
        return knowledge.model_copy(update={name: with_moved(whole, inner, column, factor)})
    if isinstance(whole, dict):
        rows = {key: row.model_copy(update={column: moved(getattr(row, column), factor)}) for key, row in whole.items()}
        return knowledge.model_copy(update={name: rows})
    return knowledge.model_copy(update={name: whole.model_copy(update={column: moved(getattr(whole, column), factor)})})


def _has_rows(whole: Any) -> bool:
    return isinstance(whole, dict) and any(hasattr(row, "model_copy") for row in whole.values())


def columns(knowledge: Any, prefix: str = "") -> Iterator[tuple[str, str]]:
    """Yield tables and columns that hold figures in any row."""
    for name, whole in knowledge:
        if hasattr(whole, "model_copy"):
            # A single row, or tables in turn.
            yield from columns(whole, f"{prefix}{name}.")
        elif _has_rows(whole):
            rows = list(whole.values())
            yield from ((f"{prefix}{name}", c) for c in type(rows[0]).model_fields if any(holds_figures(getattr(row, c)) for row in rows))
        elif holds_figures(whole):
            yield prefix.removesuffix("."), name


def cases() -> list[tuple[str, str]]:
    """Return every case there is."""
    from amber_gable.core.knowledge.assumptions import assumptions
    from amber_gable.core.knowledge.shipped import shipped

    return [*columns(shipped()), *(("assumptions", name) for name in assumptions())]


def _apply(table: str, column: str, factor: float) -> None:
    """Move a figure before the application is imported."""
    if table == "assumptions":
        from amber_gable.core.knowledge.assumptions import assumptions

        row = assumptions()[column]
        assumptions()[column] = row.model_copy(update={"value": moved(row.value, factor)})
    elif table:
        from amber_gable.core.knowledge import shipped

        changed = with_moved(shipped.shipped(), table, column, factor)
        shipped.build = lambda _tables: changed
        shipped.shipped.cache_clear()


def _digest(what: Callable[[], Any]) -> str:
    try:
        text = what()
    except Exception as fault:
        # Whoever breaks on a figure reads it.
        text = f"{type(fault).__name__}: {fault}"
    text = text if isinstance(text, str) else repr(text)
    return hashlib.sha256(text.encode("utf-8", "surrogatepass")).hexdigest()[:16]


def answers(folder: Path, *, few: bool) -> Iterator[tuple[str, str]]:
    """Yield what the application answers, piece by piece: its name and a digest."""
    numpy.set_printoptions(threshold=10**7)
    from amber_gable.services.jobs import jobs
    from amber_gable.services.outlook import outlook
    from amber_gable.services.outlook.windowcard import chances_of
    from amber_gable.services.planning import schedules
    from amber_gable.services.reckonings import REGISTRY, reckon
    from amber_gable.services.systems.coatings import coatings_of
    from amber_gable.services.systems.specs import specs_of
    from amber_gable.services.takeoff.job import job_takeoff
    from amber_gable.services.takeoff.tasks import tasks_of
    from tests.support.serving import DEMO_NOW, open_at

    for entry in REGISTRY:
        yield entry.name, _digest(lambda entry=entry: reckon(entry, entry.example))
    scope = open_at(folder)
    rows = jobs.list_jobs(scope)
    every = [jobs.whole(scope, row.id) for row in (rows[:1] if few else rows)]
    for job in every:
        for part in (specs_of, coatings_of, job_takeoff, tasks_of):
            yield f"{part.__name__} {job.name}", _digest(lambda part=part, job=job: part(scope, job))
    if few:
        return
    for job in every:
        ahead = outlook.outlook(scope, job, outlook.status(scope, job))
        yield f"hours {job.name}", _digest(lambda ahead=ahead: (ahead.windows, ahead.weather))
        yield f"chances {job.name}", _digest(lambda job=job, ahead=ahead: chances_of(scope, job, ahead, ahead.surface_ids[0]))
    yield "plan", _digest(lambda: [(s.id, s.starts_at, s.ends_at, s.painters) for s in schedules.make(scope, every[0]).stints])

    from fastapi.testclient import TestClient

    from amber_gable.web.app import create_app
    from tests.support.crawl import Walk
    from tests.support.pages import stages

    client = TestClient(create_app(running=scope.app), raise_server_exceptions=False)
    wall = next(s.id for e in every[0].building.elevations for s in e.surfaces if s.is_painted)
    at = int(DEMO_NOW.timestamp()) + 4 * 3600
    parts = [f"/jobs/{every[0].id}/windows/{wall}?at={at}", *(stage for job in every for stage in stages(job))]
    for who in ("", "Tobias"):
        client.cookies.set("who", who)
        walk = Walk(client, most=3).from_("/", "/bids", "/crew", "/crew/kit", "/settings", "/reckoner", "/today", "/quick", *parts)
        for address, text in walk.pages.items():
            yield f"{who} {address}", _digest(lambda text=text: _BY_CHANCE.sub("", text))


def _forked(seeded: Path, case: tuple[str, str], factor: float, base: dict[str, str] | None, *, few: bool) -> dict[str, str]:
    """Return what a process of its own answers with a figure moved: up to the first answer that differs from `base`."""
    reads, writes = os.pipe()
    if (pid := os.fork()) == 0:
        os.close(reads)
        with tempfile.TemporaryDirectory() as folder, os.fdopen(writes, "w") as out:
            try:
                shutil.copytree(seeded, Path(folder) / "data")
                _apply(*case, factor)
                for name, digest in answers(Path(folder) / "data", few=few):
                    print(json.dumps([name, digest]), file=out, flush=True)
                    if base is not None and base.get(name, digest) != digest:
                        break
            except BaseException as fault:
                print(json.dumps(["fault", repr(fault)[:300]]), file=out, flush=True)
            finally:
                out.flush()
                os._exit(0)
    os.close(writes)
    with os.fdopen(reads) as lines:
        found = dict(json.loads(line) for line in lines)
    os.waitpid(pid, 0)
    return found


def main() -> int:
    seeded, few = Path(sys.argv[1]), sys.argv[2:] == ["few"]
    base = _forked(seeded, ("", ""), 1.0, None, few=few)
    again = base if few else _forked(seeded, ("", ""), 1.0, None, few=few)
    steady = {name: digest for name, digest in base.items() if again.get(name) == digest}
    print(json.dumps({"steady": len(steady), "by_chance": sorted(set(base) - set(steady))}), flush=True)
    for line in sys.stdin:
        table, column = json.loads(line)
        what = ""
        for factor in _FACTORS:
            found = _forked(seeded, (table, column), factor, steady, few=few)
            what = next((name for name, digest in found.items() if name == "fault" or steady.get(name, digest) != digest), "")
            if what:
                break
        print(json.dumps({"case": [table, column], "moved": what}), flush=True)
    return 0


if __name__ == "__main__":
    sys.exit(main())
