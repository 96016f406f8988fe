"""Windows: for each surface and quarter-hour, may a coat go on, and why not.

`limits` checks every rule of the handbook against the climate, `site_checks` what one site asks besides, `steps` work that is no
coat; `states` makes open, tight and shut of them, `starts` finds when a whole coat may begin, `words` says it to people.
"""

from amber_gable.core.windows.check import Check, HouseRules, SiteLimits
from amber_gable.core.windows.limits import check_limits
from amber_gable.core.windows.starts import Span, spans
from amber_gable.core.windows.states import OPEN, SHUT, STATE_NAMES, TIGHT, LimitReason, Windows, find_windows, find_windows_each

__all__ = [
    "OPEN",
    "SHUT",
    "STATE_NAMES",
    "TIGHT",
    "Check",
    "HouseRules",
    "LimitReason",
    "SiteLimits",
    "Span",
    "Windows",
    "check_limits",
    "find_windows",
    "find_windows_each",
    "spans",
]
