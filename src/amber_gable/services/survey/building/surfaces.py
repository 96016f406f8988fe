"""Surfaces: what they are made of, and dividing an elevation into them by drawn lines."""

from collections.abc import Mapping
from dataclasses import asdict, dataclass, field, replace
from datetime import date
from typing import Any

from amber_gable.core.coat.colour import lrv_pct
from amber_gable.core.geometry import Cut, Outline, check_cut
from amber_gable.core.geometry.profiles import check_dimensions
from amber_gable.core.knowledge import Knowledge
from amber_gable.core.survey.ages import Since, check_since
from amber_gable.errors import FieldErrors, PlanError
from amber_gable.services.app.scope import Scope
from amber_gable.services.changes.changes import ChangeSet, changing, require
from amber_gable.services.survey.building.matching import match_surfaces
from amber_gable.services.survey.building.openings import elevation_in
from amber_gable.services.survey.building.rows import cuts_of, points, shape_of
from amber_gable.store.models import Elevation, Job, Surface


@dataclass(frozen=True)
class SurfaceFacts:
    """Material, present coating and new colour of a surface.

    A colour is given by its light reflectance from the card, or by a tint from which it is computed.
    """

    substrate: str
    profile: str
    texture: str
    lrv_pct: float
    is_painted: bool
    profile_mm: Mapping[str, float] = field(default_factory=dict)
    hex: str | None = None
    coating: str = "unknown"
    coated_year: int | None = None
    coated_month: int | None = None
    old_lrv_pct: float | None = None
    old_hex: str | None = None
    name: str = ""
    lies_on: str = ""

    def check(self, knowledge: Knowledge, today: date) -> None:
        """Refuse rows the knowledge does not have, and figures that cannot be.

        Parameters
        ----------
        knowledge : Knowledge
        today : date
            Nothing was coated after it.

        Raises
        ------
        FieldErrors
        """
        faults: dict[str, str] = {}
        for name, table in (
            ("substrate", knowledge.substrates),
            ("profile", knowledge.profiles),
            ("texture", knowledge.textures),
            ("coating", knowledge.coatings),
        ):
            if getattr(self, name) not in table:
                faults[name] = f"Choose a {name} from the list."
        if self.lies_on not in ("", "frame", "masonry"):
            faults["lies_on"] = "Choose what the render lies on from the list."
        for name, value in (("lrv_pct", self.lrv_pct), ("old_lrv_pct", self.old_lrv_pct)):
            if value is not None and not 0 <= value <= 100:
                faults[name] = "The light reflectance value must be 0 (black) to 100 (white); the colour card gives it."
        for name, tint in (("hex", self.hex), ("old_hex", self.old_hex)):
            try:
                if tint is not None:
                    lrv_pct(tint)
            except PlanError as fault:
                faults[name] = str(fault)
        try:
            if self.coated_year is not None:
                check_since(Since(self.coated_year, self.coated_month), today)
        except PlanError as fault:
            faults["coated_year"] = str(fault)
        if self.profile_mm and self.profile in knowledge.profiles:
            try:
                check_dimensions(knowledge.profiles[self.profile].shape, self.profile_mm)
            except FieldErrors as fault:
                faults |= fault.errors
        if faults:
            raise FieldErrors(faults)

    def columns(self) -> dict[str, Any]:
        """Return the columns of the row: a tint sets the reflectance."""
        values = asdict(self)
        values.pop("name")
        if self.hex:
            values["lrv_pct"] = round(lrv_pct(self.hex), 2)
        if self.old_hex:
            values["old_lrv_pct"] = round(lrv_pct(self.old_hex), 2)
        return values


def update_surface(scope: Scope, job_id: str, surface_id: str, facts: SurfaceFacts, version: int | None = None) -> None:
    """Change what a surface is made of.

    Raises
    ------
    FieldErrors, ConflictError
    """
    facts.check(scope.knowledge, scope.clock.now().date())
    with changing(scope, "change the surface", job_id) as change:
        row = change.find(Surface, surface_id, "surface")
        change.label = f"change {row.name}"
        name = facts.name.strip()
        named = {"name": name, "is_named": True} if name and name != row.name else {}
        change.update(row, facts.columns() | named, version)


def as_usual(facts: SurfaceFacts, was: Surface | None, knowledge: Knowledge) -> tuple[SurfaceFacts, bool]:
    """Return facts with the usual profile and texture of another substrate, where only that was changed; and whether they were put in.

    A wall that is of render now is no more lapped because it was of boards before.
    """
    is_changed = was is not None and facts.substrate != was.substrate and (facts.profile, facts.texture) == (was.profile, was.texture)
    row = knowledge.substrates.get(facts.substrate)
    if not is_changed or row is None or was is None or was.kind == "railing":
        return facts, False
    return replace(facts, profile=row.profile, texture=row.texture, profile_mm={}), True


def like_surface(scope: Scope, job_id: str, surface_id: str, *, of_block: bool = False) -> int:
    """Give every surface of the same kind the facts of this one; return how many changed.

    Parameters
    ----------
    of_block : bool
        Only those of its own block: a wing is often clad otherwise than the house.
    """
    with changing(scope, "all alike", job_id) as change:
        job = change.whole_job()
        surfaces = [s for e in job.building.elevations for s in e.surfaces]
        model = require(next((s for s in surfaces if s.id == surface_id), None), "surface")
        kinds = {"wall", "gable"} if model.kind in ("wall", "gable") else {model.kind}
        block = next(e.block_id for e in job.building.elevations if model in e.surfaces)
        here = {s.id for e in job.building.elevations if not of_block or e.block_id == block for s in e.surfaces}
        change.label = f"all like {model.name}"
        facts = {name: getattr(model, name) for name in SurfaceFacts.__dataclass_fields__ if name != "name"}
        others = [s for s in surfaces if s.kind in kinds and s.id != model.id and s.opening_id is None and s.id in here]
        for row in others:
            change.follow(row, facts)
        return len(others)


def _again(change: ChangeSet, job: Job, elevation: Elevation, knowledge: Knowledge) -> None:
    surfaces = [s for e in job.building.elevations for s in e.surfaces]
    match_surfaces(change, elevation, shape_of(elevation), elevation.openings, elevation.surfaces, surfaces, knowledge)


def add_cut(scope: Scope, job_id: str, elevation_id: str, line: Outline) -> None:
    """Divide an elevation by a line of two points or a ring of more, in metres on it.

    Raises
    ------
    FieldErrors
        If it divides nothing, with what was drawn.
    """
    with changing(scope, "divide the surface", job_id) as change:
        job = change.whole_job()
        elevation = elevation_in(job, elevation_id)
        change.label = f"divide {elevation.name}"
        cut = Cut(tuple((round(x, 4), round(y, 4)) for x, y in line))
        try:
            check_cut(shape_of(elevation), cuts_of(elevation), cut)
        except FieldErrors as fault:
            raise fault.on(elevation.id) from fault
        change.follow(elevation, {"cuts": [*elevation.cuts, points(cut.points)]})
        _again(change, job, elevation, scope.knowledge)


def remove_cut(scope: Scope, job_id: str, elevation_id: str, index: int) -> None:
    """Take a division away again: the surfaces on both its sides become one."""
    with changing(scope, "join surfaces", job_id) as change:
        job = change.whole_job()
        elevation = elevation_in(job, elevation_id)
        change.label = f"join surfaces of {elevation.name}"
        if not 0 <= index < len(elevation.cuts):
            require(None, "division")
        change.update(elevation, {"cuts": [c for i, c in enumerate(elevation.cuts) if i != index]})
        _again(change, job, elevation, scope.knowledge)
