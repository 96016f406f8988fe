"""Days: from hours of work to hours on site and working days: set-up, ladder moves, weather.

Not here: hours of a step (systems.work), which days those are (schedule).
"""

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

    References
    ----------
    Handbook 7: set-up and clean-up 1.25 h a day. What is left of a paid day is worked in.
    """
    slack = (work_h + ladder_h) * practice.weather_slack_pct / 100
    left = max(practice.day_h - practice.setup_h, 0.25)
    days = whole((work_h + ladder_h + slack) / (left * painters))
    return Days(work_h, ladder_h, slack, days * practice.setup_h * painters, days, painters)
