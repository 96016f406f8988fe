"""Colour change: what an old and a new colour mean for primer and coats, and for vinyl.

Colours are compared as they look (CIE 1976 L*a*b*, D65). Not here: the colour's heat (colour, surface
temperature) or the rules of a surface (rules).
"""

from dataclasses import dataclass
from math import atan2, degrees, dist, hypot
from typing import Literal

from amber_gable.core.coat.colour import linear_rgb, lrv_pct
from amber_gable.core.knowledge.assumptions import assumed

Hiding = Literal["high", "medium", "low"]

# Reflectances this far apart are a strong change (reckonings.md) [%].
STRONG_LRV_PCT = 30.0
SAME_DELTA_E = assumed("same_delta_e")
CONTRAST_DELTA_E = assumed("contrast_delta_e")
# Vinyl may be this much darker, the width of a colour card's own error (reckonings.md) [%].
VINYL_SLACK_PCT = 2.0
DARK_LRV_PCT = 20.0
_DEEP_CHROMA, _VIVID_CHROMA = 35.0, 50.0
_CLEAN_WHITE_L, _CLEAN_WHITE_CHROMA = 97.0, 4.0


def lab(hex_code: str) -> tuple[float, float, float]:
    """Return L*, a*, b* of an sRGB colour under D65.

    References
    ----------
    IEC 61966-2-1 for sRGB to XYZ; CIE 15 for L*a*b*.
    """
    r, g, b = linear_rgb(hex_code)
    x = (0.4124564 * r + 0.3575761 * g + 0.1804375 * b) / 0.95047
    y = 0.2126729 * r + 0.7151522 * g + 0.0721750 * b
    z = (0.0193339 * r + 0.1191920 * g + 0.9503041 * b) / 1.08883

    def f(t: float) -> float:
        return float(t ** (1 / 3)) if t > 216 / 24389 else (24389 / 27 * t + 16) / 116

    return 116 * f(y) - 16, 500 * (f(x) - f(y)), 200 * (f(y) - f(z))


def delta_e(first: str, second: str) -> float:
    """Return how far two colours look apart (CIE 1976).

    Parameters
    ----------
    first, second : str
        "#rrggbb".
    """
    return dist(lab(first), lab(second))


def hiding_of(hex_code: str) -> Hiding:
    """Return how well a colour covers: vivid reds, oranges, yellows and clean whites badly (handbook 5)."""
    lightness, a, b = lab(hex_code)
    chroma, hue = hypot(a, b), degrees(atan2(b, a)) % 360
    is_warm = hue <= 110 or hue >= 340
    if (chroma >= _VIVID_CHROMA and is_warm) or (lightness >= _CLEAN_WHITE_L and chroma <= _CLEAN_WHITE_CHROMA):
        return "low"
    return "medium" if chroma >= _DEEP_CHROMA else "high"


def is_deep(hex_code: str) -> bool:
    """Return whether a colour takes a deep tint: dark or strong, little white in it (our assumption)."""
    lightness, a, b = lab(hex_code)
    return lightness < 35 or hypot(a, b) >= _VIVID_CHROMA


@dataclass(frozen=True)
class CoatsForColour:
    """Coats that a change of colour needs on sound paint, with the reasons."""

    primer: bool
    coats: int
    why: tuple[str, ...]


def coats_for_colour(old_hex: str, new_hex: str, hiding: Hiding, primer_tinted: bool) -> CoatsForColour:
    """Return primer and coats for a change of colour on sound paint.

    Parameters
    ----------
    old_hex, new_hex : str
    hiding : {"high", "medium", "low"}
        Of the new colour.
    primer_tinted : bool
        Whether a primer would be tinted toward it.

    References
    ----------
    Handbook 5; reckonings.md, `coats-for-colour`.
    """
    apart = abs(lrv_pct(new_hex) - lrv_pct(old_hex))
    seen = delta_e(old_hex, new_hex)
    if seen < SAME_DELTA_E:
        return CoatsForColour(False, 2, ("Nearly the same colour on sound paint: no primer, two thin coats.",))
    why: list[str] = []
    primer, coats = False, 2
    if apart >= STRONG_LRV_PCT:
        primer = True
        way = "Dark to light" if lrv_pct(new_hex) > lrv_pct(old_hex) else "Light to dark"
        why.append(f"{way}: reflectances {apart:.0f} apart, {STRONG_LRV_PCT:g} and more asks for primer.")
    if hiding == "low" and seen >= CONTRAST_DELTA_E:
        coats = 3
        why.append("It covers badly, over a contrast: three coats or more.")
        if primer_tinted:
            primer, coats = True, 2
            why.append("A primer tinted toward it takes the place of one coat.")
    elif hiding == "medium" and apart >= STRONG_LRV_PCT and not primer_tinted:
        coats = 3
        why.append("It covers middling, over a strong contrast and an untinted primer: a third coat.")
    if not why:
        why.append("Another colour of like depth: no primer, two coats cover.")
    return CoatsForColour(primer, coats, tuple(why))


@dataclass(frozen=True)
class VinylSafe:
    safe: bool
    lrv_original_pct: float
    lrv_new_pct: float
    why: str


def vinyl_safe(original_hex: str, new_hex: str) -> VinylSafe:
    """Return whether vinyl bears a colour: no darker than its original, by reflectance.

    References
    ----------
    Handbook 5; reckonings.md, `vinyl-safe`.
    """
    original, new = lrv_pct(original_hex), lrv_pct(new_hex)
    safe = new >= original - VINYL_SLACK_PCT
    if safe:
        why = f"Reflects {new:.0f} % against {original:.0f} % of the original: no darker."
    else:
        why = f"Reflects {new:.0f} % against {original:.0f} % of the original: darker, vinyl heats and warps."
    return VinylSafe(safe, original, new, why)
