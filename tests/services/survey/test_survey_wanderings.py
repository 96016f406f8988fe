"""Long wanderings through the survey: whatever is edited in whatever order, the building holds together and all can be undone."""

import json
import random
import sqlite3
from dataclasses import replace
from typing import Any

import pytest
from shapely.geometry import Polygon
from shapely.ops import unary_union

from amber_gable.errors import PlanError
from amber_gable.exchange import jobbundle
from amber_gable.services.changes import changes
from amber_gable.services.jobs import jobs
from amber_gable.services.outlook import sightings as found
from amber_gable.services.survey.around import features
from amber_gable.services.survey.building import blocks, openings, surfaces
from amber_gable.services.survey.building.openings import OpeningFacts, facts_of
from amber_gable.services.survey.building.rows import block_of, rect_of, region_of
from amber_gable.services.survey.building.surfaces import SurfaceFacts
from amber_gable.services.survey.bundle.export import export
from amber_gable.services.survey.bundle.read import read_in
from amber_gable.services.survey.evidence import findings, gates, site_tests, walk
from amber_gable.services.survey.evidence.findings import FindingFacts
from amber_gable.services.takeoff.job import job_takeoff
from amber_gable.store.models import LogEntry, Reading, Sighting
from amber_gable.store.types import new_id
from tests.support.records import everything, last
from tests.support.surveys import CLEARED, WING


class Wanderer:
    """Edits a job at random as somebody would who keeps changing their mind."""

    def __init__(self, scope: Any, job_id: str, seed: int) -> None:
        self.scope, self.job_id, self.chance = scope, job_id, random.Random(seed)
        self.watch = sqlite3.connect(scope.settings.data_dir / "amber-gable.sqlite3")
        self.done = self.notes = self.readings = 0

    @property
    def job(self) -> Any:
        return jobs.whole(self.scope, self.job_id)

    def step(self) -> None:
        """Try one edit; one that is refused must have changed nothing."""
        edit = self.chance.choice(
            [
                self.measure,
                self.wing,
                self.away,
                self.window,
                self.swap,
                self.divide,
                self.join,
                self.note,
                self.test,
                self.turn,
                self.answer,
                self.palm,
            ]
        )
        before = self.written()
        try:
            edit(self.job)
        except PlanError:
            assert self.written() == before, edit.__name__
        else:
            self.done += self.written() != before

    def written(self) -> Any:
        """What SQLite counts up whenever another connection has written anything."""
        return self.watch.execute("PRAGMA data_version").fetchone()

    def measure(self, job: Any) -> None:
        row = self.chance.choice(job.building.blocks)
        name = self.chance.choice(["across_m", "deep_m", "eaves_height_m", "ridge_height_m", "overhang_m", "from_left_m"])
        value = round(getattr(row, name) * self.chance.uniform(0.7, 1.3), 2)
        blocks.update_block(self.scope, job.id, replace(block_of(row), **{name: value}))

    def wing(self, job: Any) -> None:
        house = next(b for b in job.building.blocks if b.kind == "house")
        roof = self.chance.choice(["gable", "hip", "shed", "flat"])
        along = round(self.chance.uniform(0, 6), 2)
        new = replace(WING, parent=house.id, side=self.chance.randrange(4), from_left_m=along, roof=roof, overhang_m=0.2)
        blocks.add_block(self.scope, job.id, new)

    def away(self, job: Any) -> None:
        blocks.remove_block(self.scope, job.id, self.chance.choice(job.building.blocks).id)

    def window(self, job: Any) -> None:
        wall = self.chance.choice(job.building.elevations)
        left, sill = (round(self.chance.uniform(0, 6), 2) for _ in range(2))
        openings.add_opening(self.scope, job.id, wall.id, OpeningFacts("fixed-window", 0.6, 0.6, left, sill))

    def swap(self, job: Any) -> None:
        """A door becomes a window, a window a door, or it goes."""
        one = self.chance.choice([o for e in job.building.elevations for o in e.openings] or [None])
        if one is None:
            return
        kind = self.chance.choice(["entry-door", "sash-window", ""])
        if kind:
            openings.update_opening(self.scope, job.id, one.id, replace(facts_of(one), kind=kind))
        else:
            openings.remove_opening(self.scope, job.id, one.id)

    def divide(self, job: Any) -> None:
        wall = self.chance.choice(job.building.elevations)
        line = [
            (round(self.chance.uniform(-1, 9), 2), round(self.chance.uniform(-1, 7), 2)) for _ in range(self.chance.choice([2, 2, 3, 4]))
        ]
        surfaces.add_cut(self.scope, job.id, wall.id, tuple(line))

    def join(self, job: Any) -> None:
        wall = self.chance.choice([e for e in job.building.elevations if e.cuts] or job.building.elevations)
        surfaces.remove_cut(self.scope, job.id, wall.id, 0)

    def note(self, job: Any) -> None:
        surface = self.chance.choice([(e, s) for e in job.building.elevations for s in e.surfaces])
        (x, y), *_ = surface[1].outline
        findings.add_finding(self.scope, job.id, surface[0].id, FindingFacts("peeling", "spots", x, y))
        surfaces.update_surface(self.scope, job.id, surface[1].id, SurfaceFacts("stucco", "flat", "light-stucco", 60, True))

    def test(self, job: Any) -> None:
        surface = self.chance.choice([s for e in job.building.elevations for s in e.surfaces])
        site_tests.record(self.scope, job, surface.id, "rub", {"rating": 6})
        gates.record(self.scope, job.id, "lead", "test", [surface.id], CLEARED)

    def palm(self, job: Any) -> None:
        """A note of every kind that points to a surface: palm, meter, hose, a reading, a photograph of a pin, a joint."""
        painted = [s for e in job.building.elevations for s in e.surfaces if s.is_painted]
        surface = self.chance.choice(painted)
        found.feel(self.scope, job, [surface.id], self.chance.choice(found.PALMS))
        found.wash(self.scope, job, [surface.id])
        self.notes += 2
        if found.stock_of(surface, self.scope.knowledge) is not None:
            found.measure(self.scope, job, surface.id, 14.0)
            self.notes += 1
        with changes.changing(self.scope, "a reading", job.id) as change:
            change.add(
                Reading(
                    id=new_id(), version=1, job_id=job.id, surface_id=surface.id, surface_name=surface.name, taken_at=change.at,
                    painter="Ines", air_temp_c=15, rel_humidity_pct=60, surface_temp_c=15, verdict={"may_paint": True},
                )
            )  # fmt: skip
        self.readings += 1

    def turn(self, job: Any) -> None:
        blocks.turn(self.scope, job.id, float(self.chance.randrange(360)))

    def answer(self, job: Any) -> None:
        wall = self.chance.choice(walk.stations_of(job)[:-1])
        walk.answer(self.scope, job, wall.key, "damp", ["sprinkler"])
        features.set_access(self.scope, job.id, wall.key, "lift", "soft", 4.0)


def differences(a: Any, b: Any, path: str = "") -> list[str]:
    """Return where two documents differ, for a message that can be read."""
    if isinstance(a, dict) and isinstance(b, dict) and a.keys() == b.keys():
        return [d for key in a for d in differences(a[key], b[key], f"{path}.{key}")]
    if isinstance(a, list) and isinstance(b, list) and len(a) == len(b):
        return [d for i, (x, y) in enumerate(zip(a, b, strict=True)) for d in differences(x, y, f"{path}.{i}")]
    return [] if a == b else [f"{path}: {a} became {b}"]


def holds_together(opened: Any, job: Any, knowledge: Any) -> None:
    """Surfaces tile their wall, openings stand inside it and apart, and what is taken off is what is there."""
    for e in job.building.elevations:
        whole = region_of(e).polygon
        parts = [region_of(s).polygon for s in e.surfaces if s.opening_id is None]
        assert sum(p.area for p in parts) == pytest.approx(whole.area, abs=5e-3), e.name
        assert unary_union(parts).symmetric_difference(whole).area < 5e-3, e.name
        rects = [rect_of(o) for o in e.openings]
        assert all(Polygon(r.outline).difference(whole).area < 0.02 for r in rects), e.name
        assert not any(a.overlaps(b) for i, a in enumerate(rects) for b in rects[:i]), e.name
        doors = {o.id for o in e.openings if knowledge.openings[o.kind].substrate}
        assert doors == {s.opening_id for s in e.surfaces if s.opening_id}, e.name
        assert len({s.name for s in e.surfaces}) == len(e.surfaces), e.name
    assert len({e.name for e in job.building.elevations}) == len(job.building.elevations)
    for line in job_takeoff(opened, job).by_surface.values():
        assert line.net_area_m2 >= 0


@pytest.mark.takes(14)
@pytest.mark.parametrize("seed", [1, *(pytest.param(n, marks=pytest.mark.slow) for n in (0, *range(2, 8)))])
def test_wherever_one_wanders_the_building_holds_together_and_can_be_undone(opened, knowledge, seed):
    every = jobs.list_jobs(opened)
    start = everything(opened)
    wanderer = Wanderer(opened, every[seed % len(every)].id, seed)
    first = last(opened, wanderer.job_id)
    with opened.reading() as session:
        notes_before = session.query(Sighting).filter_by(job_id=wanderer.job_id).count()
    for _ in range(25):
        wanderer.step()
        holds_together(opened, wanderer.job, knowledge)
    assert wanderer.done >= 5
    wanderer.watch.close()
    with opened.reading() as session:
        kept = [session.query(m).filter_by(job_id=wanderer.job_id).count() for m in (Sighting, Reading)]
    assert kept == [wanderer.notes + notes_before, wanderer.readings], "whatever became of its wall, no note is lost"
    out = json.loads(jobbundle.write(export(opened, wanderer.job)))
    again = read_in(opened, jobbundle.read(json.dumps(out).encode()))
    back = json.loads(jobbundle.write(export(opened, jobs.whole(opened, again))))
    for bundle in (out, back):
        for finding in bundle["findings"]:
            finding["photographs"] = []
    assert differences(out, back) == []
    changes.undo(opened, last(opened, again)[0])
    while (newest := last(opened, wanderer.job_id)) != first:
        changes.undo(opened, newest[0])
    # What was recorded on the wall is never taken out of the record: undone, it has a line that takes it back.
    end = everything(opened)
    with opened.reading() as session:
        readings = {r.id for r in session.query(Reading).filter_by(job_id=wanderer.job_id)}
        lines = [e.corrects for e in session.query(LogEntry).filter_by(job_id=wanderer.job_id, kind="withdrawn")]
    assert readings == set(lines)
    assert len(lines) == len(readings) == wanderer.readings
    assert {t: rows for t, rows in end.items() if t not in ("readings", "log_entries")} == {
        t: rows for t, rows in start.items() if t not in ("readings", "log_entries")
    }
