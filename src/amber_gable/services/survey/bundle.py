"""A job as a bundle, and a bundle as a job: everything is checked first, and nothing changes unless all is right."""

from typing import Any

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
from amber_gable.services.context import Context
from amber_gable.store import queries
from amber_gable.store.models import Elevation, Job

_SURFACE = tuple(n for n in SurfacePart.model_fields if n not in ("opening", "outline"))
_OPENING = tuple(OpeningPart.model_fields)
_FEATURE = tuple(n for n in FeaturePart.model_fields if n != "elevation")
_FINDING = tuple(n for n in FindingPart.model_fields if n not in ("elevation", "photographs"))
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


def export(context: Context, job: Job) -> JobBundle:
    """Return a job's survey as a bundle."""
    names = _Names(job)
    with context.reading() as session:
        findings, photos = queries.findings(session, job.id), queries.photos(session, job.id)
        tests, cleared = queries.site_tests(session, job.id), queries.clearances(session, job.id)
        answers = queries.walk_answers(session, job.id)
    return JobBundle(
        bundle_version=1,
        job=JobPart(**_picked(job, tuple(JobPart.model_fields))),
        building=_building(job, names),
        features=[_feature(f, names) for f in job.features],
        findings=[_finding(f, [p.digest for p in photos if p.finding_id == f.id], names) for f in findings if f.elevation_id],
        # In an order that does not depend on when they were written: the same survey is the same file.
        site_tests=sorted((_test(t, names) for t in tests if t.surface_id), key=lambda t: (t.elevation, t.surface, t.kind, str(t.values))),
        clearances=sorted((_clearance(c, names) for c in cleared), key=lambda c: (c.hazard, c.basis, str(c.elevation), str(c.details))),
        walk=sorted((_answer(a, names) for a in answers), key=lambda a: (a.station, a.question)),
    )


def _feature(row: Any, names: _Names) -> FeaturePart:
    return FeaturePart(elevation=names.elevations.get(row.elevation_id or ""), **_picked(row, _FEATURE))


def _finding(row: Any, photographs: list[str], names: _Names) -> FindingPart:
    return FindingPart(elevation=names.elevations[row.elevation_id], photographs=photographs, **_picked(row, _FINDING))


def _test(row: Any, names: _Names) -> TestPart:
    elevation, surface = names.surfaces[row.surface_id]
    return TestPart(elevation=elevation, surface=surface, kind=row.kind, values=row.values, painter=row.painter)


def _answer(row: Any, names: _Names) -> AnswerPart:
    return AnswerPart(station=names.elevations.get(row.station, row.station), question=row.question, answer=row.answer)


def _clearance(row: Any, names: _Names) -> ClearancePart:
    elevation, surface = names.surfaces.get(row.surface_id, (None, None))
    return ClearancePart(hazard=row.hazard, basis=row.basis, elevation=elevation, surface=surface, details=row.details)


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
        items=[
            ItemPart(key=_item_key(i.key, names), **_picked(i, ("kind", "name", "count", "length_m", "girth_m", "is_painted")))
            for i in building.items
        ],
    )


def _item_key(key: str, names: _Names) -> str:
    block, _, rest = key.partition("/")
    return f"{names.blocks[block]}/{rest}" if block in names.blocks else ""


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
