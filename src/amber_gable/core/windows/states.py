"""Open, tight, shut: what the checks make of each quarter-hour, and the reasons on request.

States are kept as small integers with the worst lowest, so that the worst of several is their
minimum. Reasons are made only for the surface and hour somebody asks about.
"""

from collections.abc import Sequence
from dataclasses import dataclass, replace

import numpy as np
from numpy.typing import NDArray

from amber_gable.core.air.humid import Array
from amber_gable.core.knowledge import Product
from amber_gable.core.wall.climate import Climate
from amber_gable.core.windows.check import Check, HouseRules
from amber_gable.core.windows.limits import check_limits
from amber_gable.core.windows.rules import rule

SHUT, TIGHT, OPEN = 0, 1, 2
STATE_NAMES = ("shut", "tight", "open")

States = NDArray[np.int8]


@dataclass(frozen=True)
class LimitReason:
    """Why an hour is shut or tight: the rule, what it is, what it may be, how far off.

    `margin` is negative when broken; `severity` is the margin over its band, for ranking.
    """

    rule: str
    value: float
    limit: float
    margin: float
    broken: bool
    severity: float


@dataclass(frozen=True)
class Windows:
    """States of S surfaces at Q quarter-hours, with what they rest on.

    Parameters
    ----------
    climate : Climate
    checks : list of Check
    states : ndarray of int8, shape (S, Q)
        0 shut, 1 tight, 2 open.
    products : tuple of Product, length S
    """

    climate: Climate
    checks: list[Check]
    states: States
    products: tuple[Product, ...]

    def reasons(self, surface: int, first: int, last: int | None = None) -> list[LimitReason]:
        """Return why quarter-hours `first` to `last` (exclusive) are not open, worst first.

        A rule broken or tight several times speaks once, at its worst.
        """
        span = range(first, first + 1 if last is None else max(last, first + 1))
        worst: dict[str, LimitReason] = {}
        for check in self.checks:
            row = 0 if check.margin.shape[0] == 1 else surface
            for q in span:
                margin = float(check.margin[row, q])
                broken = margin < 0
                if not broken and (check.is_tight is None or not check.is_tight[0 if check.is_tight.shape[0] == 1 else surface, q]):
                    continue
                reason = LimitReason(check.rule, check.value(surface, q), check.limit_of(surface, q), margin, broken, margin / check.band)
                # Broken comes before tight, whatever the bands.
                worst_yet = worst.get(check.rule)
                if worst_yet is None or (not reason.broken, reason.severity) < (not worst_yet.broken, worst_yet.severity):
                    worst[check.rule] = reason
        return sorted(worst.values(), key=lambda r: (not r.broken, r.severity))

    def also(self, check: Check) -> "Windows":
        """Return the windows with one more check of their surfaces, which shuts what it finds broken."""
        states = np.where(check.margin < 0, np.int8(SHUT), self.states)
        return replace(self, checks=[*self.checks, check], states=states)

    def check(self, name: str) -> Check:
        """Return the check of a rule, the first of its aspects."""
        return next(c for c in self.checks if c.rule == name)

    def closest(self, surface: int, first: int, last: int) -> LimitReason:
        """Return the limit that quarter-hours `first` to `last` (exclusive) come nearest to, by its margin over its band.

        Daylight and the end of the forecast are no limits that one comes near to by degrees.
        """
        nearest: list[LimitReason] = []
        for check in self.checks:
            # What has no band (rain that falls, dew within four hours) is kept or broken, with nothing between.
            if not rule(check.rule).by_degrees or check.aspect:
                continue
            row = check.margin[0 if check.margin.shape[0] == 1 else surface, first:last]
            q = first + int(np.argmin(row))
            margin = float(row.min())
            if np.isfinite(margin):
                limit, value = check.limit_of(surface, q), check.value(surface, q)
                nearest.append(LimitReason(check.rule, value, limit, margin, margin < 0, margin / check.band))
        return min(nearest, key=lambda r: r.severity)

    def binding(self) -> NDArray[np.int8]:
        """Return which check speaks first in each quarter-hour, shape (S, Q); -1 where open.

        The same order as `reasons`: broken before tight, then the least margin over its band.
        """
        shape = self.states.shape
        best = np.full(shape, np.inf)
        which = np.full(shape, -1, dtype=np.int8)
        for index, check in enumerate(self.checks):
            severity = check.margin / check.band
            tight = np.inf if check.is_tight is None else np.where(check.is_tight, severity, np.inf)
            # Far below any tight severity, so that broken always wins.
            rank = np.broadcast_to(np.where(check.margin < 0, severity - 1e6, tight), shape)
            worse = rank < best
            best = np.where(worse, rank, best)
            which[worse] = index
        return which

    def chance_of_rain_pct(self, surface: int) -> Array:
        """Return the chance of rain on a coat put on at each instant, while it can be harmed, shape (Q,) [%]."""
        check = self.check("rain")
        assert check.values is not None, "a chance is always kept"
        result: Array = check.values[0 if check.values.shape[0] == 1 else surface]
        return result

    def runs(self, surface: int) -> list[tuple[int, int]]:
        """Return run-length states: (first quarter, state) wherever the state changes."""
        row = self.states[surface]
        starts = np.flatnonzero(np.diff(row)) + 1
        return [(int(q), int(row[q])) for q in (0, *starts)]


def find_windows(climate: Climate, product: Product, rules: HouseRules) -> Windows:
    """Return the state of every surface and quarter-hour.

    Parameters
    ----------
    climate : Climate
        S surfaces, Q quarter-hours.
    product : Product
    rules : HouseRules
    """
    checks = check_limits(climate, product, rules)
    states = states_of(checks, climate.surface_temp_c.shape)
    return Windows(climate, checks, states, (product,) * states.shape[-2])


def states_of(checks: Sequence[Check], shape: tuple[int, ...]) -> States:
    """Return the state that checks make of every surface and quarter-hour: the worst of what they say, shape as given.

    Parameters
    ----------
    checks : sequence of Check
        Margins of shape (S or 1, Q).
    shape : tuple of int
        (S, Q), with members before them where there are.
    """
    states = np.full(shape, OPEN, dtype=np.int8)
    for check in checks:
        if check.is_tight is not None:
            np.minimum(states, np.where(check.is_tight, TIGHT, OPEN).astype(np.int8), out=states)
    for check in checks:
        states[np.broadcast_to(check.margin < 0, states.shape)] = SHUT
    return states


def find_windows_each(climate: Climate, products: Sequence[Product], rules: HouseRules | Sequence[HouseRules]) -> Windows:
    """Return the state of every surface and quarter-hour, each surface by its own label and limits.

    Parameters
    ----------
    products : sequence of Product, length S
    rules : HouseRules, or sequence of them, length S
        Those of one climate ask for the same more.
    """
    each = (rules,) * len(products) if isinstance(rules, HouseRules) else tuple(rules)
    pairs = list(zip(products, each, strict=True))
    if all(pair == pairs[0] for pair in pairs):
        return find_windows(climate, *pairs[0])
    count, instants = climate.surface_temp_c.shape
    states = np.empty((count, instants), dtype=np.int8)
    parts: list[tuple[list[int], Windows]] = []
    for pair in dict.fromkeys(pairs):
        rows = [i for i, p in enumerate(pairs) if p == pair]
        windows = find_windows(climate.of_surfaces(rows), *pair)
        states[rows] = windows.states
        parts.append((rows, windows))
    names = list(dict.fromkeys((c.rule, c.aspect) for _, w in parts for c in w.checks))
    checks = []
    for name in names:
        of = [(rows, check) for rows, w in parts for check in w.checks if (check.rule, check.aspect) == name]
        checks.append(_joined(of, count, instants))
    return Windows(climate, checks, states, tuple(products))


def _joined(parts: Sequence[tuple[list[int], Check]], count: int, instants: int) -> Check:
    """Return one rule's check of several products as one check of all surfaces; those it does not concern are far from it."""
    by_instant = any(isinstance(c.limit, np.ndarray) and c.limit.ndim == 2 for _, c in parts)
    limit: NDArray[np.float64] = np.zeros((count, instants)) if by_instant else np.zeros(count)
    margin = np.full((count, instants), np.inf)
    tight = np.zeros((count, instants), dtype=bool)
    for rows, check in parts:
        bound = check.limit
        limit[rows] = bound[:, None] if by_instant and isinstance(bound, np.ndarray) and bound.ndim == 1 else bound
        margin[rows] = check.margin
        if check.is_tight is not None:
            tight[rows] = check.is_tight
    first = parts[0][1]
    is_tight = tight if any(c.is_tight is not None for _, c in parts) else None
    values: NDArray[np.float64] | None = None
    if first.values is not None:
        values = np.zeros((count, instants))
        for rows, check in parts:
            values[rows] = check.values
    return Check(first.rule, limit, margin, first.band, is_tight, first.sense, first.aspect, values)
