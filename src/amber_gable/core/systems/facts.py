"""Facts: what is known of a surface when its system is specified.

Not here: what follows from them (rules), or where they are kept (services).
"""

from collections.abc import Mapping
from dataclasses import dataclass, field

EXTENTS = ("spots", "to-10", "to-30", "more", "all")
KINDS = (
    "wall", "gable", "plinth", "chimney", "soffit", "trim", "door", "garage-door", "window", "shutter", "roof", "deck", "steps", "railing",
)  # fmt: skip


@dataclass(frozen=True)
class Found:
    """A condition, how much of the surface has it, and how deep or wide it is [mm] where that was measured."""

    kind: str
    extent: str = "spots"
    depth_mm: float | None = None


@dataclass(frozen=True)
class Facts:
    """Facts that a system is specified from. Everything but the substrate may be unknown.

    Parameters
    ----------
    substrate, texture, coating : str
        Rows of the knowledge.
    kind : str
        One of `KINDS`.
    coating_age_y : float or None
        Years since it was last coated, or since it was new.
    findings : tuple of Found
    tests : mapping of str to {"pass", "doubt", "fail"}
        The worst result of each kind of test on this surface.
    old_hex, new_hex : str or None
    old_lrv_pct, new_lrv_pct : float or None
        Where only the reflectance is known [%].
    wanted : str
        A family of finish the owner asks for, or "floor-and-sealer"; empty for what the rules say.
    schools : mapping of str to str
        House rules that differ from their defaults.
    lead, asbestos : {"", "closed", "works-under"}
        How the gates stand for this part; empty where nothing is raised or it was cleared.
    silica : {"", "works-under"}
        Whether shroud, vacuum and respirator for grinding are on record.
    method, access : str
        By which it is coated and reached.
    top_m : float
        Of its highest point above the ground.
    is_sunny : bool
        The sun reaches it for hours.
    near : tuple of str
        What stands at this side: rows of features, and "electric" for lights, meters and signs.
    weather : tuple of {"hot", "cold"}
        What the forecast holds in store.
    has_open_edge : bool
        A deck or porch without its railing.
    primer_tinted : bool
        Whether the firm tints primers toward the finish.
    is_heat_reflective, is_vinyl_safe : bool
        Of the new colour.
    patch : {"", "holds", "fails"}
        What the last test patch on it came to; empty for none yet.
    coats : int or None
    technique : str
        Asked for by hand, whatever the rules say; "back-roll" on what is sprayed.
    """

    substrate: str
    kind: str = "wall"
    texture: str = ""
    coating: str = "unknown"
    coating_age_y: float | None = None
    findings: tuple[Found, ...] = ()
    tests: Mapping[str, str] = field(default_factory=dict)
    old_hex: str | None = None
    new_hex: str | None = None
    old_lrv_pct: float | None = None
    new_lrv_pct: float | None = None
    wanted: str = ""
    schools: Mapping[str, str] = field(default_factory=dict)
    lead: str = ""
    asbestos: str = ""
    silica: str = ""
    method: str = "roller"
    access: str = "ground"
    top_m: float = 0.0
    is_sunny: bool = False
    near: tuple[str, ...] = ()
    weather: tuple[str, ...] = ()
    has_open_edge: bool = False
    primer_tinted: bool = True
    is_heat_reflective: bool = False
    is_vinyl_safe: bool = False
    patch: str = ""
    coats: int | None = None
    technique: str = ""
