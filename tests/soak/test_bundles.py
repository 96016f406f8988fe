"""Bundles with any one of their values spoilt: refused by path, or taken, and then every page of the job works."""

import copy
import json
import random
from collections.abc import Iterator
from typing import Any

import pytest

from amber_gable.errors import PlanError
from amber_gable.exchange import jobbundle
from amber_gable.services.jobs import jobs
from amber_gable.services.survey.bundle.export import export
from amber_gable.services.survey.bundle.read import read_in

ODD = ("x", 1e30, -1e30, "", None, [], {}, True, float("nan"), "\ud800", 0, -1, "9" * 300)
PAGES = (
    "survey", "systems", "takeoff", "windows", "log", "price", "survey/walk", "survey/gates", "systems/colours", "systems/samples",
    "takeoff/ways", "truck", "schedule",
)  # fmt: skip


def places(value: Any, path: tuple[Any, ...] = ()) -> Iterator[tuple[Any, ...]]:
    """Every place in a document, whole parts as well as single values."""
    if path:
        yield path
    if isinstance(value, dict):
        for key, inside in value.items():
            yield from places(inside, (*path, key))
    elif isinstance(value, list):
        for index, inside in enumerate(value):
            yield from places(inside, (*path, index))


def kinds_of_places(bundles: list[dict[str, Any]]) -> list[tuple[dict[str, Any], tuple[Any, ...]]]:
    """One place of each kind: the first wall's outline stands for every wall's."""
    found: dict[str, tuple[dict[str, Any], tuple[Any, ...]]] = {}
    for bundle in bundles:
        for path in places(bundle):
            found.setdefault(".".join("#" if isinstance(p, int) else p for p in path), (bundle, path))
    return list(found.values())


def spoilt(bundle: dict[str, Any], path: tuple[Any, ...], odd: Any) -> bytes:
    out = copy.deepcopy(bundle)
    at: Any = out
    for part in path[:-1]:
        at = at[part]
    at[path[-1]] = odd
    return json.dumps(out).encode()


def walk(opened, client, cases, pages=PAGES) -> int:
    taken = 0
    for bundle, path, odd in cases:
        try:
            job_id = read_in(opened, jobbundle.read(spoilt(bundle, path, odd)))
        except PlanError:
            # Anything else would be a page of 500.
            continue
        taken += 1
        for page in pages:
            assert client.get(f"/jobs/{job_id}/{page}").status_code < 500, f"{path} {odd!r}: {page}"
        jobs.remove(opened, job_id)
    return taken


@pytest.fixture
def kinds(opened):
    bundles = [json.loads(jobbundle.write(export(opened, jobs.whole(opened, row.id)))) for row in jobs.list_jobs(opened)]
    found = kinds_of_places(bundles)
    assert len(found) > 150
    return found


@pytest.mark.takes(9)
def test_some_spoilt_bundles(opened, client, kinds):
    """Four places by chance, and what once broke a page: a list for a choice, no number among readings."""
    chance = random.Random(14)
    cases = [(*kind, chance.choice(ODD)) for kind in chance.sample(kinds, 4)]
    tests = [kind for kind in kinds if kind[1][:1] == ("site_tests",) and "values" in kind[1]]
    cases += [(*kind, odd) for kind in tests for odd in ([], None)]
    walk(opened, client, cases, ("survey", "windows"))


@pytest.mark.slow
@pytest.mark.parametrize("part", range(4))
def test_every_kind_of_place_spoilt_in_every_way(opened, client, kinds, part):
    taken = walk(opened, client, [(*kind, odd) for kind in kinds[part::4] for odd in ODD])
    print(f"\n{len(kinds[part::4]) * len(ODD)} bundles, {taken} taken")
