"""Items: the painted area of what is taken by the run or the piece, and of openings as pieces.

Not here: what kinds there are (knowledge); surfaces measured by outline (takeoff).
"""

from amber_gable.core.geometry import Rect
from amber_gable.core.knowledge import ItemKind, OpeningKind
from amber_gable.errors import FieldErrors
from amber_gable.units import both


def item_area_m2(kind: ItemKind, count: int, length_m: float, girth_m: float) -> float:
    """Return the painted area of a run (length x girth) or of pieces (count x length x girth) [m2].

    Parameters
    ----------
    kind : ItemKind
        Measured by run or by piece.
    count : int
        Of pieces.
    length_m, girth_m : float
        Length of one, and the way round what is painted [m].
    """
    return length_m * girth_m * (count if kind.measure == "piece" else 1)


def opening_area_m2(kind: OpeningKind, rect: Rect, panes_across: int = 1, panes_up: int = 1) -> float:
    """Return the painted area of an opening taken as a piece [m2].

    Parameters
    ----------
    kind : OpeningKind
    rect : Rect
    panes_across, panes_up : int
        How many panes it is divided into; each bar between them is painted.

    References
    ----------
    Handbook 7: windows, doors, shutters by item with their own areas (both faces or one, edges).
    """
    leaf = rect.width * rect.height * kind.faces * kind.factor
    frame = 2 * (rect.width + rect.height) * kind.frame_mm / 1000
    bars = ((panes_across - 1) * rect.height + (panes_up - 1) * rect.width) * kind.bar_mm / 1000
    return leaf + frame + bars


def check_item(length_m: float, girth_m: float, count: int) -> None:
    """Refuse an item that cannot be.

    Raises
    ------
    FieldErrors
    """
    faults = {}
    if not 0 < length_m <= 2000:
        faults["length_m"] = both("The length must be above 0 and at most 2000 m (6560 ft).")
    if not 0 < girth_m <= 5:
        faults["girth_m"] = both("The girth, all round what is painted, must be above 0 and at most 5 m (16 ft).")
    if not 1 <= count <= 500:
        faults["count"] = "Between 1 and 500 pieces."
    if faults:
        raise FieldErrors(faults)
