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
        features=[
            FeaturePart(elevation=names.elevations.get(f.elevation_id or ""), **_picked(f, tuple(n for n in FeaturePart.model_fields if n != "elevation")))
            for f in job.features
        ],
        findings=[
            FindingPart(
                elevation=names.elevations[f.elevation_id], photographs=[p.digest for p in photos if p.finding_id == f.id],
                **_picked(f, tuple(n for n in FindingPart.model_fields if n not in ("elevation", "photographs"))),
            )
            for f in findings if f.elevation_id
        ],
        site_tests=[
            TestPart(elevation=names.surfaces[t.surface_id][0], surface=names.surfaces[t.surface_id][1], kind=t.kind, values=t.values, painter=t.painter)
            for t in reversed(tests) if t.surface_id
        ],
        clearances=[_clearance(c, names) for c in cleared],
        walk=[AnswerPart(station=names.elevations.get(a.station, a.station), question=a.question, answer=a.answer)
              for a in sorted(answers, key=lambda a: (names.elevations.get(a.station, a.station), a.question))],
    )  # fmt: skip


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
