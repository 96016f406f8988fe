"""Ladder plan: where ladder, tower or lift stand along the walls, numbered in walking order, drawn over the house band."""

from collections.abc import Sequence
from dataclasses import dataclass

from amber_gable.drawing.svg import el, number, words

_RAIL_PX = 3.2
_RUNG_PX = 7.0
_BADGE_R = 8.0
# Towers and lifts are drawn as wide as they are [m].
_WIDE_M = 1.4


@dataclass(frozen=True)
class Stand:
    """One place to stand: its number over the whole house, where on the elevation [m], how high it is worked from there."""

    number: int
    x_m: float
    top_m: float
    kind: str = "ladder"
    is_barred: bool = False


def stands_svg(stands: Sequence[Stand], left: float, ground: float, scale: float) -> str:
    """Return ladders as rails and rungs, towers and lifts as braced frames, each with its number at the foot.

    Parameters
    ----------
    stands : sequence of Stand
    left, ground : float
        Where the elevation's own zero and the ground lie [px].
    scale : float
        [px/m]
    """
    parts = []
    for stand in stands:
        x, top = left + stand.x_m * scale, ground - stand.top_m * scale
        half = _RAIL_PX if stand.kind in ("ladder", "step-ladder") else _WIDE_M * scale / 2
        class_ = "stand is-barred" if stand.is_barred else "stand"
        parts.append(el("path", d=_ladder(x, ground, top, half) if half == _RAIL_PX else _frame(x, ground, top, half), class_=class_))
        parts.append(el("circle", cx=x, cy=ground - _BADGE_R - 1, r=_BADGE_R, class_=f"{class_} stand-badge"))
        parts.append(words("×" if stand.is_barred else str(stand.number), x=x, y=ground - _BADGE_R + 3, class_="stand-number"))
    return "".join(parts)


def _ladder(x: float, ground: float, top: float, half: float) -> str:
    rails = f"M{number(x - half)} {number(ground)}V{number(top)}M{number(x + half)} {number(ground)}V{number(top)}"
    count = max(int((ground - top) / _RUNG_PX), 1)
    return rails + "".join(f"M{number(x - half)} {number(ground - i * _RUNG_PX)}h{number(2 * half)}" for i in range(1, count))


def _frame(x: float, ground: float, top: float, half: float) -> str:
    frame = f"M{number(x - half)} {number(ground)}V{number(top)}H{number(x + half)}V{number(ground)}"
    return f"{frame}L{number(x - half)} {number(top)}M{number(x - half)} {number(ground)}L{number(x + half)} {number(top)}"
