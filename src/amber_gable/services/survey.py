"""The survey of a job's building: its sides, openings and surfaces.

Surfaces are kept in line with outlines and doors, and keep what is known of them.
Not here: the job itself and its measurements (jobs).
"""

from collections.abc import Sequence
from dataclasses import asdict, dataclass
from typing import Any

from amber_gable.core import geometry
from amber_gable.core.geometry import ElevationShape, GabledBlock, Rect
from amber_gable.core.knowledge import Knowledge
from amber_gable.errors import FieldErrors
from amber_gable.services.changes import ChangeSet, changing, require
from amber_gable.services.context import Context
from amber_gable.store import queries
from amber_gable.store.models import Building, Elevation, Job, Opening, Surface
from amber_gable.store.types import new_id

_FIRST_FACTS: dict[str, tuple[str, float, bool]] = {
    # kind: substrate, LRV, painted. A masonry foot usually stays as it is.
    "wall": ("wood-siding", 50.0, True),
    "gable": ("wood-siding", 50.0, True),
    "plinth": ("brick", 25.0, False),
    "door": ("wood-door", 20.0, True),
}


@dataclass(frozen=True)
class OpeningFacts:
    kind: str
    width_m: float
    height_m: float
    left_m: float
    sill_m: float

    @property
    def rect(self) -> Rect:
        return Rect(self.left_m, self.sill_m, self.width_m, self.height_m)


@dataclass(frozen=True)
class SurfaceFacts:
    """What a surface is made of; `lrv_pct` is the light reflectance value of its new colour."""

    substrate: str
    profile: str
    texture: str
    lrv_pct: float
    is_painted: bool

    def check(self, knowledge: Knowledge) -> None:
        """Refuse rows the knowledge does not have, and reflectances that cannot be.

        Raises
        ------
        FieldErrors
        """
        faults: dict[str, str] = {}
        for name, table in (
            ("substrate", knowledge.substrates),
            ("profile", knowledge.profiles),
            ("texture", knowledge.textures),
        ):
            if getattr(self, name) not in table:
                faults[name] = f"Choose a {name} from the list."
        if not 0 <= self.lrv_pct <= 100:
            faults["lrv_pct"] = "The light reflectance value must be 0 (black) to 100 (white); the colour card gives it."
        if faults:
            raise FieldErrors(faults)


def block_of(building: Building) -> GabledBlock:
    names = GabledBlock.__dataclass_fields__
    return GabledBlock(**{name: getattr(building, name) for name in names})


def rect_of(opening: Opening) -> Rect:
    return Rect(opening.left_m, opening.sill_m, opening.width_m, opening.height_m)


def outline_of(row: Elevation | Surface) -> geometry.Outline:
    return tuple((float(x), float(y)) for x, y in row.outline)


def _points(outline: geometry.Outline) -> list[list[float]]:
    return [[x, y] for x, y in outline]


def elevation_columns(position: int, shape: ElevationShape) -> dict[str, Any]:
    return {
        "side": shape.side,
        "position": position,
        "name": shape.name,
        "azimuth_deg": shape.azimuth_deg,
        "is_gable": shape.is_gable,
        "outline": _points(shape.outline),
    }


def match_surfaces(
    change: ChangeSet,
    elevation: Elevation,
    shape: ElevationShape,
    openings: Sequence[Opening],
    existing: Sequence[Surface],
    knowledge: Knowledge,
) -> None:
    """Bring an elevation's surfaces in line with its outline and doors, keeping what is known."""
    wanted: list[tuple[str, str | None, str, geometry.Outline, str | None]] = [
        (part.kind, None, part.name, part.outline, None) for part in shape.surfaces
    ]
    for opening in openings:
        kind = knowledge.openings[opening.kind]
        if kind.substrate:
            name = f"{shape.name} {kind.label.lower()}"
            wanted.append(("door", opening.id, name, rect_of(opening).outline, kind.substrate))
    known = {(row.kind, row.opening_id): row for row in existing}
    for position, (part_kind, opening_id, name, outline, substrate) in enumerate(wanted):
        row = known.pop((part_kind, opening_id), None)
        columns = {"position": position, "name": name, "outline": _points(outline)}
        if row is not None:
            change.update(row, columns)
            continue
        first_substrate, lrv, painted = _FIRST_FACTS[part_kind]
        chosen = knowledge.substrates[substrate or first_substrate]
        change.add(
            Surface(
                id=new_id(),
                version=1,
                elevation_id=elevation.id,
                opening_id=opening_id,
                kind=part_kind,
                substrate=substrate or first_substrate,
                profile=chosen.profile,
                texture=chosen.texture,
                lrv_pct=lrv,
                is_painted=painted,
                **columns,
            )
        )
    for row in known.values():
        change.delete(row)


def check_still_fits(shape: ElevationShape, elevation: Elevation, block: GabledBlock, knowledge: Knowledge) -> None:
    for opening in elevation.openings:
        try:
            geometry.check_opening(shape.outline, rect_of(opening), [])
        except FieldErrors as fault:
            label = knowledge.openings[opening.kind].label.lower()
            is_width = {"left_m", "width_m"} & set(fault.errors)
            along = "width_m" if shape.is_gable else "length_m"
            field_name = along if is_width else "eaves_height_m"
            message = f"The {label} on the {shape.name} side would no longer fit. Move or remove it first, or measure again."
            raise FieldErrors({field_name: message}) from fault


def _elevation(job: Job, elevation_id: str) -> Elevation:
    found = next((e for e in job.building.elevations if e.id == elevation_id), None)
    return require(found, "side of the building")


def _shape_of(job: Job, elevation: Elevation) -> ElevationShape:
    return next(s for s in geometry.elevations(block_of(job.building)) if s.side == elevation.side)


def add_opening(context: Context, job_id: str, elevation_id: str, facts: OpeningFacts) -> str:
    """Put an opening into a wall; a door becomes a surface of its own. Return its id.

    Raises
    ------
    FieldErrors
        If it does not fit or lies over another.
    """
    kind = context.knowledge.openings.get(facts.kind)
    if kind is None:
        raise FieldErrors({"kind": "Choose what it is from the list."})
    with changing(context, f"add the {kind.label.lower()}", job_id) as change:
        job = require(queries.job_whole(change.session, job_id), "job")
        elevation = _elevation(job, elevation_id)
        others = [(context.knowledge.openings[o.kind].label.lower(), rect_of(o)) for o in elevation.openings]
        geometry.check_opening(outline_of(elevation), facts.rect, others)
        row = Opening(id=new_id(), version=1, elevation_id=elevation.id, **asdict(facts))
        change.add(row)
        openings = [*elevation.openings, row]
        match_surfaces(change, elevation, _shape_of(job, elevation), openings, elevation.surfaces, context.knowledge)
        return row.id


def remove_opening(context: Context, job_id: str, opening_id: str) -> str:
    """Take an opening out of its wall; return the id of its elevation."""
    with changing(context, "remove the opening", job_id) as change:
        job = require(queries.job_whole(change.session, job_id), "job")
        for elevation in job.building.elevations:
            for opening in elevation.openings:
                if opening.id == opening_id:
                    change.label = f"remove the {context.knowledge.openings[opening.kind].label.lower()}"
                    for surface in elevation.surfaces:
                        if surface.opening_id == opening_id:
                            change.delete(surface)
                    change.delete(opening)
                    return elevation.id
    return require(None, "opening")


def update_surface(context: Context, job_id: str, surface_id: str, facts: SurfaceFacts, version: int | None = None) -> None:
    """Change what a surface is made of.

    Raises
    ------
    FieldErrors, ConflictError
    """
    facts.check(context.knowledge)
    with changing(context, "change the surface", job_id) as change:
        row = require(change.session.get(Surface, surface_id), "surface")
        change.label = f"change {row.name}"
        change.update(row, asdict(facts), version)
