"""Working days: one column a day, as high as its painter-hours, each kind of work a block with its own texture."""

from collections.abc import Sequence

from amber_gable.drawing.svg import el, title, words

WIDTH, _HIGH, _FOOT = 1180.0, 120.0, 20.0
_WIDEST = 64.0
# Lower blocks have no room for their number.
_NUMBERED_FROM_PX = 15.0


def days_svg(days: Sequence[Sequence[tuple[int, str, float]]], label: str) -> str:
    """Return the days side by side.

    Parameters
    ----------
    days : sequence of sequence of (kind, name, hours)
        The kind numbers the fill: classes work-0, work-1, ...
    label : str
        What it shows, in words.
    """
    most = max((sum(h for _, _, h in day) for day in days), default=1.0)
    step = min(WIDTH / max(len(days), 1), _WIDEST)
    parts = [el("path", d=f"M0 {_HIGH:.0f}H{step * len(days):.0f}", class_="band-ground")]
    for index, day in enumerate(days):
        y = _HIGH
        for kind, name, hours in day:
            high = hours / most * (_HIGH - 8)
            y -= high
            said = title(f"Day {index + 1}: {name}, {hours:.1f} h")
            if high > _NUMBERED_FROM_PX:
                named = words(str(kind + 1), x=(index + 0.5) * step, y=y + high / 2 + 5, class_=f"work-number of-{kind}")
            else:
                named = ""
            parts.append(el("rect", said, x=index * step + 2, y=y, width=step - 4, height=high, class_=f"work work-{kind}") + named)
        parts.append(words(str(index + 1), x=(index + 0.5) * step, y=_HIGH + 15, class_="work-day"))
    width = max(step * len(days), 1)
    box = f"0 0 {width:.0f} {_HIGH + _FOOT:.0f}"
    return el("svg", parts, class_="workdays", role="img", aria_label=label, viewBox=box, width=width, height=_HIGH + _FOOT)
