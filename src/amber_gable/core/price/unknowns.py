"""Unknowns: what a survey has left open, and by how much each could move the cost of a job, with the reason.

Pure functions; costs in the contractor's money, before overhead, margin and tax.
Not here: how they add up to a range (range), or what a what-if computes again in full (services).
"""

from collections.abc import Sequence
from dataclasses import dataclass

from amber_gable.core.knowledge.assumptions import assumed
from amber_gable.core.systems.facts import Facts
from amber_gable.units import System, convert, show_names

_HOURS, _HIGH = assumed("hours_share"), assumed("high_hours_share")
_FAILED, _UNKNOWN_H_M2 = assumed("failed_test_share"), assumed("unknown_coating_h_m2")
_OLD_Y, _OLD_SHARE_Y, _OLD_MOST = assumed("old_from_y"), assumed("old_share_y"), assumed("old_share_most")
_HIRE = assumed("hire_share")


@dataclass(frozen=True)
class PartWork:
    """Work on one part as it is priced now.

    Parameters
    ----------
    name : str
    facts : Facts
    preparation_h, all_h : float
        Painter-hours before the primer, and of everything.
    area_m2, high_share : float
    """

    name: str
    facts: Facts
    preparation_h: float
    all_h: float
    area_m2: float
    high_share: float


@dataclass(frozen=True)
class Unknown:
    """Something left open: how much less and how much more the job could cost for it."""

    key: str
    label: str
    less: float
    more: float


def unknowns(
    parts: Sequence[PartWork], year_built: int | None, this_year: int, hire: float, hired: str, labour_per_h: float, system: System
) -> list[Unknown]:
    """Return what is not known of a job that is measured, each with its reason.

    Parameters
    ----------
    parts : sequence of PartWork
    year_built : int or None
        None is taken as old as what is called old.
    this_year : int
    hire : float
        Of ways up [money].
    hired : str
        What is hired, in words; empty for nothing.
    labour_per_h : float
    system : {"us", "metric"}
        In which reasons speak of heights.
    """
    out = []
    hours = sum(p.all_h for p in parts) * _HOURS * labour_per_h
    out.append(Unknown("pace", "Pace of the work, from job to job", hours, hours))
    high_h = sum(p.all_h * p.high_share for p in parts)
    if high_h:
        top = max(p.facts.top_m for p in parts)
        top_said = f"{convert(top, 'm', 'ft'):.0f} ft" if system == "us" else f"{top:.1f} m"
        said = f"Height: {high_h:.0f} h above the first storey, up to {top_said}"
        out.append(Unknown("height", said, high_h * _HIGH * labour_per_h, high_h * _HIGH * labour_per_h))
    failed = [p for p in parts if any(result in ("fail", "doubt") for result in p.facts.tests.values())]
    if failed:
        more = sum(p.preparation_h for p in failed) * _FAILED * labour_per_h
        out.append(Unknown("tests", f"Tests that failed or are in doubt: {show_names([p.name for p in failed])}", 0.0, more))
    dark = [p for p in parts if p.facts.coating == "unknown"]
    if dark:
        more = sum(p.area_m2 for p in dark) * _UNKNOWN_H_M2 * labour_per_h
        out.append(Unknown("coating", f"Old coating not known: {show_names([p.name for p in dark])}", 0.0, more))
    age = this_year - year_built if year_built else _OLD_Y + 25
    if age > _OLD_Y:
        more = sum(p.preparation_h for p in parts) * min((age - _OLD_Y) * _OLD_SHARE_Y, _OLD_MOST) * labour_per_h
        said = f"Built {year_built}: many coats below" if year_built else "Year built not known: many coats may lie below"
        out.append(Unknown("age", said, 0.0, more))
    if hire:
        out.append(Unknown("access", f"Hire of {hired}: days and what it costs then", hire * _HIRE, hire * _HIRE))
    return out
