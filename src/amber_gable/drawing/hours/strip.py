"""The calendar strip: a schedule's visits as blocks on the ribbons' axis, one row a surface."""

from collections.abc import Sequence
from dataclasses import dataclass

import numpy as np
from numpy.typing import NDArray

from amber_gable.drawing.hours.timeaxis import Axis, nights
from amber_gable.drawing.svg import el

HEIGHT = 30.0


@dataclass(frozen=True)
class CoatBlock:
    """A visit: steps, which coat, and whether it still holds."""

    start: int
    end: int
    coat: int
    is_broken: bool
    # A gate or a patch keeps it from starting.
    is_held: bool = False


def strip(axis: Axis, blocks: Sequence[CoatBlock], is_day: NDArray[np.bool_]) -> str:
    """Return one surface's row as SVG; each coat is numbered."""
    parts = [el("rect", x=f"{x:.2f}%", y=0, width=f"{w:.2f}%", height=HEIGHT, class_="ribbon-night") for x, w in nights(axis, is_day)]
    parts.append(el("line", x1="0", x2="100%", y1=HEIGHT - 0.5, y2=HEIGHT - 0.5, class_="ribbon-base"))
    for block in blocks:
        visible = axis.clip(block.start, block.end)
        if visible is None:
            continue
        x = axis.at(visible[0])
        # Wide enough for its number, however short the coat.
        width = max(axis.at(visible[1]) - x, 1.5)
        class_ = f"strip-coat strip-coat-{min(block.coat, 2)}" + (" is-broken" if block.is_broken else " is-held" if block.is_held else "")
        parts.append(el("rect", x=f"{x:.2f}%", y=4, width=f"{width:.2f}%", height=HEIGHT - 8, class_=class_))
        label = f"{block.coat}!" if block.is_broken else f"{block.coat}?" if block.is_held else str(block.coat)
        number_class = f"strip-number strip-number-{min(block.coat, 2)}"
        parts.append(el("text", label, x=f"{x + width / 2:.2f}%", y=HEIGHT / 2 + 5, class_=number_class))
    parts.append(el("line", x1="0", x2="0", y1=0, y2=HEIGHT, class_="cursor", data_cursor=""))
    return el("svg", parts, class_="strip", height=HEIGHT, aria_hidden="true")
