"""Rules: which of them hold for a surface, and what they decide together.

Every decision keeps the rule that made it, the tags it held by, and what it overruled.
Not here: the order of steps and their waits (specify), or what a rule asks (knowledge/tables/systems/rules).
"""

from collections.abc import Iterable, Mapping, Sequence
from dataclasses import dataclass
from functools import lru_cache
from typing import Any

from amber_gable.core.knowledge import Knowledge, SystemRule
from amber_gable.core.systems.tags import Tags, is_late, options

# What rules settle by priority, one value each.
SLOTS = ("primer", "spot", "bare_primer", "undercoats", "undercoat_wait_h", "finish", "coats", "sealers", "sheen", "technique", "method",
         "wait_h", "dry_h", "tacky", "tint")  # fmt: skip
_LEVEL = {"none": 0, "spot": 1, "full": 2}


@dataclass(frozen=True)
class Reason:
    """Why something was decided.

    Parameters
    ----------
    rule : str
        Of the rules table; "" for what a painter decided.
    why : str
    because : tuple of str
        What it held by, in words.
    school : str
        The house rule that would change it; empty for none.
    source : str
    """

    rule: str
    why: str
    because: tuple[str, ...]
    school: str
    source: str


@dataclass(frozen=True)
class Decision:
    """A value, the reason for it, and the reasons that spoke for another one."""

    value: Any
    reason: Reason
    overruled: tuple[tuple[Any, Reason], ...] = ()


@dataclass(frozen=True)
class Match:
    """A rule that holds, and what it settles."""

    rule: SystemRule
    reason: Reason
    slots: tuple[str, ...] = ()


class _Table:
    """A table of rules, told apart by being the same one: a contractor's own prices leave it as it is."""

    def __init__(self, rules: Mapping[str, SystemRule]) -> None:
        self.rules = rules

    def __hash__(self) -> int:
        return id(self.rules)

    def __eq__(self, other: object) -> bool:
        return isinstance(other, _Table) and self.rules is other.rules


@dataclass(frozen=True)
class _Read:
    """A rule read once for every surface: the tags each of its conditions takes, and what it settles."""

    name: str
    rule: SystemRule
    needed: tuple[tuple[str, ...], ...]
    one_of: tuple[tuple[str, ...], ...]
    unless: frozenset[str]
    slots: tuple[str, ...]


@lru_cache(maxsize=8)
def _read(table: _Table) -> tuple[tuple[_Read, ...], tuple[_Read, ...]]:
    """Return the rules that are asked first, and those that ask what the first chose."""
    reads: tuple[list[_Read], list[_Read]] = ([], [])
    for name, rule in table.rules.items():
        late = any(map(is_late, (*rule.when, *rule.any, *rule.unless)))
        unless = frozenset(tag for condition in rule.unless for tag in options(condition))
        slots = tuple(slot for slot in SLOTS if getattr(rule, slot) is not None)
        reads[late].append(_Read(name, rule, tuple(map(options, rule.when)), tuple(map(options, rule.any)), unless, slots))
    return tuple(reads[0]), tuple(reads[1])


def _met(read: _Read, said: Mapping[str, str]) -> list[str] | None:
    """Return the tags by which a rule holds, or None."""
    met = []
    for tags in read.needed:
        for tag in tags:
            if tag in said:
                met.append(tag)
                break
        else:
            return None
    if not read.unless.isdisjoint(said):
        return None
    if read.one_of:
        one = next((tag for tags in read.one_of for tag in tags if tag in said), None)
        return None if one is None else [*met, one]
    return met


def matching(knowledge: Knowledge, tags: Tags, late: bool) -> list[Match]:
    """Return the rules that hold, of those that are late or of those that are not.

    Parameters
    ----------
    tags : Tags
        Of the surface.
    late : bool
        Rules that ask for what is known once steps were chosen.
    """
    matches = []
    said = tags.said
    for read in _read(_Table(knowledge.systems.rules))[late]:
        met = _met(read, said)
        if met is not None:
            rule = read.rule
            because = tuple(dict.fromkeys(said[tag] for tag in met))
            matches.append(Match(rule, Reason(read.name, rule.why, because, rule.school, rule.source), read.slots))
    return matches


def decide(matches: Iterable[Match]) -> dict[str, Decision]:
    """Return what the rule of the highest priority says of each thing; of equals, the one that asks more."""
    spoken: dict[str, list[tuple[Match, Any]]] = {}
    for match in matches:
        for slot in match.slots:
            spoken.setdefault(slot, []).append((match, getattr(match.rule, slot)))
    return {slot: _decided(spoken[slot]) for slot in SLOTS if slot in spoken}


def _decided(spoken: list[tuple[Match, Any]]) -> Decision:
    spoken.sort(key=lambda pair: (-pair[0].rule.priority, -len(pair[0].rule.when), pair[0].reason.rule))
    first, value = spoken[0]
    others = tuple((v, m.reason) for m, v in spoken[1:] if v != value and m.rule.priority > 10)
    return Decision(value, first.reason, others)


def prime_level(matches: Sequence[Match]) -> Decision:
    """Return how far it is primed: the most that is asked above the highest rule that says "none"."""
    asked = [m for m in matches if m.rule.prime is not None]
    floor = max((m.rule.priority for m in asked if m.rule.prime == "none"), default=-1)
    above = [m for m in asked if m.rule.prime != "none" and m.rule.priority > floor]
    if not above:
        none = max((m for m in asked if m.rule.prime == "none"), key=lambda m: m.rule.priority, default=None)
        overruled = tuple((m.rule.prime, m.reason) for m in asked if m.rule.prime != "none")
        reason = none.reason if none else Reason("", "Nothing asks for a primer.", (), "", "handbook 5")
        return Decision("none", reason, overruled)
    most = max(above, key=lambda m: (_LEVEL[str(m.rule.prime)], m.rule.priority))
    return Decision(most.rule.prime, most.reason, tuple((m.rule.prime, m.reason) for m in asked if m.rule.prime != most.rule.prime))


def least_coats(matches: Iterable[Match]) -> Decision | None:
    """Return the most coats that any rule asks for at least."""
    asked = [m for m in matches if m.rule.least_coats is not None]
    most = max(asked, key=lambda m: m.rule.least_coats or 0, default=None)
    return None if most is None else Decision(most.rule.least_coats, most.reason)


def chosen_steps(matches: Iterable[Match]) -> tuple[dict[str, list[Reason]], dict[str, list[Reason]]]:
    """Return the steps that are added, each with all its reasons, and those that a rule forbids, with theirs.

    A step stands unless a rule of at least the priority of whoever wants it most drops it.
    """
    wanted: dict[str, list[tuple[int, Reason]]] = {}
    unwanted: dict[str, list[tuple[int, Reason]]] = {}
    for m in matches:
        for key in m.rule.add:
            wanted.setdefault(key, []).append((m.rule.priority, m.reason))
        for key in m.rule.drop:
            unwanted.setdefault(key, []).append((m.rule.priority, m.reason))
    standing = {}
    for key, pairs in wanted.items():
        against = max((p for p, _ in unwanted.get(key, [])), default=-1)
        if against < max(p for p, _ in pairs):
            standing[key] = [r for _, r in sorted(pairs, key=lambda pair: -pair[0])]
    forbidden = {key: [r for _, r in sorted(pairs, key=lambda pair: -pair[0])] for key, pairs in unwanted.items() if key not in standing}
    return standing, forbidden
