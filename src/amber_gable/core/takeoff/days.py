"""Days: from hours of work to hours on site and working days: set-up, ladder moves, weather.

Not here: hours of a step (systems.work), which days those are (schedule).
"""

from collections.abc import Mapping
from dataclasses import dataclass

from amber_gable.core.knowledge import Practice
from amber_gable.core.takeoff.quantity import whole


@dataclass(frozen=True)
class Days:
    """Hours of all painters, and working days of the crew.

    Parameters
    ----------
    work_h : float
        Of the steps.
    ladder_h : float
        Moving ladders, tower or lift, and putting them up.
    slack_h : float
        Lost to weather.
    setup_h : float
        Set-up and clean-up, every day, every painter.
    days : int
    painters : int
    """

    work_h: float
    ladder_h: float
    slack_h: float
    setup_h: float
    days: int
    painters: int

    @property
    def hours(self) -> float:
        return self.work_h + self.ladder_h + self.slack_h + self.setup_h


def days_of(work_h: float, ladder_h: float, painters: int, practice: Practice) -> Days:
    """Return the days a crew needs.

    Parameters
    ----------
    work_h, ladder_h : float
        Of all painters: at the steps, and moving ladders [h].
    painters : int
    practice : Practice
        Paid day, set-up, slack for weather.

    References
    ----------
    Handbook 7: set-up and clean-up 1.25 h a day. What is left of a paid day is worked in.
    """
    slack = (work_h + ladder_h) * practice.weather_slack_pct / 100
    left = max(practice.day_h - practice.setup_h, 0.25)
    days = whole((work_h + ladder_h + slack) / (left * painters))
    return Days(work_h, ladder_h, slack, days * practice.setup_h * painters, days, painters)


@dataclass(frozen=True)
class DayOfWork:
    """One working day: painter-hours of each kind of work, with ladders and weather laid on them evenly."""

    number: int
    hours: tuple[tuple[str, float], ...]


def day_by_day(by_task: Mapping[str, float], days: Days, practice: Practice) -> tuple[DayOfWork, ...]:
    """Return which work falls on which day when one kind follows the other and no day waits for weather.

    Parameters
    ----------
    by_task : mapping of str to float
        Painter-hours by kind of work, in order.
    days : Days
        As `days_of` has them.

    Notes
    -----
    Not a schedule: it says how many hands a day wants, not on which date.
    """
    if not days.work_h:
        return ()
    laid_on = (days.work_h + days.ladder_h + days.slack_h) / days.work_h
    room = max(practice.day_h - practice.setup_h, 0.25) * days.painters
    filled: list[list[tuple[str, float]]] = [[]]
    left = room
    for task, hours in by_task.items():
        rest = hours * laid_on
        while rest > 1e-9:
            if left <= 1e-9:
                filled.append([])
                left = room
            part = min(rest, left)
            filled[-1].append((task, part))
            rest, left = rest - part, left - part
    return tuple(DayOfWork(number, tuple(parts)) for number, parts in enumerate(filled, 1))
