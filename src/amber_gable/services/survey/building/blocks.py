"""Blocks of a building, and elevations that stand alone: adding, changing, removing."""

from typing import Any

from amber_gable.core.geometry import Block, Outline, check_azimuth, check_block
from amber_gable.core.geometry.alone import standing
from amber_gable.errors import FieldErrors, check_all
from amber_gable.services.app.scope import Scope
from amber_gable.services.changes.changes import ChangeSet, changing, require
from amber_gable.services.survey.building.rebuild import detach, rebuild
from amber_gable.services.survey.building.rows import block_columns, elevation_columns, shape_of
from amber_gable.store.models import BlockRow, Building, Elevation, Job
from amber_gable.store.types import new_id


def _job(change: ChangeSet, job_id: str) -> Job:
    return change.whole_job()


def add_block(scope: Scope, job_id: str, block: Block) -> str:
    """Put a block to a building; return its id.

    Raises
    ------
    FieldErrors
        If it cannot stand there.
    """
    with changing(scope, f"add {block.name}", job_id) as change:
        job = _job(change, job_id)
        row = insert_block(change, job.building, block, [b.id for b in job.building.blocks])
        rebuild(change, job.building, scope.knowledge)
        return row.id


def insert_block(change: ChangeSet, building: Building, block: Block, standing_ids: list[str]) -> BlockRow:
    """Add the row of a block; elevations do not follow yet."""
    if block.kind == "house" and standing_ids:
        raise FieldErrors({"kind": "The main block is there already. Choose what stands against it."})
    check_block(block, standing_ids)
    row = BlockRow(id=new_id(), version=1, building_id=building.id, position=len(standing_ids), **block_columns(block))
    change.add(row)
    return row


def update_block(scope: Scope, job_id: str, block: Block, version: int | None = None) -> None:
    """Change a block's measurements; openings, surfaces and pins stay where they are on its walls.

    Raises
    ------
    FieldErrors
        If it cannot stand, or an opening would be left without a wall.
    ConflictError
    """
    with changing(scope, f"change {block.name}", job_id) as change:
        job = _job(change, job_id)
        row = require(next((b for b in job.building.blocks if b.id == block.key), None), "block")
        check_block(block, [b.id for b in job.building.blocks if b.id != block.key])
        if not change.update(row, block_columns(block), version):
            # What was not touched moves nothing that stands on it.
            return
        if job.building.is_quick:
            # Its estimate is being replaced by measurements.
            change.follow(job.building, {"is_quick": False})
        rebuild(change, job.building, scope.knowledge)


def remove_block(scope: Scope, job_id: str, block_id: str) -> None:
    """Take a block away, with what stands in its walls.

    Raises
    ------
    FieldErrors
        If another block hangs on it.
    """
    with changing(scope, "remove the block", job_id) as change:
        job = _job(change, job_id)
        row = require(next((b for b in job.building.blocks if b.id == block_id), None), "block")
        change.label = f"remove {row.name}"
        child = next((b.name for b in job.building.blocks if b.parent_id == block_id), None)
        if child:
            raise FieldErrors({"form": f"{child} stands against it. Remove that first, or let it stand against another block."})
        if len(job.building.blocks) == 1 and all(e.block_id for e in job.building.elevations):
            raise FieldErrors({"form": "It is all there is. Measure it again, or add another block first."})
        for elevation in job.building.elevations:
            if elevation.block_id == block_id:
                remove_elevation_rows(change, elevation)
        change.delete(row)
        rebuild(change, job.building, scope.knowledge)


def remove_elevation_rows(change: ChangeSet, elevation: Elevation) -> None:
    """Delete an elevation with its surfaces and openings, letting go of what points to it."""
    detach(change, elevation)
    for surface in elevation.surfaces:
        change.delete(surface)
    for opening in elevation.openings:
        change.delete(opening)
    change.delete(elevation)


def turn(scope: Scope, job_id: str, front_azimuth_deg: float) -> None:
    """Turn the building: say where the front of its main block faces.

    Raises
    ------
    FieldErrors
    """
    check_azimuth(front_azimuth_deg)
    with changing(scope, "turn the building", job_id) as change:
        job = _job(change, job_id)
        change.update(job.building, {"front_azimuth_deg": front_azimuth_deg % 360})
        rebuild(change, job.building, scope.knowledge)


def add_alone(scope: Scope, job_id: str, name: str, azimuth_deg: float, outline: Outline, tilt_deg: float = 90.0) -> str:
    """Put an elevation that stands alone to a building; return its id.

    Raises
    ------
    FieldErrors
        If its outline is not one closed area.
    """
    with changing(scope, f"add {name}", job_id) as change:
        job = _job(change, job_id)
        row = alone_row(job, new_id(), name, azimuth_deg, outline, tilt_deg)
        change.add(row)
        rebuild(change, job.building, scope.knowledge)
        return row.id


def alone_row(job: Job, row_id: str, name: str, azimuth_deg: float, outline: Outline, tilt_deg: float) -> Elevation:
    _check_alone(name, azimuth_deg)
    # Alone elevations that face one way stand side by side, clear of the blocks.
    right = max(
        (e.start_m + max(x for x, _ in e.outline) for e in job.building.elevations if round(e.azimuth_deg) == round(azimuth_deg)),
        default=-1.0,
    )
    shape = standing(f"alone/{row_id}", name.strip(), azimuth_deg, outline, tilt_deg, right + 1.0)
    columns: dict[str, Any] = elevation_columns(len(job.building.elevations), shape)
    return Elevation(
        id=row_id, version=1, building_id=job.building.id, cuts=[], access=None, ground="firm", ground_slope_pct=0.0, **columns
    )  # fmt: skip


def _check_alone(name: str, azimuth_deg: float) -> None:
    def named() -> None:
        if not name.strip():
            raise FieldErrors({"name": "Give it a name, for instance Garden wall."})

    check_all(named, lambda: check_azimuth(azimuth_deg, "azimuth_deg"))


def update_alone(
    scope: Scope, job_id: str, elevation_id: str, name: str, azimuth_deg: float, outline: Outline, version: int | None = None
) -> None:
    """Change the outline, name or direction of an elevation that stands alone.

    Raises
    ------
    FieldErrors, ConflictError
    """
    _check_alone(name, azimuth_deg)
    with changing(scope, f"change {name}", job_id) as change:
        job = _job(change, job_id)
        row = require(next((e for e in job.building.elevations if e.id == elevation_id and e.block_id is None), None), "elevation")
        old = shape_of(row)
        shape = standing(row.key, name.strip(), azimuth_deg, outline, row.tilt_deg, old.place.start_m)
        if change.update(row, elevation_columns(row.position, shape), version):
            rebuild(change, job.building, scope.knowledge)


def remove_alone(scope: Scope, job_id: str, elevation_id: str) -> None:
    """Take an elevation that stands alone away, with what stands in it."""
    with changing(scope, "remove the elevation", job_id) as change:
        job = _job(change, job_id)
        row = require(next((e for e in job.building.elevations if e.id == elevation_id and e.block_id is None), None), "elevation")
        change.label = f"remove {row.name}"
        if len(job.building.elevations) == 1:
            raise FieldErrors({"form": "It is all there is. Change it, or add another first."})
        remove_elevation_rows(change, row)
        rebuild(change, job.building, scope.knowledge)
