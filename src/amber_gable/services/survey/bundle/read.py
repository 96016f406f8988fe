"""Reading a bundle into a new job. Everything is checked, every problem told by its path, then all is written or nothing."""

from dataclasses import asdict
from functools import partial
from typing import Any

from pydantic import ValidationError

from amber_gable.core.geometry import Block
from amber_gable.core.knowledge import Knowledge
from amber_gable.errors import FieldErrors
from amber_gable.exchange.jobbundle import ElevationPart, JobBundle
from amber_gable.services.app.scope import Scope
from amber_gable.services.changes.changes import ChangeSet, changing
from amber_gable.services.jobs.jobs import JobFacts
from amber_gable.services.jobs.rules import JobRules, check_rules
from amber_gable.services.survey.around.features import FeatureFacts
from amber_gable.services.survey.building.blocks import alone_row, insert_block
from amber_gable.services.survey.building.items import ItemFacts
from amber_gable.services.survey.building.matching import match_surfaces
from amber_gable.services.survey.building.openings import OpeningFacts, check_fits
from amber_gable.services.survey.building.rebuild import rebuild
from amber_gable.services.survey.building.rows import shape_of
from amber_gable.services.survey.building.surfaces import SurfaceFacts
from amber_gable.services.survey.bundle.decisions import read_decisions
from amber_gable.services.survey.bundle.records import Reader, read_records
from amber_gable.store import queries
from amber_gable.store.models import Building, Elevation, Feature, Item, Job, Opening
from amber_gable.store.types import new_id


def read_in(scope: Scope, bundle: JobBundle) -> str:
    """Make a new job from a bundle; return its id.

    Raises
    ------
    FieldErrors
        Every problem by its path in the bundle; nothing was changed.
    """
    reader = Reader(scope, bundle)
    facts = JobFacts(**bundle.job.model_dump(exclude={"rules"}))
    reader.attempt("job", lambda: facts.check(reader.knowledge))
    rules = reader.attempt("job.rules", lambda: _rules(bundle.job.rules, reader.knowledge)) or JobRules()
    job_id = new_id()
    with changing(scope, f"read in {facts.name}", job_id) as change:
        columns = asdict(facts) | {"crew": list(facts.crew), "rules": rules.model_dump()}
        job = Job(id=job_id, version=1, contractor_id=scope.contractor_id, created_at=scope.clock.now(), **columns)
        change.add(job)
        building = Building(
            id=new_id(),
            version=1,
            job_id=job_id,
            front_azimuth_deg=bundle.building.front_azimuth_deg % 360,
            is_quick=bundle.building.is_quick,
        )
        change.add(building)
        _blocks(reader, change, building)
        if not reader.problems:
            _walls(reader, change, job_id, building)
        if reader.elevations:
            _rest(reader, change, change.whole_job())
        if reader.problems:
            # Leaving by an error takes everything back that was written.
            raise FieldErrors(reader.problems)
    return job_id


def _rules(values: dict[str, Any], knowledge: Knowledge) -> JobRules:
    try:
        rules = JobRules.model_validate(values)
    except ValidationError as fault:
        raise FieldErrors({".".join(str(p) for p in e["loc"]) or "form": e["msg"] for e in fault.errors(include_url=False)}) from fault
    check_rules(rules, knowledge)
    return rules


def _blocks(reader: Reader, change: ChangeSet, building: Building) -> None:
    for index, part in enumerate(reader.bundle.building.blocks):
        path = f"building.blocks.{index}"
        if part.key in reader.blocks:
            reader.problems[f"{path}.key"] = f"There are two blocks “{part.key}”."
            continue
        if part.parent and part.parent not in reader.blocks:
            reader.problems[f"{path}.parent"] = f"“{part.parent}” comes later or is not there; a block stands after what it hangs on."
            continue
        values = part.model_dump(exclude={"key", "parent"})
        block = Block(key="", parent=reader.blocks.get(part.parent or "", ""), **values)
        row = reader.attempt(path, partial(insert_block, change, building, block, list(reader.blocks.values())))
        if row is not None:
            reader.blocks[part.key] = row.id
    if not reader.bundle.building.blocks and not reader.bundle.building.alone:
        reader.problems["building.blocks"] = "A building needs a block, or an elevation that stands alone."


def _walls(reader: Reader, change: ChangeSet, job_id: str, building: Building) -> None:
    alone: dict[str, str] = {}
    job = change.whole_job()
    for index, part in enumerate(reader.bundle.building.alone):
        row = reader.attempt(
            f"building.alone.{index}",
            partial(alone_row, job, new_id(), part.name, part.azimuth_deg, part.outline.outline, part.tilt_deg),
        )
        if row is not None:
            change.add(row)
            alone[part.key] = row.key
    reader.attempt("building", lambda: rebuild(change, building, reader.knowledge))
    if reader.problems:
        return
    _, rows, _ = queries.building_parts(change.session, building.id)
    by_key = {row.key: row for row in rows}
    for index, given in enumerate(reader.bundle.building.elevations):
        block, _, rest = given.key.partition("/")
        key = alone.get(given.key) or f"{reader.blocks.get(block, '')}/{rest}"
        wall = by_key.get(key)
        if wall is None:
            reader.problems[f"building.elevations.{index}.key"] = f"The blocks make no elevation “{given.key}”."
            continue
        reader.elevations[given.key] = wall
        _one_elevation(reader, change, wall, given, f"building.elevations.{index}")


def _one_elevation(reader: Reader, change: ChangeSet, row: Elevation, given: ElevationPart, path: str) -> None:
    knowledge = reader.knowledge
    for name, table in (("ground", knowledge.grounds), ("access", knowledge.access)):
        value = getattr(given, name)
        if value is not None and value not in table:
            reader.problems[f"{path}.{name}"] = f"“{value}” is not in the list."
            return
    change.follow(
        row,
        {
            "access": given.access,
            "ground": given.ground,
            "ground_slope_pct": given.ground_slope_pct,
            "cuts": [[[x, y] for x, y in c] for c in given.cuts],
        },
    )
    standing: list[Opening] = []
    for index, part in enumerate(given.openings):
        facts = OpeningFacts(**part.model_dump())
        here = f"{path}.openings.{index}"
        before = len(reader.problems)
        reader.attempt(here, partial(check_fits, row, facts, standing, knowledge))
        if len(reader.problems) == before:
            opening = Opening(id=new_id(), version=1, elevation_id=row.id, **asdict(facts))
            change.add(opening)
            standing.append(opening)
    if len(standing) != len(given.openings):
        return
    match_surfaces(change, row, shape_of(row), standing, row.surfaces, row.surfaces, knowledge)
    _surfaces(reader, change, row, given, standing, path)


def _surfaces(reader: Reader, change: ChangeSet, row: Elevation, given: ElevationPart, standing: list[Opening], path: str) -> None:
    made = queries.surfaces_of(change.session, row.id)
    plain = [s for s in made if s.opening_id is None]
    doors = {s.opening_id: s for s in made if s.opening_id is not None}
    wanted = [p for p in given.surfaces if p.opening is None]
    if given.surfaces and len(wanted) != len(plain):
        reader.problems[f"{path}.surfaces"] = f"{len(wanted)} surfaces given, the outline and its divisions make {len(plain)}."
        return
    at = iter(plain)
    for index, part in enumerate(given.surfaces):
        here = f"{path}.surfaces.{index}"
        if part.opening is not None and part.opening >= len(standing):
            reader.problems[f"{here}.opening"] = "There is no such opening on this elevation."
            continue
        target = next(at) if part.opening is None else doors.get(standing[part.opening].id)
        if target is None:
            reader.problems[f"{here}.opening"] = "This opening has no surface of its own."
            continue
        facts = SurfaceFacts(**part.model_dump(exclude={"opening", "outline", "is_named", "name"}))
        if not reader.passes(here, partial(facts.check, reader.knowledge, reader.scope.clock.now().date())):
            continue
        named = {"name": part.name, "is_named": True} if part.is_named else {}
        change.follow(target, facts.columns() | named)


def _rest(reader: Reader, change: ChangeSet, job: Job) -> None:
    _items(reader, change, job)
    for index, part in enumerate(reader.bundle.features):
        path = f"features.{index}"
        here = reader.elevation(f"{path}.elevation", part.elevation) if part.elevation else None
        facts = FeatureFacts(elevation_id=here.id if here else None, **part.model_dump(exclude={"elevation"}))
        if not reader.passes(path, partial(facts.check, reader.knowledge)):
            continue
        change.add(Feature(id=new_id(), version=1, job_id=job.id, **asdict(facts)))
    read_records(reader, change, job)
    read_decisions(reader, change, job)


def _items(reader: Reader, change: ChangeSet, job: Job) -> None:
    derived = {i.key: i for i in job.building.items}
    for index, part in enumerate(reader.bundle.building.items):
        path = f"building.items.{index}"
        block, _, rest = part.key.partition("/")
        row = derived.get(f"{reader.blocks.get(block, '')}/{rest}")
        if row is not None:
            change.follow(row, {"girth_m": part.girth_m, "is_painted": part.is_painted})
            continue
        facts = ItemFacts(**part.model_dump(exclude={"key"}))
        if not reader.passes(path, partial(facts.check, reader.knowledge)):
            continue
        substrate = reader.knowledge.items[part.kind].substrate
        change.add(
            Item(
                id=new_id(), version=1, building_id=job.building.id, elevation_id=None, key="", substrate=substrate, is_derived=False,
                **asdict(facts),
            )
        )  # fmt: skip
