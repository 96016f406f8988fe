"""Lanes: how many requests are worked on at a time, how many more may stand in line, and the connections that they need.

Numbers only, since threads and connections are bounded to one another: a thread never waits for a connection that another
waiting thread holds. Not here: the line itself (web.door.desk), or the connections (store.engine).
"""

from dataclasses import dataclass


@dataclass(frozen=True)
class Lane:
    """Requests of one kind.

    Parameters
    ----------
    name : str
    at_work : int
        How many are worked on at a time, each in a thread of its own.
    in_line : int
        How many more may wait for their turn; one more is told to come back.
    waits_at_most_s : float
        How long one waits for its turn before it is told to come back [s].
    """

    name: str
    at_work: int
    in_line: int
    waits_at_most_s: float


# Entries of the crew have a lane of their own: no page and no long change of the office stands before them.
# A foreign program that holds the database stops the lanes that write, never the one that reads.
PAGES = Lane("pages", at_work=2, in_line=16, waits_at_most_s=8.0)
CHANGES = Lane("changes", at_work=2, in_line=16, waits_at_most_s=8.0)
ENTRIES = Lane("entries", at_work=2, in_line=24, waits_at_most_s=8.0)
# What a page hears while it is open, and the page of a fault: short, and never behind the others.
NEWS = Lane("news", at_work=1, in_line=250, waits_at_most_s=30.0)
FAULTS = Lane("faults", at_work=1, in_line=64, waits_at_most_s=8.0)
LANES = (PAGES, CHANGES, ENTRIES, NEWS, FAULTS)

# A request reads in one session and, within it, opens at most one more to write or to read by itself.
_PER_THREAD = 2
# The keeper, a search for a better plan, the planner of all jobs, the first questions at the start.
_BESIDE = 8
CONNECTIONS = _PER_THREAD * sum(lane.at_work for lane in LANES) + _BESIDE
