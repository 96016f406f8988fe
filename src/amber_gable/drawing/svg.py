"""Writing SVG: elements with escaped attributes, nothing more."""

import re
from collections.abc import Iterable
from functools import lru_cache
from html import escape as escape_html

# Characters that no XML document may hold, such as names from an old database may have.
_NOT_XML = re.compile(r"[\x00-\x08\x0b\x0c\x0e-\x1f\x7f-\x9f\ufffe\uffff\ud800-\udfff]")
# What markup may not hold as it is, these and those; most of a drawing holds none.
_ODD = re.compile(f"[&<>\"'{_NOT_XML.pattern[1:]}")


def escape(text: str) -> str:
    """Return words as markup may hold them."""
    return text if _ODD.search(text) is None else escape_html(_NOT_XML.sub("", text))


def number(value: float) -> str:
    """Return a coordinate with at most two decimals, the shortest way."""
    text = f"{value:.2f}".rstrip("0").rstrip(".")
    return "0" if text in ("-0", "") else text


def el(tag: str, content: str | Iterable[str] | None = None, **attributes: str | float | None) -> str:
    """Return one element.

    Parameters
    ----------
    tag : str
    content : str or iterable of str, optional
        Markup, already escaped; use `text` for words.
    **attributes
        Underscores become hyphens (a trailing one is dropped), numbers are shortened, None leaves
        the attribute out.
    """
    parts = [tag]
    for name, value in attributes.items():
        if value is None:
            continue
        parts.append(f'{_attribute(name)}="{escape(value) if isinstance(value, str) else number(value)}"')
    inner = "" if content is None else content if isinstance(content, str) else "".join(content)
    opening = " ".join(parts)
    return f"<{opening}>{inner}</{tag}>" if content is not None else f"<{opening}/>"


@lru_cache(1000)
def _attribute(name: str) -> str:
    return name.rstrip("_").replace("_", "-")


def words(content: str, **attributes: str | float | None) -> str:
    """Return a text element, its content escaped."""
    return el("text", escape(content), **attributes)


def title(content: str) -> str:
    """Return what a pointer resting on a shape is told, escaped."""
    return el("title", escape(content))


def path(points: Iterable[tuple[float, float]], *, close: bool = True) -> str:
    """Return path data through points."""
    return "M" + "L".join(f"{number(x)} {number(y)}" for x, y in points) + ("Z" if close else "")
