"""Geometry: blocks, elevations, surfaces, openings, and their areas, in metres.

outlines: polygons and their faults · blocks: rectangles in plan with roofs · walls, roofs, decks:
elevations from blocks · alone: elevations entered by themselves · building: all of it together ·
divide: surfaces · openings: what stands in a wall · heights: by shadow, by courses.
"""

from amber_gable.core.geometry.blocks import Block, check_block
from amber_gable.core.geometry.building import BuildingShape, build
from amber_gable.core.geometry.divide import Cut, Piece, check_cut, divide
from amber_gable.core.geometry.elevations import ElevationShape, SurfaceKind, check_azimuth, compass_name, walking_order
from amber_gable.core.geometry.openings import check_opening, openings_area_m2
from amber_gable.core.geometry.outlines import Outline, Point, Rect, Region, area_m2

__all__ = [
    "Block", "BuildingShape", "Cut", "ElevationShape", "Outline", "Piece", "Point", "Rect", "Region", "SurfaceKind",
    "area_m2", "build", "check_azimuth", "check_block", "check_cut", "check_opening", "compass_name", "divide",
    "openings_area_m2", "walking_order",
]  # fmt: skip
