"""Self-shade: which share of a surface the sun reaches past the building's own eaves, wings, porches and chimneys.

Every block is a convex body (footprint under its roof planes), every overhang a thin convex slab; a ray from a point of the
surface toward the sun meets one of them or none. The answer is a small table over the sky, made once for a building.
Not here: what stands round the building (sun.Shade), or what the light does to the surface (surface_temperature).
"""

from collections.abc import Sequence
from dataclasses import dataclass

import numpy as np
import shapely

from amber_gable.core.air.humid import Array
from amber_gable.core.geometry.blocks import OPEN, Plane, Solid
from amber_gable.core.geometry.outlines import Point, Region
from amber_gable.core.knowledge.assumptions import assumed

# Directions of the table: every five degrees all round, and up to the zenith.
_STEP_DEG = 5.0
_ACROSS, _UP = int(360 / _STEP_DEG), int(90 / _STEP_DEG) + 1
# Points of a surface that look at the sun: eaves shade from above, so more of them one over the other.
_COLUMNS, _ROWS = 4, 8
# Off the face, so that a surface does not shade itself by rounding [m].
_NUDGE_M = 0.02
_EAVES_THICK_M = assumed("eaves_thick_m")
_FULL = 200


@dataclass(frozen=True)
class LitTable:
    """The share of a surface that the sun reaches, by where the sun stands.

    Parameters
    ----------
    shares : bytes
        Of 200, for each azimuth from the south-front clockwise by five degrees and each elevation from the horizon up.
    """

    shares: bytes

    def at(self, azimuth_deg: Array, elevation_deg: Array) -> Array:
        """Return the share for suns anywhere, shape as given, straight between the table's directions."""
        table = np.frombuffer(self.shares, dtype=np.uint8).reshape(_ACROSS, _UP) / _FULL
        across = (azimuth_deg / _STEP_DEG) % _ACROSS
        up = np.clip(elevation_deg / _STEP_DEG, 0, _UP - 1)
        left, low = np.floor(across).astype(int), np.minimum(np.floor(up).astype(int), _UP - 2)
        right, x, y = (left + 1) % _ACROSS, across - left, up - low
        left %= _ACROSS
        result: Array = (1 - x) * ((1 - y) * table[left, low] + y * table[left, low + 1]) + x * (
            (1 - y) * table[right, low] + y * table[right, low + 1]
        )
        return result


@dataclass(frozen=True)
class Facet:
    """A surface in the building's own space.

    Parameters
    ----------
    region : Region
        In its plane: to the right, and up it [m].
    corner : tuple
        x, y on the plan and height of the region's zero [m].
    out : Point
        Unit vector on the plan that it faces.
    tilt_deg : float
        90 a wall, 0 flat.
    """

    region: Region
    corner: tuple[float, float, float]
    out: Point
    tilt_deg: float

    @property
    def normal(self) -> Array:
        tilt = np.radians(self.tilt_deg)
        return np.array([self.out[0] * np.sin(tilt), self.out[1] * np.sin(tilt), np.cos(tilt)])

    def points(self) -> Array:
        """Return points spread over it and just before it, shape (P, 3)."""
        left, low, right, high = self.region.bounds
        xs = left + (np.arange(_COLUMNS) + 0.5) / _COLUMNS * (right - left)
        ys = low + (np.arange(_ROWS) + 0.5) / _ROWS * (high - low)
        x, y = (a.ravel() for a in np.meshgrid(xs, ys))
        inside = shapely.contains_xy(self.region.polygon, x, y)
        if not inside.any():
            spot = self.region.polygon.representative_point()
            x, y, inside = np.array([spot.x]), np.array([spot.y]), np.array([True])
        x, y = x[inside], y[inside]
        tilt = np.radians(self.tilt_deg)
        along = np.array([-self.out[1], self.out[0], 0.0])
        upward = np.array([-self.out[0] * np.cos(tilt), -self.out[1] * np.cos(tilt), np.sin(tilt)])
        result: Array = np.array(self.corner) + x[:, None] * along + y[:, None] * upward + _NUDGE_M * self.normal
        return result


def _sides(corners: Sequence[Point], wider_m: float) -> list[tuple[float, float, float, float]]:
    """Return the half-spaces a x + b y + c z <= d within the walls over a footprint, set out by `wider_m`."""
    sides = []
    for (x1, y1), (x2, y2) in zip(corners, (*corners[1:], corners[0]), strict=True):
        length = float(np.hypot(x2 - x1, y2 - y1))
        # Corners run counter-clockwise: outward is to the right of the way.
        nx, ny = (y2 - y1) / length, (x1 - x2) / length
        sides.append((nx, ny, 0.0, nx * x1 + ny * y1 + wider_m))
    return sides


def _under(plane: Plane, lower_m: float = 0.0) -> tuple[float, float, float, float]:
    return -plane.a, -plane.b, 1.0, plane.c - lower_m


def bodies(solids: Sequence[Solid]) -> list[Array]:
    """Return the convex bodies that throw shade, each as its half-spaces (H, 4): a x + b y + c z <= d."""
    rows = []
    for solid in solids:
        block = solid.block
        if block.kind == "deck":
            continue
        if block.kind not in OPEN:
            walls = _sides(solid.corners, 0.0)
            rows.append(np.array([*walls, *(_under(p) for p in solid.planes), (0.0, 0.0, -1.0, -block.base_m)]))
        if block.overhang_m <= 0 and block.kind not in OPEN:
            continue
        walls = _sides(solid.corners, block.overhang_m)
        for plane in solid.planes:
            lower = (plane.a, plane.b, -1.0, _EAVES_THICK_M - plane.c)
            # Where this plane is the lowest.
            own = [(plane.a - p.a, plane.b - p.b, 0.0, p.c - plane.c) for p in solid.planes if p is not plane]
            rows.append(np.array([*walls, _under(plane), lower, *own]))
    return rows


def _hit(body: Array, points: Array, rays: Array) -> np.ndarray:
    """Return where rays (K, 3) from points (P, 3) meet a body, shape (P, K)."""
    normals, bound = body[:, :3], body[:, 3]
    toward = normals @ rays.T
    room = bound[:, None] - normals @ points.T
    with np.errstate(divide="ignore", invalid="ignore"):
        at = room[:, :, None] / toward[:, None, :]
    inward, outward = toward < -1e-9, toward > 1e-9
    enters = np.where(inward[:, None, :], at, -np.inf).max(axis=0)
    leaves = np.where(outward[:, None, :], at, np.inf).min(axis=0)
    # Beside a side that the ray runs along.
    misses = ((~inward & ~outward)[:, None, :] & (room < 0)[:, :, None]).any(axis=0)
    hit: np.ndarray = ~misses & (leaves > np.maximum(enters, 1e-3))
    return hit


def lit_table(facet: Facet, shading: Sequence[Array], front_azimuth_deg: float) -> LitTable:
    """Return the share of a surface that the sun reaches past the building itself.

    Parameters
    ----------
    facet : Facet
    shading : sequence of ndarray (H, 4)
        From `bodies`.
    front_azimuth_deg : float
        Where the plan's front (its minus y) faces.
    """
    turn, height = np.meshgrid(
        np.radians(np.arange(_ACROSS) * _STEP_DEG - front_azimuth_deg), np.radians(np.arange(_UP) * _STEP_DEG), indexing="ij"
    )
    rays = np.stack([-np.sin(turn) * np.cos(height), -np.cos(turn) * np.cos(height), np.sin(height)], axis=-1).reshape(-1, 3)
    before = rays @ facet.normal > 0
    points = facet.points()
    hidden = np.zeros((len(points), int(before.sum())), dtype=bool)
    for body in shading:
        hidden |= _hit(body, points, rays[before])
    shares = np.full(len(rays), _FULL, dtype=np.uint8)
    # What lies behind the face is dark by its angle already; left lit, it does not blur the edge.
    shares[before] = np.round(_FULL * (1 - hidden.mean(axis=0))).astype(np.uint8)
    return LitTable(shares.tobytes())
