"""Slab: a wall that conducts inward from its face, as layers and as the nodes it is computed by.

The nodes of a solid wall sit on the face and behind it, half a cell at each end; those of a frame wall are its skin and, behind a
gap, the cells of its layers. The back is adiabatic, or has a film to a heated room.
Not here: how nodes and face are solved (balance), or which claddings are slabs (knowledge).
"""

from collections.abc import Sequence
from dataclasses import dataclass
from itertools import pairwise
from typing import NamedTuple

import numpy as np

from amber_gable.core.air.humid import Array

# Distances between nodes as shares of the depth: fine under the face, where the day's heat turns round.
_SPACING = (0.05, 0.08, 0.12, 0.2, 0.25, 0.3)
NODES = len(_SPACING) + 1
_AT = np.concatenate([[0.0], np.cumsum(_SPACING)])


class Layer(NamedTuple):
    """One layer of a wall: its depth [m], what it conducts [W/mK], what it holds [J/m3K]."""

    depth_m: float
    conductivity_w_mk: float
    capacity_j_m3k: float


class Room(NamedTuple):
    """A heated room behind a wall: how warm it is [°C], and the film of still air before the wall [W/m2K]."""

    temp_c: float
    film_w_m2k: float


@dataclass(frozen=True)
class Slab:
    """A wall that conducts inward.

    Parameters
    ----------
    layers : tuple of Layer
        From the face on.
    room : Room or None
        What lies behind it; None for an adiabatic back: out of doors on both sides, or nobody heats it.
    skin_j_m2k : float
        What a light cladding before the layers holds; 0 for a solid wall, whose face is that of its first layer.
    skin_m2k_w, gap_m2k_w : float
        Resistance from the face of that skin to its back, 0 for one that is as warm all through; and from there to the first layer.
    """

    layers: tuple[Layer, ...]
    room: Room | None = None
    skin_j_m2k: float = 0.0
    skin_m2k_w: float = 0.0
    gap_m2k_w: float = 0.0

    @property
    def depth_m(self) -> float:
        return float(sum(layer.depth_m for layer in self.layers))

    @property
    def capacity_j_m2k(self) -> float:
        """Return what the whole depth holds."""
        return float(sum(layer.depth_m * layer.capacity_j_m3k for layer in self.layers))

    def _up_to(self, of_layer: Sequence[float], at_m: Array) -> Array:
        """Return the sum over the depth of a quantity per metre, from the face to each place, shape as `at_m`."""
        ends = np.concatenate([[0.0], np.cumsum([layer.depth_m for layer in self.layers])])
        sums = np.concatenate([[0.0], np.cumsum([layer.depth_m * value for layer, value in zip(self.layers, of_layer, strict=True)])])
        result: Array = np.interp(at_m, ends, sums)
        return result

    def _cells(self) -> list[Layer]:
        """Return the cells that the layers behind a skin are cut into: the more the longer heat takes through one."""
        cuts = [1] * len(self.layers)

        def time_s(at: int) -> float:
            layer = self.layers[at]
            return (layer.depth_m / cuts[at]) ** 2 * layer.capacity_j_m3k / layer.conductivity_w_mk

        while sum(cuts) < NODES - (2 if self.skin_m2k_w else 1):
            cuts[max(range(len(cuts)), key=time_s)] += 1
        return [layer._replace(depth_m=layer.depth_m / n) for layer, n in zip(self.layers, cuts, strict=True) for _ in range(n)]

    @property
    def node_capacity_j_m2k(self) -> Array:
        """Return the capacity of each node, shape (NODES,); half a gap to either side is a node's own."""
        if self.skin_j_m2k:
            skin = [self.skin_j_m2k / 2] * 2 if self.skin_m2k_w else [self.skin_j_m2k]
            return np.array([*skin, *(cell.depth_m * cell.capacity_j_m3k for cell in self._cells())])
        at = self.depth_m * _AT
        edges = np.concatenate([[0.0], (at[:-1] + at[1:]) / 2, at[-1:]])
        result: Array = np.diff(self._up_to([layer.capacity_j_m3k for layer in self.layers], edges))
        return result

    @property
    def conductance_w_m2k(self) -> Array:
        """Return what is conducted between neighbours, shape (NODES - 1,)."""
        if self.skin_j_m2k:
            halves = [cell.depth_m / cell.conductivity_w_mk / 2 for cell in self._cells()]
            skin = [self.skin_m2k_w] if self.skin_m2k_w else []
            return 1 / np.array([*skin, self.gap_m2k_w + halves[0], *(one + other for one, other in pairwise(halves))])
        resistance = self._up_to([1 / layer.conductivity_w_mk for layer in self.layers], self.depth_m * _AT)
        result: Array = 1 / np.diff(resistance)
        return result

    @property
    def film_w_m2k(self) -> float:
        """Return what is given between the last node and the room; 0 for an adiabatic back."""
        if self.room is None:
            return 0.0
        last = self._cells()[-1] if self.skin_j_m2k else None
        half = 0.0 if last is None else last.depth_m / last.conductivity_w_mk / 2
        return 1 / (1 / self.room.film_w_m2k + half)
