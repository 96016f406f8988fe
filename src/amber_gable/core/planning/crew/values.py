"""What a dispatcher is given and gives back: work with its hours and waits, painters, habits, stretches of work by whom."""

from collections.abc import Mapping, Sequence
from dataclasses import dataclass

import numpy as np
from numpy.typing import NDArray

from amber_gable.core.knowledge.assumptions import assumed


@dataclass(frozen=True)
class AfterTask:
    """A wait for another task.

    Parameters
    ----------
    task : str
    ready_at : ndarray of int, shape (Q + 1,), or None
        By the step the other task ended at, the step at which the wait is over; more than Q where that lies beyond the plan.
        None where its end is enough.
    why : str
    """

    task: str
    ready_at: NDArray[np.integer] | None
    why: str


@dataclass(frozen=True)
class CrewTask:
    """A piece of work for one or more painters.

    Parameters
    ----------
    id, job, side : str
    hours : float
        Painter-hours.
    crew : tuple of int
        Fewest and most painters.
    gear : tuple of str
        Machines that it takes for itself, one of each.
    may : ndarray of bool, shape (Q,)
        Quarter-hours in which it may be worked at.
    after : sequence of AfterTask
    release : int
    is_wet : bool
        A coat: the weather lets it through seldom.
    tail_h : float
        Work that hangs on it, itself included.
    needs : tuple of str
        Skills that each of its painters must have.
    one_with : tuple of str
        Skills of which each must be had by one of them.
    risk : ndarray, shape (Q,), optional
        Of a coat, how likely a stroke at each step is spoilt by what comes after.
    """

    id: str
    job: str
    side: str
    hours: float
    crew: tuple[int, int]
    gear: tuple[str, ...]
    may: NDArray[np.bool_]
    after: Sequence[AfterTask] = ()
    release: int = 0
    is_wet: bool = False
    tail_h: float = 0.0
    needs: tuple[str, ...] = ()
    one_with: tuple[str, ...] = ()
    risk: NDArray[np.float64] | None = None


@dataclass(frozen=True)
class Habits:
    """How a foreman sends a crew; the usual ones are our assumptions.

    Parameters
    ----------
    patience_steps : int
        So long a crew waits on a job for its next work before it goes elsewhere.
    worth_the_way_h : float
        Painter-hours of coats for which a crew is sent to another house.
    each_h : float
        So many hours each painter at a piece of work has of it at least.
    worth_a_day_h : float
        Of work that a painter finds at a house on a day, to be sent there; less and less the longer it lies. Usually none:
        small work is done while the weather lets it.
    """

    patience_steps: int = int(assumed("patience_quarters"))
    worth_the_way_h: float = assumed("worth_the_way_h")
    each_h: float = assumed("stint_each_h")
    worth_a_day_h: float = 0.0


@dataclass(frozen=True)
class Painter:
    """A painter.

    Parameters
    ----------
    name : str
    works : ndarray of bool, shape (Q,), or None
        Quarter-hours that this one works; None for all.
    skills : mapping of str to int, or None
        What this one may do, each with the step at which it runs out; None for everything.
    """

    name: str
    works: NDArray[np.bool_] | None = None
    skills: Mapping[str, int] | None = None

    def has(self, skills: Sequence[str], end: int) -> bool:
        """Return whether this one may do what takes some skills, until a step."""
        return self.skills is None or all(self.skills.get(skill, -1) >= end for skill in skills)


@dataclass(frozen=True)
class Stretch:
    """A task placed: from a step to another (exclusive), by whom, what its start waited for, and whether somebody put it there by hand."""

    task: str
    start: int
    end: int
    painters: tuple[str, ...]
    set_by: str
    is_pinned: bool = False
