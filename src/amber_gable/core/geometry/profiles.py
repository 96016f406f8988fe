"""Profiles: how much more face a shaped surface has than its outline.

Pure functions of the profile's own dimensions; one table, `SHAPES`, says which dimensions a shape
has. A row of the knowledge may give a plain factor instead, for who has not measured.
Not here: texture and suction, which take more paint without more face (takeoff).
"""

from collections.abc import Callable, Mapping
from dataclasses import dataclass, field

import numpy as np

from amber_gable.core.knowledge import Profile
from amber_gable.errors import FieldErrors
from amber_gable.units import System, both_of, show


@dataclass(frozen=True)
class Factor:
    """A multiplier of area, and how it came about: words with the places of the dimensions [mm] in them."""

    value: float
    words: str
    mm: Mapping[str, float] = field(default_factory=dict)

    @property
    def how(self) -> str:
        return self.how_in("metric")

    def how_in(self, system: System) -> str:
        """Return in words how it came about, with dimensions as a contractor of this system reads them."""
        return self.words.format(**{name: show(value, "small length", system) for name, value in self.mm.items()})


def _factor(value: float, words: str, **mm: float) -> Factor:
    return Factor(value, words, mm)


def lap(exposure_mm: float, butt_mm: float) -> Factor:
    """Return the factor of lap siding: the face shown plus the underside of each board.

    Parameters
    ----------
    exposure_mm : float
        Height of board that shows [mm], above 0.
    butt_mm : float
        Thickness of the lower edge [mm].

    References
    ----------
    Handbook 7: (exposure + butt) / exposure.
    """
    value = (exposure_mm + butt_mm) / exposure_mm
    return _factor(value, "({exposure} shown + {butt} butt) / {exposure}", exposure=exposure_mm, butt=butt_mm)


def board_batten(board_mm: float, batten_width_mm: float, batten_depth_mm: float) -> Factor:
    """Return the factor of board and batten: two batten sides for each board.

    Parameters
    ----------
    board_mm : float
        Centre to centre of the battens [mm], above 0.
    batten_width_mm, batten_depth_mm : float
        A batten's face, which covers what it adds, and how far it stands out [mm].
    """
    value = 1 + 2 * batten_depth_mm / board_mm
    return _factor(value, "1 + 2 x {depth} batten depth / {board} board", depth=batten_depth_mm, board=board_mm)


def corrugated(pitch_mm: float, depth_mm: float) -> Factor:
    """Return the factor of a sine sheet: length of the curve over its pitch.

    Parameters
    ----------
    pitch_mm : float
        Crest to crest [mm], above 0.
    depth_mm : float
        Crest to trough [mm].
    """
    slope = np.pi * depth_mm / pitch_mm
    # The mean of a smooth periodic function over even steps is exact to rounding long before 4096.
    phase = np.linspace(0, 2 * np.pi, 4096, endpoint=False)
    value = float(np.mean(np.sqrt(1 + (slope * np.cos(phase)) ** 2)))
    return _factor(value, "length of a sine {depth} deep over its pitch of {pitch}", depth=depth_mm, pitch=pitch_mm)


def standing_seam(pan_mm: float, seam_mm: float) -> Factor:
    """Return the factor of standing-seam metal: both sides of one seam for each pan.

    Parameters
    ----------
    pan_mm : float
        Seam to seam [mm], above 0.
    seam_mm : float
        Height of the seam [mm].
    """
    return _factor(1 + 2 * seam_mm / pan_mm, "1 + 2 x {seam} seam / {pan} pan", seam=seam_mm, pan=pan_mm)


def shake(exposure_mm: float, butt_mm: float, shake_width_mm: float) -> Factor:
    """Return the factor of shakes or shingles: the butt of each, and both edges at its joints.

    Parameters
    ----------
    exposure_mm, butt_mm : float
        Length that shows and thickness of the lower edge [mm].
    shake_width_mm : float
        Mean width of a shake [mm].
    """
    value = 1 + butt_mm / exposure_mm + 2 * butt_mm / shake_width_mm
    return _factor(
        value, "1 + {butt} butt / {exposure} shown + 2 x {butt} / {width} wide", butt=butt_mm, exposure=exposure_mm, width=shake_width_mm
    )


def louvre(slat_mm: float, slat_thickness_mm: float, slat_pitch_mm: float) -> Factor:
    """Return the factor of one face of a louvred leaf: half the girth of a slat for each pitch.

    Parameters
    ----------
    slat_mm, slat_thickness_mm : float
        Width and thickness of a slat [mm].
    slat_pitch_mm : float
        Slat to slat [mm].
    """
    value = max((slat_mm + slat_thickness_mm) / slat_pitch_mm, 1.0)
    return _factor(value, "({slat} slat + {edge} edge) / {pitch} apart", slat=slat_mm, edge=slat_thickness_mm, pitch=slat_pitch_mm)


def panel_door(leaf_width_mm: float, leaf_height_mm: float, panels: float, panel_girth_mm: float, moulding_mm: float) -> Factor:
    """Return the factor of a panelled leaf: the mouldings round its panels stand on top of the leaf.

    Parameters
    ----------
    leaf_width_mm, leaf_height_mm : float
    panels : float
        How many.
    panel_girth_mm : float
        Round one panel [mm].
    moulding_mm : float
        How much more a moulding's section has than its width [mm].
    """
    value = 1 + panels * panel_girth_mm * moulding_mm / (leaf_width_mm * leaf_height_mm)
    return _factor(
        value, f"1 + {panels:g} panels x {{girth}} round x {{moulding}} moulding / ({{width}} x {{height}} leaf)",
        girth=panel_girth_mm, moulding=moulding_mm, width=leaf_width_mm, height=leaf_height_mm,
    )  # fmt: skip


def balusters(baluster_mm: float, spacing_mm: float) -> Factor:
    """Return the factor of square balusters, all four sides, on the outline of the railing.

    Parameters
    ----------
    baluster_mm : float
        Side of a baluster [mm].
    spacing_mm : float
        Centre to centre [mm].

    References
    ----------
    Handbook 7: count x perimeter x height.
    """
    return _factor(4 * baluster_mm / spacing_mm, "4 x {side} baluster / {spacing} apart", side=baluster_mm, spacing=spacing_mm)


@dataclass(frozen=True)
class Shape:
    """A shape of profile: its dimensions [mm], and the factor they make."""

    dimensions: tuple[str, ...]
    factor: Callable[..., Factor]


SHAPES: dict[str, Shape] = {
    "flat": Shape((), lambda: Factor(1.0, "flat")),
    "lap": Shape(("exposure_mm", "butt_mm"), lap),
    "board-batten": Shape(("board_mm", "batten_width_mm", "batten_depth_mm"), board_batten),
    "corrugated": Shape(("pitch_mm", "depth_mm"), corrugated),
    "standing-seam": Shape(("pan_mm", "seam_mm"), standing_seam),
    "shake": Shape(("exposure_mm", "butt_mm", "shake_width_mm"), shake),
    "louvre": Shape(("slat_mm", "slat_thickness_mm", "slat_pitch_mm"), louvre),
    "panel-door": Shape(("leaf_width_mm", "leaf_height_mm", "panels", "panel_girth_mm", "moulding_mm"), panel_door),
    "balusters": Shape(("baluster_mm", "spacing_mm"), balusters),
}
# Upright thicknesses and depths may be nothing; what is divided by may not.
_MAY_BE_ZERO = {"butt_mm", "batten_width_mm", "batten_depth_mm", "depth_mm", "seam_mm", "slat_thickness_mm", "panels", "moulding_mm"}
_MOST_MM = 20_000.0


def check_dimensions(shape: str, dimensions: Mapping[str, float]) -> None:
    """Refuse dimensions that a shape does not have or that cannot be.

    Raises
    ------
    FieldErrors
        By dimension.
    """

    def words(name: str) -> str:
        return name.removesuffix("_mm").replace("_", " ")

    wanted = SHAPES[shape].dimensions
    has = ", ".join(map(words, wanted)) or "no dimensions"
    faults = {name: f"A {shape} profile has no {words(name)}; it has {has}." for name in dimensions if name not in wanted}
    for name in wanted:
        value = dimensions.get(name)
        if value is None:
            faults[name] = f"Give the {words(name)}: a {shape} profile is computed from it."
        elif not (0 <= value <= _MOST_MM) or (value == 0 and name not in _MAY_BE_ZERO):
            faults[name] = f"The {words(name)} must be {'0' if name in _MAY_BE_ZERO else 'above 0'} to {both_of(_MOST_MM / 1000, 'run')}."
    if not faults and dimensions.get("batten_width_mm", 0.0) >= dimensions.get("board_mm", np.inf):
        faults["batten_width_mm"] = "The batten must be narrower than the board, which is measured centre to centre."
    if faults:
        raise FieldErrors(faults)


def factor_of(profile: Profile, dimensions: Mapping[str, float] | None = None) -> Factor:
    """Return the factor of a row of the profile table.

    Parameters
    ----------
    profile : Profile
    dimensions : mapping of str to float, optional
        What was measured on this surface [mm]; it takes the place of the row's own.
    """
    measured = dict(dimensions or profile.mm)
    if profile.factor is not None and not dimensions:
        return Factor(profile.factor, f"from the knowledge table ({profile.source})")
    return SHAPES[profile.shape].factor(**measured)
