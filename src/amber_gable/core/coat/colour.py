"""Colour: how much light a colour throws back, and so how much sun it takes up.

Not here: what a colour means for primer, coats or vinyl (systems).
"""

import re

from amber_gable.errors import PlanError

_HEX = re.compile(r"#[0-9a-fA-F]{6}")


def lrv_pct(hex_code: str) -> float:
    """Return the light reflectance value of an sRGB colour [%]: 100 x CIE Y.

    Parameters
    ----------
    hex_code : str
        Like "#a8b59a".

    Raises
    ------
    PlanError
        If it is not six hexadecimal digits after a #.

    References
    ----------
    IEC 61966-2-1 (sRGB): linearisation, and luminance 0.2126 R + 0.7152 G + 0.0722 B.
    """
    red, green, blue = linear_rgb(hex_code)
    return 100 * (0.2126 * red + 0.7152 * green + 0.0722 * blue)


def linear_rgb(hex_code: str, field: str = "hex") -> tuple[float, float, float]:
    """Return red, green and blue of an sRGB colour as light, 0 to 1.

    Parameters
    ----------
    hex_code : str
        "#rrggbb".
    field : str
        Of the form, for the message.

    Raises
    ------
    PlanError
        If it is not six hexadecimal digits after a #.
    """
    if not _HEX.fullmatch(hex_code):
        raise PlanError("Give the colour as # and six digits, like #a8b59a.", field)
    channels = (int(hex_code[i : i + 2], 16) / 255 for i in (1, 3, 5))
    red, green, blue = (c / 12.92 if c <= 0.04045 else ((c + 0.055) / 1.055) ** 2.4 for c in channels)
    return red, green, blue


def hex_of(rgb: tuple[float, float, float]) -> str:
    """Return the sRGB code of red, green and blue as light, each cut to 0 to 1 (IEC 61966-2-1)."""
    cut = [min(max(c, 0.0), 1.0) for c in rgb]
    coded = (12.92 * c if c <= 0.0031308 else 1.055 * c ** (1 / 2.4) - 0.055 for c in cut)
    return "#" + "".join(f"{round(255 * c):02x}" for c in coded)


def solar_absorptance(lrv: float) -> float:
    """Return the share of sunlight that a colour of this reflectance [%] takes up (handbook 4)."""
    return 1 - lrv / 100
