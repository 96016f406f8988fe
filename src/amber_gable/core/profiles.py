"""Profiles: how much more face a shaped surface has than its outline.

Pure functions of the profile's own dimensions.
Not here: texture and suction, which take more paint without more face (takeoff).
"""

from dataclasses import dataclass

from amber_gable.core.knowledge import Profile


@dataclass(frozen=True)
class Factor:
    """A multiplier of area, and in words how it came about."""

    value: float
    how: str


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
    return Factor(value, f"({exposure_mm:g} mm shown + {butt_mm:g} mm butt) / {exposure_mm:g} mm")


def board_batten(board_mm: float, batten_depth_mm: float) -> Factor:
    """Return the factor of board and batten: two batten sides for each board.

    Parameters
    ----------
    board_mm : float
        Centre to centre of the battens [mm], above 0.
    batten_depth_mm : float
        How far a batten stands out [mm].
    """
    value = 1 + 2 * batten_depth_mm / board_mm
    return Factor(value, f"1 + 2 x {batten_depth_mm:g} mm batten / {board_mm:g} mm board")


def factor_of(profile: Profile) -> Factor:
    """Return the factor of a row of the profile table.

    Raises
    ------
    AssertionError
        If the row lacks a dimension of its shape: a mistake of ours in the table.
    """
    if profile.shape == "lap":
        assert profile.exposure_mm is not None
        assert profile.butt_mm is not None
        return lap(profile.exposure_mm, profile.butt_mm)
    if profile.shape == "board-batten":
        assert profile.board_mm is not None
        assert profile.batten_depth_mm is not None
        return board_batten(profile.board_mm, profile.batten_depth_mm)
    if profile.shape == "fixed":
        assert profile.factor is not None
        return Factor(profile.factor, f"from the table ({profile.source})")
    return Factor(1.0, "flat")
