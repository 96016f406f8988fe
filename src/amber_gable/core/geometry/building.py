"""A building: all its blocks and single elevations as what one walks past, and what follows from them."""

from collections.abc import Sequence
from dataclasses import dataclass

from amber_gable.core.geometry.blocks import Block, Solid, check_blocks
from amber_gable.core.geometry.decks import deck_elevations
from amber_gable.core.geometry.elevations import ElevationShape, arranged
from amber_gable.core.geometry.outlines import Outline, Region
from amber_gable.core.geometry.roofs import Trim, roof_elevations, trim_of
from amber_gable.core.geometry.walls import walls_of


@dataclass(frozen=True)
class BuildingShape:
    """Shape of a building: the elevations that its blocks make together.

    Parameters
    ----------
    elevations : tuple of ElevationShape
        In walking order, each in its view.
    trim : tuple of Trim
        Fascia, verges, soffit, corner boards, foundation strip, by block.
    footprints : tuple of Outline
        On the plan, the main block's front at y = 0.
    """

    elevations: tuple[ElevationShape, ...]
    trim: tuple[Trim, ...]
    footprints: tuple[tuple[str, Outline], ...]


def build(blocks: Sequence[Block], front_azimuth_deg: float, alone: Sequence[ElevationShape] = ()) -> BuildingShape:
    """Return the elevations and trim of a building.

    Parameters
    ----------
    blocks : sequence of Block
        The main one first; none where a job has single elevations only.
    front_azimuth_deg : float
        Where the main block's front faces.
    alone : sequence of ElevationShape
        Elevations entered by themselves.

    Raises
    ------
    FieldErrors
        If a block cannot stand.
    """
    placed: dict[str, Solid] = dict(check_blocks(blocks))
    elevations: list[ElevationShape] = []
    trim: list[Trim] = []
    for solid in placed.values():
        walls = walls_of(solid, placed, front_azimuth_deg)
        elevations += walls
        elevations += roof_elevations(solid, placed, front_azimuth_deg)
        elevations += deck_elevations(solid, placed, front_azimuth_deg)
        trim += trim_of(solid, placed, walls)
    footprints = tuple((key, Region(solid.corners).outline) for key, solid in placed.items())
    return BuildingShape(arranged([*elevations, *alone]), tuple(trim), footprints)
