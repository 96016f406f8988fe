"""Slab: heat that a thick wall conducts inward from its face, in a few nodes behind it.

The nodes sit on the face and behind it, half a cell at each end (vertex-centred); the back is adiabatic. The face itself is
solved with its balance (surface_step); what lies behind it answers exactly to a flux that is steady within a step, and that
answer is put into the face's own equation. So nothing is lagged, no heat is lost, and no step is too long.
Not here: the balance at the face, or which claddings are slabs (knowledge).
"""

from collections.abc import Sequence
from dataclasses import dataclass

import numpy as np

from amber_gable.core.air.humid import Array

# Distances between nodes as shares of the depth: fine under the face, where the day's heat turns round.
_SPACING = (0.15, 0.25, 0.3, 0.3)
NODES = len(_SPACING) + 1


@dataclass(frozen=True)
class Slab:
    """A wall that conducts inward.

    Parameters
    ----------
    depth_m : float
    conductivity_w_mk : float
    capacity_j_m2k : float
        Of the whole depth.
    """

    depth_m: float
    conductivity_w_mk: float
    capacity_j_m2k: float

    @property
    def gaps_m(self) -> Array:
        return self.depth_m * np.array(_SPACING)

    @property
    def node_capacity_j_m2k(self) -> Array:
        """Return the capacity of each node, shape (NODES,); half a gap to either side is a node's own."""
        half = np.concatenate([[0.0], self.gaps_m, [0.0]])
        result: Array = self.capacity_j_m2k / self.depth_m * (half[:-1] + half[1:]) / 2
        return result

    @property
    def conductance_w_m2k(self) -> Array:
        """Return what is conducted between neighbours, shape (NODES - 1,)."""
        result: Array = self.conductivity_w_mk / self.gaps_m
        return result


@dataclass(frozen=True)
class _Modes:
    """Response of the nodes behind the face of a slab within a step, mode by mode (NODES - 1,).

    Parameters
    ----------
    of_nodes : ndarray, shape (M, M)
        Modes from temperatures.
    first : ndarray
        The first node behind the face from the modes.
    kept : ndarray
        What of a mode is left after the step.
    warmed : ndarray
        What a flux of 1 W/m2 adds to it.
    mean : ndarray
        Its mean over the step, from its beginning.
    mean_warmed : float
        Of the first node, from the flux [K m2/W].
    """

    of_nodes: Array
    first: Array
    kept: Array
    warmed: Array
    mean: Array
    mean_warmed: float


def _modes(slab: Slab, dt_s: float) -> _Modes:
    capacity, between = slab.node_capacity_j_m2k[1:], slab.conductance_w_m2k[1:]
    laplace = np.zeros((len(capacity), len(capacity)))
    for i, g in enumerate(between):
        laplace[i : i + 2, i : i + 2] += g * np.array([[-1.0, 1.0], [1.0, -1.0]])
    root = np.sqrt(capacity)
    # Symmetric in this scale, so that its eigenvalues are real and none is above 0.
    values, vectors = np.linalg.eigh(laplace / np.outer(root, root))
    x = np.minimum(values * dt_s, 0.0)
    still = np.abs(x) < 1e-9
    safe = np.where(still, -1.0, x)
    once = np.where(still, 1.0, np.expm1(safe) / safe)
    twice = np.where(still, 0.5, (np.expm1(safe) - safe) / safe**2)
    first = vectors[0] / root[0]
    return _Modes(vectors.T * root[None, :], first, np.exp(x), dt_s * once * first, once, float(dt_s * (first * twice * first).sum()))


class Inward:
    """Nodes behind the faces of S surfaces, mode by mode; none behind skins.

    Parameters
    ----------
    slabs : sequence of Slab or None, length S
    dt_s : float

    Attributes
    ----------
    pull_w_m2k : ndarray, shape (S,)
        How strongly each face is drawn inward; 0 for skins.
    """

    def __init__(self, slabs: Sequence[Slab | None], dt_s: float) -> None:
        count, nodes = len(slabs), NODES - 1
        self.slabs = tuple(slabs)
        self.pull_w_m2k = np.zeros(count)
        self._even, self._kept, self._warmed, self._draws, self._rises = (np.zeros((count, nodes)) for _ in range(5))
        self._rise = np.zeros(count)
        for row, slab in enumerate(slabs):
            if slab is None:
                continue
            of = _modes(slab, dt_s)
            first = float(slab.conductance_w_m2k[0])
            # The flux warms what it flows to within the step: the longer that is, the less it draws.
            pull = first / (1 + first * of.mean_warmed)
            self.pull_w_m2k[row], self._even[row], self._kept[row], self._warmed[row] = pull, of.of_nodes.sum(axis=1), of.kept, of.warmed
            self._draws[row] = pull * of.first * of.mean
            # How far the node behind rises within a step in which the face stays as it is, as half of what that draws.
            gains = float(of.first @ of.warmed)
            self._rises[row] = 0.5 * pull * (of.first * (of.kept - 1) - gains * self._draws[row])
            self._rise[row] = 0.5 * pull * gains * pull
        self._drawn = np.zeros(count)

    def start(self, face_c: Array) -> None:
        """Begin with every slab as warm throughout as its face, `face_c` of shape (..., S)."""
        self._held = face_c[..., None] * self._even

    def draws_w_m2(self, face_c: Array) -> tuple[Array, Array]:
        """Return what draws the faces over the next step at its beginning and at its end, shape (..., S): 0 for skins.

        Straight about the mean that is exact for what is taken up.
        """
        self._drawn = (self._held * self._draws).sum(axis=-1)
        half = (self._held * self._rises).sum(axis=-1) + self._rise * face_c
        return self._drawn - half, self._drawn + half

    def take(self, face_mean_c: Array) -> None:
        """Take up what the faces gave off over the step, from their mean temperatures (..., S)."""
        flux = self.pull_w_m2k * face_mean_c - self._drawn
        self._held = self._held * self._kept + flux[..., None] * self._warmed

    def behind_c(self, row: int) -> Array:
        """Return the temperatures behind one slab's face, shape (..., NODES - 1)."""
        slab = self.slabs[row]
        assert slab is not None, "only a slab has something behind its face"
        return np.asarray(np.linalg.solve(_modes(slab, 1.0).of_nodes, self._held[..., row, :]), dtype=np.float64)
