"""How long tests may take: by how fast this machine is in this minute, and whether it is the short or the long run.

What a timed test may take is stretched by `slowness`, never tightened.
"""

import os
import sys
import time
from collections.abc import Callable
from types import FrameType

# What `plain_work` takes on the machine that the limits were set on, with nothing beside it [s].
_NOMINAL_S = 0.0022


# What a test may take of the processor, and a journey in the browser, if it does not say that it takes longer ("takes") [s].
QUICK_S, JOURNEY_S = 3.0, 30.0


def plain_work() -> float:
    """Return the CPU seconds of a fixed piece of plain Python: looking up, calling, building."""
    rows = {f"key-{i}": (i, str(i)) for i in range(400)}
    start = time.process_time()
    for _ in range(40):
        found = [len(rows[key][1]) + rows[key][0] for key in rows if key in rows]
        sorted(found, reverse=True)
    return time.process_time() - start


def slowness() -> float:
    """Return by what factor the machine is slower than the limits' own, at least 1."""
    return max(min(plain_work() for _ in range(5)) / _NOMINAL_S, 1.0)


def calls(work: Callable[[], object]) -> int:
    """Return how many calls some work is made of: the same on each machine, whatever runs beside."""
    count = 0

    def counted(frame: FrameType, event: str, given: object) -> None:
        nonlocal count
        count += event in ("call", "c_call")

    sys.setprofile(counted)
    try:
        work()
    finally:
        sys.setprofile(None)
    return count


def is_crowded() -> bool:
    """Return whether so much wants this machine's cores that seconds of the processor measure the others."""
    return os.getloadavg()[0] > 2.5 * (os.cpu_count() or 1)


def is_long() -> bool:
    """Say whether this is the long run (`make soak`)."""
    return bool(os.environ.get("AMBER_GABLE_LONG_TESTS"))


def examples(count: int) -> int:
    """Return how many examples a property is tried on: all in the long run, a third in `make test`."""
    return count if is_long() else max(count // 3, 10)
