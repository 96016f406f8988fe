"""Jobs and their survey: making, measuring, changing, removing."""

from collections.abc import Mapping, Sequence
from dataclasses import asdict, dataclass, field
from typing import Any
from zoneinfo import ZoneInfo, ZoneInfoNotFoundError

from amber_gable.core import geometry
from amber_gable.core.geometry import ElevationShape, GabledBlock, Rect
from amber_gable.core.knowledge import Knowledge
from amber_gable.errors import FieldErrors
from amber_gable.services.changes import ChangeSet, changing, require
from amber_gable.services.context import Context
from amber_gable.services.rules import JobRules
from amber_gable.store import queries
from amber_gable.store.models import Building, Contractor, Elevation, Job, Opening, Surface
from amber_gable.store.types import new_id

_FIRST_FACTS: dict[str, tuple[str, float, bool]] = {
    # kind: substrate, LRV, painted. A masonry foot usually stays as it is.
    "wall": ("wood-siding", 50.0, True),
    "gable": ("wood-siding", 50.0, True),
    "plinth": ("brick", 25.0, False),
    "door": ("wood-door", 20.0, True),
}


@dataclass(frozen=True)
class JobFacts:
    """What a job is called, where it stands, and in which units it is shown."""

    name: str
    latitude_deg: float
    longitude_deg: float
    altitude_m: float
    time_zone: str
    units: str
    year_built: int | None = None
    crew: Sequence[str] = field(default_factory=tuple)

    def check(self) -> None:
        """Refuse what cannot be.

        Raises
        ------
        FieldErrors
            Every fault at once.
        """
        faults: dict[str, str] = {}
        if not self.name.strip():
            faults["name"] = "Give the job a name, for instance the house or the street."
        if not -90 <= self.latitude_deg <= 90:
            faults["latitude_deg"] = "Latitude must be between -90 and 90 degrees; north is positive."
        if not -180 <= self.longitude_deg <= 180:
            faults["longitude_deg"] = "Longitude must be between -180 and 180 degrees; west is negative."
        if not -430 <= self.altitude_m <= 6000:
            faults["altitude_m"] = "Altitude must be between -430 and 6000 m (19,685 ft)."
        try:
            ZoneInfo(self.time_zone)
        except (ZoneInfoNotFoundError, ValueError, OSError):
            faults["time_zone"] = "Not a time zone. Type it like America/Chicago or Europe/Oslo."
        if self.units not in ("us", "metric"):
            faults["units"] = "Choose US or metric units."
        if self.year_built is not None and not 1600 <= self.year_built <= 2100:
            faults["year_built"] = "The year must be between 1600 and 2100; leave it empty if nobody knows."
        if faults:
            raise FieldErrors(faults)


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


def contractor(context: Context) -> Contractor:
    """Return the contractor whose installation this is; made on the first call."""
    with context.reading() as session:
        found = queries.contractor(session)
    if found is not None:
        return found
    with changing(context, "open the books") as change:
        row = Contractor(id=new_id(), version=1, name="My painting company", units="us", painters=[])
        change.add(row)
        return row


def list_jobs(context: Context) -> Sequence[Job]:
    with context.reading() as session:
        return queries.jobs(session)


def home_zone(context: Context) -> ZoneInfo | None:
    """Return the zone that pages without a job show the time in."""
    with context.reading() as session:
        name = queries.home_zone(session)
    return ZoneInfo(name) if name else None


def whole(context: Context, job_id: str) -> Job:
    """Return a job with its building.

    Raises
    ------
    NotFoundError
    """
    with context.reading() as session:
        return require(queries.job_whole(session, job_id), "job")


def create(context: Context, facts: JobFacts, block: GabledBlock, rules: JobRules | None = None) -> str:
    """Make a job with a rectangular gabled building; return its id.

    Raises
    ------
    FieldErrors
        Faults of the facts and of the building together.
    """
    faults: dict[str, str] = {}
    for check in (facts.check, block.check):
        try:
            check()
        except FieldErrors as fault:
            faults |= fault.errors
    if faults:
        raise FieldErrors(faults)
    owner = contractor(context)
    job_id, building_id = new_id(), new_id()
    with changing(context, f"new job {facts.name}", job_id) as change:
        columns = asdict(facts) | {"crew": list(facts.crew), "rules": (rules or JobRules()).model_dump()}
        change.add(Job(id=job_id, version=1, contractor_id=owner.id, created_at=context.clock.now(), **columns))
        change.add(Building(id=building_id, version=1, job_id=job_id, **asdict(block)))
        for position, shape in enumerate(geometry.elevations(block)):
            row = Elevation(id=new_id(), version=1, building_id=building_id, **_elevation_columns(position, shape))
            change.add(row)
            _match_surfaces(change, row, shape, [], [], context.knowledge)
    return job_id


def _elevation_columns(position: int, shape: ElevationShape) -> dict[str, Any]:
    return {
        "side": shape.side,
        "position": position,
        "name": shape.name,
        "azimuth_deg": shape.azimuth_deg,
        "is_gable": shape.is_gable,
        "outline": _points(shape.outline),
    }


def _match_surfaces(
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


def update_facts(context: Context, job_id: str, facts: JobFacts, block: GabledBlock, version: int | None = None) -> None:
    """Change what a job is called, where it stands, and its building's measurements.

    Raises
    ------
    FieldErrors
        If the building cannot stand, or an opening no longer fits its wall.
    ConflictError
        If somebody changed the job since `version`.
    """
    faults: dict[str, str] = {}
    for check in (facts.check, block.check):
        try:
            check()
        except FieldErrors as fault:
            faults |= fault.errors
    if faults:
        raise FieldErrors(faults)
    with changing(context, "change the measurements", job_id) as change:
        job = require(queries.job_whole(change.session, job_id), "job")
        change.update(job, asdict(facts) | {"crew": list(facts.crew)}, version)
        change.update(job.building, asdict(block))
        shapes = {shape.side: (position, shape) for position, shape in enumerate(geometry.elevations(block))}
        for elevation in job.building.elevations:
            position, shape = shapes[elevation.side]
            _check_still_fits(shape, elevation, block, context.knowledge)
            change.update(elevation, _elevation_columns(position, shape))
            _match_surfaces(change, elevation, shape, elevation.openings, elevation.surfaces, context.knowledge)


def _check_still_fits(shape: ElevationShape, elevation: Elevation, block: GabledBlock, knowledge: Knowledge) -> None:
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
        _match_surfaces(change, elevation, _shape_of(job, elevation), openings, elevation.surfaces, context.knowledge)
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


def update_rules(context: Context, job_id: str, values: Mapping[str, Any], version: int | None = None) -> None:
    """Change a job's house rules."""
    rules = JobRules(**values)
    faults: dict[str, str] = {}
    for name, table in (
        ("product", context.knowledge.products),
        ("method", context.knowledge.methods),
        ("access", context.knowledge.access),
    ):
        if getattr(rules, name) not in table:
            faults[name] = "Choose from the list."
    if rules.day_ends_h <= rules.day_starts_h:
        faults["day_ends_h"] = "The day must end after it starts."
    if faults:
        raise FieldErrors(faults)
    with changing(context, "change the house rules", job_id) as change:
        job = require(change.session.get(Job, job_id), "job")
        change.update(job, {"rules": rules.model_dump()}, version)


def rules_of(job: Job) -> JobRules:
    return JobRules.model_validate(job.rules)


def remove(context: Context, job_id: str) -> str:
    """Remove a job with all that hangs on it; return its name. Undo brings it back."""
    with changing(context, "remove the job", job_id) as change:
        job = require(queries.job_whole(change.session, job_id), "job")
        change.label = f"remove {job.name}"
        for reading in queries.readings(change.session, job_id, limit=100_000):
            change.delete(reading)
        schedule = queries.schedule_of(change.session, job_id)
        if schedule is not None:
            change.delete(schedule)
        for elevation in job.building.elevations:
            for row in (*elevation.surfaces, *elevation.openings):
                change.delete(row)
            change.delete(elevation)
        change.delete(job.building)
        change.delete(job)
        return job.name
