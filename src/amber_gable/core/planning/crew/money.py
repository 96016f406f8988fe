"""What a plan costs: paid hours, overtime, hire, coats that will fail, days that jobs stay open, promised days missed.

Wages of the work itself are the same in any plan; plans differ in what is paid for waiting and ways, and in all the rest.
Not here: how plans are made (dispatch), how better ones are found (search).
"""

from collections.abc import Mapping, Sequence
from dataclasses import dataclass, field, fields
from datetime import date, timedelta

import numpy as np
from numpy.typing import NDArray

from amber_gable.core.knowledge.assumptions import assumed
from amber_gable.core.planning.crew.dispatch import STEP_H
from amber_gable.core.planning.crew.machines import Machine, hires
from amber_gable.core.planning.crew.values import CrewTask, Stretch

_OVERTIME_SHARE, _REDO_SHARE = assumed("overtime_share"), assumed("redo_share")
_OPEN_DAY_H, _MISSING_SHARE = assumed("open_day_h"), assumed("missing_share")


@dataclass(frozen=True)
class Promise:
    """The day by which a job is promised, and what each day later costs."""

    day: date
    late_per_day: float


@dataclass(frozen=True)
class Terms:
    """What things cost.

    Parameters
    ----------
    wage_per_h : float
        Of a painter, with all that is paid on top.
    day_h : float
        Paid hours of a day; what is more is overtime.
    setup_h : float
        Of a painter on each day at a job, for setting up and cleaning up.
    days : sequence of date
        Of each step of the plan, at its place.
    machines : mapping of str to Machine
        Hired ones by the names under which work takes them.
    promises : mapping of str to Promise
        By job.
    """

    wage_per_h: float
    day_h: float
    setup_h: float
    days: Sequence[date]
    machines: Mapping[str, Machine] = field(default_factory=dict)
    promises: Mapping[str, Promise] = field(default_factory=dict)


@dataclass(frozen=True)
class Cost:
    """What a plan costs, part by part, in the contractor's money.

    Parameters
    ----------
    wages : float
        Of all paid hours: from the first to the last work of each day, and setting up.
    overtime : float
        What overtime costs more.
    hire, rework, late : float
        `rework` is what failing coats are expected to cost.
    open_days : float
        Of the days until each job is done.
    missing : float
        Of work that the plan leaves out, as if it were done later by itself.
    waiting_h : float
        Of the paid hours, those in which nobody works: ways between houses, and waits.
    """

    wages: float = 0.0
    overtime: float = 0.0
    hire: float = 0.0
    rework: float = 0.0
    late: float = 0.0
    open_days: float = 0.0
    missing: float = 0.0
    waiting_h: float = 0.0

    @property
    def total(self) -> float:
        return float(sum(getattr(self, f.name) for f in fields(self) if f.name != "waiting_h"))


def cost_of(plan: Mapping[str, Stretch], tasks: Mapping[str, CrewTask], terms: Terms) -> Cost:
    """Return what a plan costs.

    Parameters
    ----------
    plan : mapping of str to Stretch
        By task.
    tasks : mapping of str to CrewTask
        All of them; those that are not in the plan are missing.
    """
    wages, overtime, waiting_h = _pay(plan, tasks, terms)
    missing_h = sum(task.hours for i, task in tasks.items() if i not in plan)
    ends: dict[str, int] = {}
    for i, at in plan.items():
        ends[tasks[i].job] = max(ends.get(tasks[i].job, 0), at.end)
    first = terms.days[0]
    open_days = sum((terms.days[min(end, len(terms.days)) - 1] - first).days + 1 for end in ends.values())
    return Cost(
        wages, overtime, _hire(plan, tasks, terms), _rework(plan, tasks, terms), _late(ends, terms),
        open_days * _OPEN_DAY_H * terms.wage_per_h, missing_h * _MISSING_SHARE * terms.wage_per_h, waiting_h,
    )  # fmt: skip


def _pay(plan: Mapping[str, Stretch], tasks: Mapping[str, CrewTask], terms: Terms) -> tuple[float, float, float]:
    """Return wages, what overtime costs more, and the paid hours without work."""
    spans: dict[tuple[str, date], list[tuple[int, int, str]]] = {}
    for i, at in plan.items():
        for name in at.painters:
            spans.setdefault((name, terms.days[at.start]), []).append((at.start, at.end, tasks[i].job))
    paid = over = idle = 0.0
    for of_day in spans.values():
        begun, ended = min(s for s, _, _ in of_day), max(e for _, e, _ in of_day)
        setup_h = terms.setup_h * len({job for _, _, job in of_day})
        hours = (ended - begun) * STEP_H + setup_h
        paid += hours
        over += max(hours - terms.day_h, 0.0)
        idle += (ended - begun - sum(e - s for s, e, _ in of_day)) * STEP_H
    return paid * terms.wage_per_h, over * _OVERTIME_SHARE * terms.wage_per_h, idle


def _hire(plan: Mapping[str, Stretch], tasks: Mapping[str, CrewTask], terms: Terms) -> float:
    used: dict[str, list[date]] = {}
    for i, at in plan.items():
        for key in tasks[i].gear:
            if key in terms.machines:
                used.setdefault(key, []).append(terms.days[at.start])
    # What is reserved is paid whatever the plan does with it.
    return sum(h.cost for key, days in used.items() for h in hires(days, terms.machines[key], key.split("@")[-1]) if not h.is_reserved)


def _rework(plan: Mapping[str, Stretch], tasks: Mapping[str, CrewTask], terms: Terms) -> float:
    lost_h = 0.0
    for i, at in plan.items():
        risk = tasks[i].risk
        if risk is not None:
            lost_h += float(risk[at.start : at.end].max()) * tasks[i].hours * (1 + _REDO_SHARE)
    return lost_h * terms.wage_per_h


def _late(ends: Mapping[str, int], terms: Terms) -> float:
    out = 0.0
    for job, end in ends.items():
        promise = terms.promises.get(job)
        if promise is not None:
            out += max((terms.days[min(end, len(terms.days)) - 1] - promise.day).days, 0) * promise.late_per_day
    return out


def days_in(first: date, first_step_of_day: int, count: int) -> tuple[date, ...]:
    """Return the day of each step of a plan.

    Parameters
    ----------
    first : date
        Of its first step.
    first_step_of_day : int
        How many quarter-hours of that day lie before it.
    """
    steps: NDArray[np.int64] = (np.arange(count) + first_step_of_day) // round(24 / STEP_H)
    return tuple(first + timedelta(days=int(n)) for n in steps)
