"""Access: from where a wall is reached, and why.

Handbook 12: stable, even base; above 3 m prefer tower or lift; never near power lines.
Not here: how many sets a wall needs or what hire costs (takeoff).
"""

from collections.abc import Mapping
from dataclasses import dataclass

from amber_gable.core.knowledge import Access, Ground
from amber_gable.units import System, convert

# Above this a tower or lift is preferred to a ladder (handbook 12).
PREFER_TOWER_FROM_M = 3.0
LINE_CLEARANCE_M = 3.0
_ORDER = ("ground", "step-ladder", "tower", "lift", "ladder")


@dataclass(frozen=True)
class Site:
    """Ground and surroundings of the painter before a wall.

    Parameters
    ----------
    top_m : float
        Highest point of what is painted, above the ground.
    ground : Ground
    slope_pct : float
        Fall of the ground along or away from the wall.
    line_distance_m : float or None
        To the nearest power line; None for none.
    """

    top_m: float
    ground: Ground
    slope_pct: float = 0.0
    line_distance_m: float | None = None


@dataclass(frozen=True)
class Suggestion:
    """The access suggested, the reasons for it, and what was passed over and why."""

    access: str
    reasons: tuple[str, ...]
    passed_over: Mapping[str, str]
    cautions: tuple[str, ...]


def _say(length_m: float, system: System) -> str:
    """Return a height as one says it: whole feet, or metres to a tenth."""
    return f"{convert(length_m, 'm', 'ft'):.0f} ft" if system == "us" else f"{length_m:.1f} m"


def _against(access: Access, key: str, site: Site, system: System) -> str | None:
    if site.top_m > access.reach_m:
        return f"reaches {_say(access.reach_m, system)}, the top is at {_say(site.top_m, system)}"
    if site.slope_pct > access.max_slope_pct:
        return f"stands on ground falling up to {access.max_slope_pct:g} %, here {site.slope_pct:g} %"
    if access.needs_firm_ground and not site.ground.is_firm:
        return f"needs firm ground, here: {site.ground.label.lower()}"
    if key == "ladder" and site.top_m > PREFER_TOWER_FROM_M:
        return f"above {_say(PREFER_TOWER_FROM_M, system)} a tower or lift is preferred"
    return None


def suggest(table: Mapping[str, Access], site: Site, system: System = "metric", scaffold_from_m: float | None = None) -> Suggestion:
    """Return how to reach a wall, the least that is safe.

    Parameters
    ----------
    table : mapping of str to Access
        Of the knowledge.
    site : Site
    system : {"us", "metric"}
        In which the reasons speak of heights.
    scaffold_from_m : float, optional
        From which height walls are scaffolded in this country.
    """
    passed: dict[str, str] = {}
    cautions: list[str] = []
    if site.line_distance_m is not None and site.line_distance_m < LINE_CLEARANCE_M:
        away, kept = _say(site.line_distance_m, system), _say(LINE_CLEARANCE_M, system)
        cautions.append(
            f"Power line {away} away: at least {kept} is kept by people, ladders and poles. "
            "No work here until the supplier has isolated or shielded it."
        )
    if scaffold_from_m is not None and site.top_m > scaffold_from_m and _against(table["scaffold"], "scaffold", site, system) is None:
        usual = f"walls above {_say(scaffold_from_m, system)} are scaffolded here, the top is at {_say(site.top_m, system)}"
        return Suggestion("scaffold", (usual,), passed, tuple(cautions))
    for key in _ORDER:
        fault = _against(table[key], key, site, system)
        if fault is None:
            reasons = [f"reaches {_say(table[key].reach_m, system)}, the top is at {_say(site.top_m, system)}"]
            if key in ("tower", "lift"):
                reasons.append(f"above {_say(PREFER_TOWER_FROM_M, system)} a tower or lift is preferred to a ladder")
            if key == "lift" and "tower" in passed:
                reasons.append(f"a tower {passed['tower']}")
            return Suggestion(key, tuple(reasons), passed, tuple(cautions))
        passed[key] = fault
    # Only a ladder is left, or nothing at all: said, not hidden.
    if site.top_m <= table["ladder"].reach_m and site.slope_pct <= table["ladder"].max_slope_pct:
        why = tuple(f"{table[key].label.lower()}: {passed[key]}" for key in ("tower", "lift"))
        cautions.append("Boards under its feet, 4:1, three points, somebody at the foot; reposition rather than lean out.")
        return Suggestion("ladder", why, passed, tuple(cautions))
    if (fault := _against(table["scaffold"], "scaffold", site, system)) is None:
        cautions.append("A licensed firm puts the scaffold up, ties and signs it.")
        why = tuple(f"{table[key].label.lower()}: {passed[key]}" for key in ("tower", "lift"))
        return Suggestion("scaffold", why, passed, tuple(cautions))
    passed["scaffold"] = fault
    cautions.append("Nothing in the table reaches this safely. Ask a scaffolder.")
    return Suggestion("scaffold", (f"the highest reach there is, {_say(table['scaffold'].reach_m, system)}",), passed, tuple(cautions))
