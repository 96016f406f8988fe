"""A job as a bundle, and a bundle as a job: everything is checked first, and nothing changes unless all is right."""

from typing import Any

from amber_gable.core.survey.walk import OF_THE_HOUSE
from amber_gable.exchange.jobbundle import (
    AlonePart,
    AnswerPart,
    BlockPart,
    BuildingPart,
    ClearancePart,
    ElevationPart,
    FeaturePart,
    FindingPart,
    ItemPart,
    JobBundle,
    JobPart,
    OpeningPart,
    Polygon,
    SurfacePart,
    TestPart,
)
from amber_gable.services.app.scope import Scope
from amber_gable.services.survey.bundle.decisions import decisions_of
from amber_gable.store import queries
from amber_gable.store.models import Elevation, Job

_SURFACE = tuple(n for n in SurfacePart.model_fields if n not in ("opening", "outline"))
_OPENING = tuple(OpeningPart.model_fields)
_FEATURE = tuple(n for n in FeaturePart.model_fields if n != "elevation")
_FINDING = tuple(n for n in FindingPart.model_fields if n not in ("elevation", "photographs"))
_ITEM = tuple(n for n in ItemPart.model_fields if n != "key")
_TEST = tuple(n for n in TestPart.model_fields if n not in ("elevation", "surface"))
_CLEARANCE = tuple(n for n in ClearancePart.model_fields if n not in ("elevation", "surface"))
_BLOCK = tuple(n for n in BlockPart.model_fields if n not in ("key", "parent"))


def _picked(row: Any, names: tuple[str, ...]) -> dict[str, Any]:
    return {name: getattr(row, name) for name in names}


class _Names:
    """Short keys for blocks and elevations, the same in every export of the same survey."""

    def __init__(self, job: Job) -> None:
        self.blocks = {b.id: f"block-{i}" for i, b in enumerate(job.building.blocks, start=1)}
        alone = [e for e in job.building.elevations if e.block_id is None]
        self.elevations = {e.id: f"alone-{i}" for i, e in enumerate(alone, start=1)}
        for e in job.building.elevations:
            if e.block_id is not None:
                self.elevations[e.id] = f"{self.blocks[e.block_id]}/{e.key.partition('/')[2]}"
        self.surfaces = {s.id: (self.elevations[e.id], i) for e in job.building.elevations for i, s in enumerate(e.surfaces)}
        self.stations = {*self.elevations, *OF_THE_HOUSE}


def export(scope: Scope, job: Job) -> JobBundle:
    """Return a job's survey as a bundle."""
    names = _Names(job)
    with scope.reading() as session:
        findings, photos = queries.findings(session, job.id), queries.photos(session, job.id)
        tests, cleared = queries.site_tests(session, job.id), queries.clearances(session, job.id)
        answers = queries.walk_answers(session, job.id)
    return JobBundle(
        bundle_version=1,
        job=JobPart(**_picked(job, tuple(JobPart.model_fields))),
        building=_building(job, names),
        # In an order that does not depend on when they were written: the same survey is the same file.
        features=sorted((_feature(f, names) for f in job.features), key=repr),
        findings=[_finding(f, [p.digest for p in photos if p.finding_id == f.id], names) for f in findings],
        site_tests=sorted((_test(t, names) for t in tests), key=repr),
        clearances=sorted((_clearance(c, names) for c in cleared), key=repr),
        # What was answered at a wall that is gone says nothing any more.
        walk=sorted((_answer(a, names) for a in answers if a.station in names.stations), key=repr),
        **decisions_of(scope, job, names.surfaces),
    )


def _feature(row: Any, names: _Names) -> FeaturePart:
    return FeaturePart(elevation=names.elevations.get(row.elevation_id or ""), **_picked(row, _FEATURE))


def _finding(row: Any, photographs: list[str], names: _Names) -> FindingPart:
    return FindingPart(elevation=names.elevations.get(row.elevation_id or ""), photographs=photographs, **_picked(row, _FINDING))


def _test(row: Any, names: _Names) -> TestPart:
    elevation, surface = names.surfaces.get(row.surface_id, (None, None))
    return TestPart(elevation=elevation, surface=surface, **_picked(row, _TEST))


def _answer(row: Any, names: _Names) -> AnswerPart:
    return AnswerPart(station=names.elevations.get(row.station, row.station), question=row.question, answer=row.answer)


def _clearance(row: Any, names: _Names) -> ClearancePart:
    elevation, surface = names.surfaces.get(row.surface_id, (None, None))
    return ClearancePart(elevation=elevation, surface=surface, **_picked(row, _CLEARANCE))


def _building(job: Job, names: _Names) -> BuildingPart:
    building = job.building
    return BuildingPart(
        front_azimuth_deg=building.front_azimuth_deg,
        is_quick=building.is_quick,
        blocks=[
            BlockPart(key=names.blocks[b.id], parent=names.blocks.get(b.parent_id or ""), **_picked(b, _BLOCK)) for b in building.blocks
        ],
        alone=[
            AlonePart(
                key=names.elevations[e.id], name=e.name, azimuth_deg=e.azimuth_deg, tilt_deg=e.tilt_deg, outline=Polygon.of(e.outline)
            )
            for e in building.elevations
            if e.block_id is None
        ],
        elevations=[_elevation(e, names.elevations[e.id]) for e in building.elevations],
        items=sorted((_item(i, names) for i in building.items), key=repr),
    )


def _item(row: Any, names: _Names) -> ItemPart:
    block, _, rest = row.key.partition("/")
    key = f"{names.blocks[block]}/{rest}" if block in names.blocks else ""
    return ItemPart(key=key, **_picked(row, _ITEM))


def _elevation(e: Elevation, key: str) -> ElevationPart:
    order = {o.id: i for i, o in enumerate(e.openings)}
    return ElevationPart(
        key=key,
        name=e.name,
        azimuth_deg=e.azimuth_deg,
        outline=Polygon.of(e.outline, e.holes),
        cuts=e.cuts,
        access=e.access,
        ground=e.ground,
        ground_slope_pct=e.ground_slope_pct,
        openings=[OpeningPart(**_picked(o, _OPENING)) for o in e.openings],
        surfaces=[
            SurfacePart(opening=order.get(s.opening_id or ""), outline=Polygon.of(s.outline, s.holes), **_picked(s, _SURFACE))
            for s in e.surfaces
        ],
    )
