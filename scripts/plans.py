"""The benchmark of plans: published instances, a job of 24 surfaces, eight jobs at once.

Ratios and optima fail it; times are only reported. Run by `make plans`.
"""

import random
import sys
import time
from pathlib import Path

import numpy as np

sys.path.insert(0, str(Path(__file__).parents[1]))

from tests.support import schedules

from amber_gable.core.planning.solver.listing import listed, placed_in
from amber_gable.core.planning.solver.problem import PlanTask, Problem, Wait
from amber_gable.core.planning.solver.solve import solve
from amber_gable.services.reckonings import find, reckon

DAY, DAYS = 48, 14
STEPS = (
    ("wash", 1, 2, 1, False), ("scrape", 1, 3, 2, False), ("prime", 1, 2, 1, True), ("first", 1, 3, 2, True), ("second", 1, 3, 2, True),
    ("trim", 1, 2, 1, True),
)  # fmt: skip


def dried(length: int, lag: float) -> np.ndarray:
    """By the start, when it is dry: slower at night."""
    out = np.full(DAY * DAYS, -1, dtype=np.int64)
    for start in range(len(out)):
        at, left = start + length, lag
        while left > 0 and at < len(out):
            left -= 1.0 if 16 <= at % DAY <= 36 else 0.4
            at += 1
        out[start] = at if left <= 0 else -1
    return out


def job(surfaces: int, jobs: int, crew: int, seed: int = 1) -> Problem:
    """Return jobs of surfaces with six steps each in the hours of two weeks, a quarter of the days wet."""
    chance, tasks, horizon = random.Random(seed), [], DAY * DAYS * (2 if jobs > 1 else 1)
    wet = {day for day in range(horizon // DAY) if chance.random() < 0.25}
    for n in range(surfaces * jobs):
        opens, before = chance.uniform(0, 3), None
        for name, low, high, hands, is_coat in STEPS:
            length = chance.randint(low, high)
            may = np.zeros(horizon + 1, dtype=bool)
            for day in range(horizon // DAY):
                first, last = (
                    (day * DAY + int(19 + 2 * opens), day * DAY + 34 - length) if is_coat else (day * DAY + 15, day * DAY + 35 - length)
                )
                if not (is_coat and day in wet) and last >= first:
                    may[first : last + 1] = True
            after = ()
            if before is not None:
                lag = chance.randint(4, 10) if is_coat or name == "scrape" else 0
                ready = np.concatenate([dried(before[1], lag)] * (horizon // (DAY * DAYS))) if lag else None
                if ready is not None and jobs > 1:
                    ready[DAY * DAYS :] += DAY * DAYS
                after = (Wait(before[0], 0, ready),)
            i = f"{n}:{name}"
            tasks.append(PlanTask(i, length, hands, {"lift": 1} if n % 3 == 0 and is_coat else {}, may, after))
            before = (i, length)
    return Problem(horizon, crew, {"lift": max(1, jobs // 2)}, tasks)


def row(what: str, *cells: str) -> None:
    print(f"{what:<44}" + "".join(f"{cell:>18}" for cell in cells), flush=True)


def kernel() -> bool:
    is_good = True
    for name, text, optimum, share in (
        ("6x6", schedules.FT06, 55, 1.0),
        ("10x5", schedules.LA01, 666, 1.0),
        ("10x10", schedules.FT10, 930, 1.02),
    ):
        began = time.monotonic()
        answer = reckon(find("schedule"), schedules.job_shop(text)).model_dump()
        is_good &= answer["makespan_steps"] <= optimum * share
        row(f"job shop {name}", f"{answer['makespan_steps']} of {optimum}", answer["status"], f"{time.monotonic() - began:.1f} s")
    began = time.monotonic()
    solved = [reckon(find("schedule"), schedules.project(seed)).model_dump()["status"] for seed in range(20)]
    is_good &= solved == ["optimal"] * 20
    row("20 projects of 30 tasks", f"{solved.count('optimal')} optimal", "", f"{time.monotonic() - began:.1f} s")
    return is_good


def big() -> bool:
    one = job(24, 1, 3)
    began = time.monotonic()
    first = listed(one)
    listed_s = time.monotonic() - began
    row("24 surfaces, 3 people: first plan", f"{first.makespan(one)} steps", f"{len(first.unplaced)} left out", f"{listed_s:.2f} s")
    came = placed_in(one, lambda t: (0.0,))
    began = time.monotonic()
    best = solve(one, 20)
    ratio = best.makespan(one) / came.makespan(one)
    row("  in 20 s, against first come", f"{ratio:.2f}", f"bound {best.bound}", f"{time.monotonic() - began:.1f} s")
    eight = job(20, 8, 9)
    began = time.monotonic()
    plan = listed(eight)
    eight_s = time.monotonic() - began
    row("8 jobs of 20 surfaces: first plan", f"{plan.makespan(eight)} steps", f"{len(plan.unplaced)} left out", f"{eight_s:.2f} s")
    return ratio <= 0.85 and listed_s < 1 and eight_s < 10


if __name__ == "__main__":
    good = [kernel(), big()]
    sys.exit(0 if all(good) else 1)
