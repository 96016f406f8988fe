"""Order of strokes: in what order the parts of a window, door, shutter, wall or deck are coated (handbook 9).

Each sequence is made from the real piece's dimensions: parts as rectangles in metres from its lower
left corner, numbered in the order they are painted. What must stay bare is a part without a number.
Not here: drawing (drawing.strokes).
"""

from collections.abc import Callable, Sequence
from dataclasses import dataclass
from itertools import pairwise
from typing import Literal

from amber_gable.core.geometry import Rect
from amber_gable.core.knowledge.assumptions import assumed

Way = Literal["across", "up and down", "all round", "none"]

# Sections of wood as they usually are; the drawing is a guide, not a plan (our assumption) [m].
_STILE_M, _RAIL_M, _BOTTOM_RAIL_M, _BAR_M, _MEETING_M = 0.05, 0.06, 0.09, 0.022, 0.04
_FRAME_M, _SILL_M = 0.07, 0.05
_DOOR_STILE_M, _DOOR_RAIL_M, _LOCK_RAIL_M = 0.115, 0.12, 0.2
_SECTION_M = assumed("section_m")


@dataclass(frozen=True)
class Stroke:
    """One part in its turn.

    Parameters
    ----------
    label : str
    why : str
        What to mind, or why in this turn.
    parts : tuple of Rect
        Where [m]; none for something that is done, not painted.
    way : str
        In which direction the last strokes go.
    stays_bare : bool
        Not painted: it has no number.
    """

    label: str
    why: str
    parts: tuple[Rect, ...] = ()
    way: Way = "none"
    stays_bare: bool = False


@dataclass(frozen=True)
class StrokeOrder:
    """The order of strokes of one piece of this size."""

    kind: str
    width_m: float
    height_m: float
    strokes: tuple[Stroke, ...]


def _bars(left: float, bottom: float, width: float, height: float, across: int, up: int) -> tuple[Rect, ...]:
    """Return the bars that divide glass into panes."""
    uprights = [Rect(left + width * i / across - _BAR_M / 2, bottom, _BAR_M, height) for i in range(1, across)]
    levels = [Rect(left, bottom + height * i / up - _BAR_M / 2, width, _BAR_M) for i in range(1, up)]
    return (*levels, *uprights)


def _edges(left: float, bottom: float, width: float, height: float, thick: float) -> tuple[Rect, ...]:
    """Return a thin frame just inside a rectangle: the beads at the glass."""
    return (
        Rect(left, bottom, width, thick), Rect(left, bottom + height - thick, width, thick),
        Rect(left, bottom, thick, height), Rect(left + width - thick, bottom, thick, height),
    )  # fmt: skip


def _frame(width: float, height: float) -> tuple[Stroke, Stroke]:
    casing = (
        Rect(-_FRAME_M, 0, _FRAME_M, height), Rect(width, 0, _FRAME_M, height), Rect(-_FRAME_M, height, width + 2 * _FRAME_M, _FRAME_M),
    )  # fmt: skip
    sill = (Rect(-_FRAME_M - 0.03, -_SILL_M, width + 2 * _FRAME_M + 0.06, _SILL_M),)
    return (
        Stroke("Frame", "Draught brushes are cut round.", casing, "up and down"),
        Stroke("Sill", "Last: it takes the drips, and the knees.", sill, "across"),
    )


def sash_window(width: float, height: float, panes_across: int, panes_up: int) -> StrokeOrder:
    """Return the order for a sash window: what the meeting rails hide first, sill last.

    Parameters
    ----------
    width, height : float
        Of the opening [m].
    panes_across, panes_up : int
        Of each sash.
    """
    half = height / 2
    glass_w = width - 2 * _STILE_M
    upper, lower = half - _RAIL_M - _MEETING_M / 2, half - _BOTTOM_RAIL_M - _MEETING_M / 2
    rows = max(panes_up // 2, 1)
    beads = (
        *_edges(_STILE_M, half + _MEETING_M / 2, glass_w, upper, 0.012),
        *_edges(_STILE_M, _BOTTOM_RAIL_M, glass_w, lower, 0.012),
        *_bars(_STILE_M, half + _MEETING_M / 2, glass_w, upper, panes_across, rows),
        *_bars(_STILE_M, _BOTTOM_RAIL_M, glass_w, lower, panes_across, rows),
    )
    meeting = (Rect(_STILE_M, half - _MEETING_M / 2, glass_w, _MEETING_M),)
    rails = (Rect(_STILE_M, height - _RAIL_M, glass_w, _RAIL_M), Rect(_STILE_M, 0, glass_w, _BOTTOM_RAIL_M))
    stiles = (Rect(0, 0, _STILE_M, height), Rect(width - _STILE_M, 0, _STILE_M, height))
    runners = (Rect(-0.012, 0, 0.012, height), Rect(width, 0, 0.012, height))
    return StrokeOrder(
        "sash-window", width, height,
        (
            Stroke("Sliding faces and runners", "Stay bare, or undercoat only; never gloss.", runners, "none", stays_bare=True),
            Stroke("Swap the sashes, paint what the meeting rails hide", "Outer down, inner up.", meeting, "across"),
            Stroke("Swap them back, not fully closed", "So that neither sticks."),
            Stroke("Beads and bars", "A hair of paint on the glass seals it; specks come off dry with a blade.", beads, "all round"),
            Stroke("Rails", "Across, ends laid off into the stiles.", rails, "across"),
            Stroke("Stiles", "Up and down, over the ends of the rails.", stiles, "up and down"),
            *_frame(width, height),
            Stroke("Move the sashes while it dries", "What is not moved sticks."),
        ),
    )  # fmt: skip


def casement(width: float, height: float, panes_across: int, panes_up: int) -> StrokeOrder:
    """Return the order for a casement: beads, cross rails, stiles, hinge edge, frame, sill.

    Parameters
    ----------
    width, height : float
        Of the opening [m].
    panes_across, panes_up : int
        Of the leaf.
    """
    glass_w, glass_h = width - 2 * _STILE_M, height - _RAIL_M - _BOTTOM_RAIL_M
    rails = (Rect(_STILE_M, height - _RAIL_M, glass_w, _RAIL_M), Rect(_STILE_M, 0, glass_w, _BOTTOM_RAIL_M))
    stiles = (Rect(0, 0, _STILE_M, height), Rect(width - _STILE_M, 0, _STILE_M, height))
    beads = (
        *_edges(_STILE_M, _BOTTOM_RAIL_M, glass_w, glass_h, 0.012),
        *_bars(_STILE_M, _BOTTOM_RAIL_M, glass_w, glass_h, panes_across, panes_up),
    )
    return StrokeOrder(
        "casement-window", width, height,
        (
            Stroke("Glass beads and bars", "A hair on the glass seals it.", beads, "all round"),
            Stroke("Cross rails", "Side to side.", rails, "across"),
            Stroke("Stiles", "Up and down, over the ends of the rails.", stiles, "up and down"),
            Stroke("Hinge edge", "The closing edge belongs to the inside.", (Rect(-0.02, 0, 0.02, height),), "up and down"),
            *_frame(width, height),
            Stroke("Leave it ajar", "Not closed until it is block-free."),
        ),
    )  # fmt: skip


def panel_door(width: float, height: float, columns: int = 2, rows: int = 3) -> StrokeOrder:
    """Return the order for a panel door: panels and mouldings first, edges last.

    Parameters
    ----------
    columns, rows : int
        How its panels lie.
    """
    inner = width - 2 * _DOOR_STILE_M
    rails = [0.2, *([_LOCK_RAIL_M if rows == 2 or i == rows // 2 - 1 else _DOOR_RAIL_M for i in range(rows - 1)]), _DOOR_RAIL_M]
    panel_h = (height - sum(rails)) / rows
    muntin = _DOOR_RAIL_M if columns > 1 else 0.0
    panel_w = (inner - muntin * (columns - 1)) / columns
    panels, cross, uprights = [], [], []
    y = 0.0
    for row in range(rows):
        cross.append(Rect(_DOOR_STILE_M, y, inner, rails[row]))
        y += rails[row]
        for column in range(columns):
            x = _DOOR_STILE_M + column * (panel_w + muntin)
            panels.append(Rect(x, y, panel_w, panel_h))
            if column:
                uprights.append(Rect(x - muntin, y, muntin, panel_h))
        y += panel_h
    cross.append(Rect(_DOOR_STILE_M, y, inner, rails[-1]))
    stiles = (Rect(0, 0, _DOOR_STILE_M, height), Rect(width - _DOOR_STILE_M, 0, _DOOR_STILE_M, height))
    return StrokeOrder(
        "panel-door",
        width,
        height,
        (
            Stroke("Lock off or taped, hinges and glass taped", "Hardware is not painted."),
            Stroke(
                "Panels with their mouldings", "From the top; runs collect in the lower mouldings.", tuple(reversed(panels)), "all round"
            ),
            *([Stroke("Middle uprights", "Up and down.", tuple(reversed(uprights)), "up and down")] if uprights else []),
            Stroke("Cross rails", "Side to side, from the top.", tuple(reversed(cross)), "across"),
            Stroke("Outer uprights", "Up and down, over the ends of the rails.", stiles, "up and down"),
            Stroke(
                "Edges",
                "The edge that one sees when it is open.",
                (Rect(-0.02, 0, 0.02, height), Rect(width, 0, 0.02, height)),
                "up and down",
            ),
            Stroke("Leave it ajar", "Not closed until it is block-free."),
        ),
    )


def sectional_door(width: float, height: float, sections: int = 4) -> StrokeOrder:
    """Return the order for a sectional garage door: section by section from the top, trim afterwards.

    Parameters
    ----------
    width, height : float
        Of the door [m].
    sections : int
        From top to bottom.
    """
    each = height / sections
    faces = [Rect(0, height - each * (i + 1) + 0.008, width, each - 0.016) for i in range(sections)]
    joints = tuple(Rect(0, height - each * (i + 1) - 0.008, width, 0.016) for i in range(sections - 1))
    seals = (Rect(-0.03, 0, 0.03, height), Rect(width, 0, 0.03, height), Rect(-0.03, height, width + 0.06, 0.03))
    return StrokeOrder(
        "garage-door",
        width,
        height,
        (
            Stroke("Bottom gasket", "Masked: it stays rubber.", (Rect(0, -0.04, width, 0.04),), "none", stays_bare=True),
            *(
                Stroke(
                    f"Section {i} from the top",
                    "The bottom edge too: rust starts there." if i == sections else "Wet edge into the joint.",
                    (face,),
                    "across",
                )
                for i, face in enumerate(faces, start=1)
            ),
            Stroke("Joints and edges", "The door half raised.", joints, "across"),
            Stroke("Side and top seals", "In the colour of the door or the trim.", seals, "up and down"),
            Stroke("Raised to dry flat, trim afterwards", "Raised after spraying, runs stop."),
        ),
    )


def shutter(width: float, height: float) -> StrokeOrder:
    """Return the order for a shutter taken down: one face, a night, the other.

    Parameters
    ----------
    width, height : float
        Of the leaf [m].
    """
    inner, pitch = width - 2 * _STILE_M, 0.05
    low, high = _BOTTOM_RAIL_M, height - _RAIL_M
    slats = tuple(Rect(_STILE_M, low + i * pitch, inner, pitch * 0.8) for i in range(int((high - low) / pitch)))
    return StrokeOrder(
        "shutter",
        width,
        height,
        (
            Stroke("Number on its back, hardware off", "Put back in its own place."),
            Stroke("Louvres", "From below and from above, edges wetted first.", slats, "across"),
            Stroke("Rails", "Side to side.", (Rect(_STILE_M, high, inner, _RAIL_M), Rect(_STILE_M, 0, inner, low)), "across"),
            Stroke(
                "Stiles and edges",
                "Up and down.",
                (Rect(0, 0, _STILE_M, height), Rect(width - _STILE_M, 0, _STILE_M, height)),
                "up and down",
            ),
            Stroke("One night, then turn it", "The other face the same way."),
        ),
    )


def wall(width: float, height: float, openings: Sequence[Rect], storey_m: float = 2.9) -> StrokeOrder:
    """Return the order for a wall: upper storey first, section by section to a corner, window or joint; bottom edge last.

    Parameters
    ----------
    openings : sequence of Rect
    storey_m : float
        Height of a lift of work.
    """
    lifts = max(round(height / storey_m), 1)
    each = height / lifts
    strokes = [Stroke("Cut in round openings and under the eaves", "A few centimetres, just ahead of the section.")]
    foot = 0.06
    for lift in range(lifts - 1, -1, -1):
        bottom = max(lift * each, foot)
        for number, (left, right) in enumerate(_sections(width, bottom, (lift + 1) * each, openings), start=1):
            name = f"{_LIFTS[min(lift, 2)]}, section {number}" if lifts > 1 else f"Section {number}"
            strokes.append(
                Stroke(
                    name,
                    "Finish it: stop at its edge, never in its middle.",
                    (Rect(left, bottom, right - left, (lift + 1) * each - bottom),),
                    "across",
                )
            )
    strokes.append(Stroke("Bottom edge", "Last, so that ground sheets do not drag through it.", (Rect(0, 0, width, foot),), "across"))
    return StrokeOrder("wall", width, height, tuple(strokes))


_LIFTS = ("Ground floor", "Upper floor", "Top floor")


def _sections(width: float, bottom: float, top: float, openings: Sequence[Rect]) -> list[tuple[float, float]]:
    """Return stretches of a lift, cut where an opening begins, none much longer than a section."""
    stops = [0.0]
    for edge in sorted(o.left for o in openings if o.bottom < top and o.top > bottom):
        if edge - stops[-1] >= _SECTION_M / 2 and width - edge >= _SECTION_M / 2:
            stops.append(edge)
    stops.append(width)
    sections = []
    for left, right in pairwise(stops):
        parts = max(round((right - left) / _SECTION_M), 1)
        sections += [(left + (right - left) * i / parts, left + (right - left) * (i + 1) / parts) for i in range(parts)]
    return sections


def deck(width: float, depth: float, board_m: float = 0.14, boards_at_once: int = 3) -> StrokeOrder:
    """Return the order for a deck: railings first, then a few boards at a time over their whole length toward the steps.

    Parameters
    ----------
    width, depth : float
        Of the floor [m].
    board_m : float
        Width of a board with its gap [m].
    boards_at_once : int
        That are coated side by side.
    """
    count = max(round(depth / (board_m * boards_at_once)), 1)
    strip = depth / count
    strips = [
        Stroke(f"Boards {i + 1} of {count}", "Whole length, with the grain: no lap in a board's middle.", (part,), "across")
        for i, part in enumerate(Rect(0, depth - strip * (n + 1), width, strip) for n in range(count))
    ]  # fmt: skip
    return StrokeOrder(
        "deck", width, depth,
        (
            Stroke("Railings and posts", "Drips on the boards are brushed out at once."),
            *strips,
            Stroke("Steps, from the top down", "Every other one, if people must pass."),
        ),
    )  # fmt: skip


# How each kind of opening is painted; panes, panels and sections from the survey.
OPENINGS: dict[str, Callable[[float, float, int, int], StrokeOrder]] = {
    "sash-window": sash_window,
    "casement-window": casement,
    "fixed-window": casement,
    "entry-door": panel_door,
    "garage-door": lambda w, h, _across, up: sectional_door(w, h, up),
    "shutter": lambda w, h, _across, _up: shutter(w, h),
}
