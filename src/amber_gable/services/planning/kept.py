"""What is kept of a job's plan: coats, pieces of work, the finish, as values and as they are written.

Not here: how a plan is made, kept and held against forecasts (schedules).
"""

from collections.abc import Mapping, Sequence
from dataclasses import dataclass, field
from datetime import datetime
from typing import Any

import numpy as np

from amber_gable.core.planning.crew.money import Cost
from amber_gable.services.planning.making.crewplan import PlacedStint


@dataclass(frozen=True)
class Visit:
    """One coat on one surface in a saved schedule.

    Parameters
    ----------
    tasks : tuple of str
        Ids of the steps that are done in it.
    painters : tuple of str
    broken_by : str
        Why it no longer holds by the newest forecast; empty while it does.
    held_by : tuple of str
        What keeps the work on this surface from starting: gates, a test patch.
    """

    surface_id: str
    surface_name: str
    elevation_id: str
    coat: int
    starts_at: datetime
    ends_at: datetime
    last_stroke_at: datetime
    next_coat_from: datetime | None
    set_by: str
    tasks: tuple[str, ...] = ()
    painters: tuple[str, ...] = ()
    broken_by: str = ""
    held_by: tuple[str, ...] = ()

    @property
    def why_then(self) -> str:
        """The reason for the start, in words."""
        return self.set_by

    @classmethod
    def read(cls, row: dict[str, Any]) -> "Visit":
        times = {
            name: None if row[name] is None else datetime.fromisoformat(row[name])
            for name in ("starts_at", "ends_at", "last_stroke_at", "next_coat_from")
        }
        lists = {name: tuple(row.get(name, ())) for name in ("tasks", "painters")}
        return cls(**{**row, **times, **lists})

    def written(self) -> dict[str, Any]:
        out = {k: v for k, v in self.__dict__.items() if k not in ("broken_by", "held_by")}
        return {k: v.isoformat() if isinstance(v, datetime) else list(v) if isinstance(v, tuple) else v for k, v in out.items()}


@dataclass(frozen=True)
class SavedStint:
    """One piece of work in a saved schedule.

    Parameters
    ----------
    id, side, family, stage : str
        As the plan's stints have them; the id ends in "#" and the number of the piece.
    of : int
        How many pieces there are of the stint.
    coat : int
        Of a coat, which one; otherwise 0.
    does : tuple of str
        What is done, step by step, in words.
    places : tuple of str
        Names of where it is done.
    tasks : tuple of str
        Ids of its steps.
    hours : float
        Painter-hours.
    is_expected : bool
        It lies where no forecast reaches.
    """

    id: str
    side: str
    family: str
    stage: str
    of: int
    coat: int
    starts_at: datetime
    ends_at: datetime
    painters: tuple[str, ...]
    hours: float
    set_by: str
    is_expected: bool
    does: tuple[str, ...]
    places: tuple[str, ...]
    tasks: tuple[str, ...]
    equipment: tuple[str, ...]
    ways_up: tuple[str, ...]
    # Put there by hand: it is the last to be moved.
    is_pinned: bool = False
    # Painter-hours of moving ladders, besides.
    moving_h: float = 0.0

    @property
    def piece(self) -> int:
        return int(self.id.rsplit("#", 1)[1])

    @classmethod
    def read(cls, row: dict[str, Any]) -> "SavedStint":
        times = {name: datetime.fromisoformat(row[name]) for name in ("starts_at", "ends_at")}
        values: dict[str, Any] = {k: tuple(v) if isinstance(v, list) else v for k, v in row.items()}
        return cls(**values | times)

    @classmethod
    def of_plan(cls, one: PlacedStint) -> "SavedStint":
        stint = one.stint
        does = tuple(dict.fromkeys(t.label for t in stint.tasks if t.hours))
        places = tuple(dict.fromkeys(t.name for t in stint.tasks if t.hours)) or tuple(dict.fromkeys(t.name for t in stint.tasks))
        return cls(
            one.id, stint.side, stint.family, stint.stage, one.of, stint.coat, one.starts_at, one.ends_at, one.painters,
            round(one.hours, 3), one.set_by, one.is_expected, does, places, tuple(t.id for t in stint.tasks), stint.equipment,
            stint.ways_up, one.is_pinned, round(one.moving_h, 3),
        )  # fmt: skip

    def written(self) -> dict[str, Any]:
        return {k: v.isoformat() if isinstance(v, datetime) else list(v) if isinstance(v, tuple) else v for k, v in self.__dict__.items()}


@dataclass(frozen=True)
class Finish:
    """When a job is expected to end: by half and by four fifths of the courses of the weather; None where it does not within the plan."""

    half_at: datetime | None = None
    most_at: datetime | None = None

    @classmethod
    def of(cls, ends: Sequence[datetime], courses: int) -> "Finish":
        def by(share: float) -> datetime | None:
            place = int(np.ceil(share * courses)) - 1
            return ends[place] if place < len(ends) else None

        return cls(by(0.5), by(0.8))

    @classmethod
    def read(cls, row: dict[str, Any]) -> "Finish":
        return cls(*(datetime.fromisoformat(row[k]) if row.get(k) else None for k in ("half_at", "most_at")))

    def written(self) -> dict[str, Any]:
        return {k: v.isoformat() if v else None for k, v in self.__dict__.items()}


@dataclass(frozen=True)
class SavedSchedule:
    """What is kept of a job's plan.

    Parameters
    ----------
    visits : list of Visit
        Coats of surfaces that lie within the forecast.
    stints : list of SavedStint
        All work, by its start.
    unplaced : list of dict
        What has no place: where, and why; "hours" of it.
    finish : Finish
    moves : tuple of dict
        What the last planning moved: from when to when, and why.
    gone : tuple of dict
        Pieces that are in no plan any more though their time is still to come.
    """

    made_at: datetime
    forecast_issued_at: datetime
    painters: int
    visits: list[Visit]
    unplaced: list[dict[str, Any]]
    stints: list[SavedStint]
    finish: Finish
    moves: tuple[dict[str, Any], ...] = ()
    gone: tuple[dict[str, Any], ...] = ()
    # Raised by every change: what a calendar tells a new version by.
    version: int = 1
    # Of the plan of all jobs together; and before when this one cannot end, however many painters there were.
    cost: Cost | None = None
    not_before: datetime | None = None
    # A mark of each surface's colour then; and what gates opened or shut since the plan before, in words.
    colours: Mapping[str, str] = field(default_factory=dict)
    news: tuple[str, ...] = ()
    # Why it was mended by itself, in words; empty where somebody planned.
    because: tuple[str, ...] = ()
    # Work that it took for not done when it was mended by itself: it is asked for all the same.
    asked: tuple[SavedStint, ...] = ()

    @property
    def is_broken(self) -> bool:
        return any(v.broken_by for v in self.visits)
