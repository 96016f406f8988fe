"""An independent checker of the `schedule` reckoning, a search of all plans for tiny ones, and random and published instances.

Reads requests and answers as JSON; shares no code with the solver.
"""

import itertools
import random

# Fisher and Thompson (1963), 6x6, optimum 55, and 10x10, optimum 930; Lawrence (1984) LA01, 10x5, optimum 666: (machine, time) by job.
FT06 = """2 1 0 3 1 6 3 7 5 3 4 6
1 8 2 5 4 10 5 10 0 10 3 4
2 5 3 4 5 8 0 9 1 1 4 7
1 5 0 5 2 5 3 3 4 8 5 9
2 9 1 3 4 5 5 4 0 3 3 1
1 3 3 3 5 9 0 10 4 4 2 1"""
LA01 = """1 21 0 53 4 95 3 55 2 34
0 21 3 52 4 16 2 26 1 71
3 39 4 98 1 42 2 31 0 12
1 77 0 55 4 79 2 66 3 77
0 83 3 34 2 64 1 19 4 37
1 54 2 43 4 79 0 92 3 62
3 69 4 77 1 87 2 87 0 93
2 38 0 60 1 41 3 24 4 83
3 17 1 49 4 25 0 44 2 98
4 77 3 79 2 43 1 75 0 96"""
FT10 = """0 29 1 78 2 9 3 36 4 49 5 11 6 62 7 56 8 44 9 21
0 43 2 90 4 75 9 11 3 69 1 28 6 46 5 46 7 72 8 30
1 91 0 85 3 39 2 74 8 90 5 10 7 12 6 89 9 45 4 33
1 81 2 95 0 71 4 99 6 9 8 52 7 85 3 98 9 22 5 43
2 14 0 6 1 22 5 61 3 26 4 69 8 21 7 49 9 72 6 53
2 84 1 2 5 52 3 95 8 48 9 72 0 47 6 65 4 6 7 25
1 46 0 37 3 61 2 13 6 32 5 21 9 32 8 89 7 30 4 55
2 31 0 86 1 46 5 74 4 32 6 88 8 19 9 48 7 36 3 79
0 76 1 69 3 76 5 51 2 85 9 11 6 40 7 89 4 26 8 74
1 85 0 13 2 61 6 7 8 64 9 76 5 47 3 52 4 90 7 45"""


def job_shop(text: str, horizon: int = 2000) -> dict:
    """Return a published job shop as a request."""
    tasks, machines = [], set()
    for job, line in enumerate(text.splitlines()):
        numbers = [int(n) for n in line.split()]
        for nth, (machine, length) in enumerate(zip(numbers[::2], numbers[1::2], strict=True)):
            machines.add(f"m{machine}")
            after = [{"task": f"{job}.{nth - 1}"}] if nth else []
            tasks.append({"id": f"{job}.{nth}", "duration_steps": length, "equipment": [f"m{machine}"], "after": after})
    equipment = dict.fromkeys(sorted(machines), 1)
    return {"step_min": 30, "horizon_steps": horizon, "crew": 0, "equipment": equipment, "tasks": tasks, "time_limit_s": 20, "seed": 0}


def project(seed: int, count: int = 30) -> dict:
    """Return a project of tasks with waits and four scarce resources, as in the sets that projects are compared by."""
    chance = random.Random(seed)
    names = ("a", "b", "c", "d")
    tasks = []
    for n in range(count):
        near = range(max(0, n - 8), n)
        after = [{"task": str(k)} for k in chance.sample(near, min(n, chance.choice([1, 1, 2, 2, 3])))]
        units = {name: chance.randint(1, 10) for name in names if chance.random() < 0.75}
        tasks.append({"id": str(n), "duration_steps": chance.randint(1, 10), "equipment": units, "after": after})
    equipment = dict.fromkeys(names, chance.choice([12, 14, 19]))
    return {"step_min": 30, "horizon_steps": 300, "crew": 0, "equipment": equipment, "tasks": tasks, "time_limit_s": 20, "seed": 0}


def tiny(seed: int) -> dict:
    """Return a small request with a bit of everything: windows, waits, tables, dates, what is kept."""
    chance = random.Random(seed)
    horizon, count = chance.randint(5, 8), chance.randint(2, 5)
    tasks = []
    for n in range(count):
        task = {"id": f"t{n}", "duration_steps": chance.choice([0, 1, 1, 2, 3]), "crew": chance.randint(0, 2)}
        if chance.random() < 0.5:
            task["equipment"] = chance.choice([["lift"], {"lift": 2}, {"lift": 1, "washer": 1}])
        if chance.random() < 0.6:
            first = chance.randint(0, horizon - 1)
            pairs = [[first, min(horizon, first + chance.randint(0, 3))]]
            task["allowed_starts"] = chance.choice([pairs, sorted(chance.sample(range(horizon), 3))])
        for other in range(n):
            kind = chance.random()
            if kind < 0.25:
                task.setdefault("after", []).append({"task": f"t{other}", "lag_steps": chance.randint(0, 2)})
            elif kind < 0.45:
                table = [chance.choice([-1, s + 1, s + 2, horizon - 2]) for s in range(horizon)]
                task.setdefault("after", []).append({"task": f"t{other}", "ready_at": table})
        if chance.random() < 0.3:
            task["release"] = chance.randint(0, 3)
        if chance.random() < 0.5:
            task |= {"due": chance.randint(0, horizon), "weight": chance.choice([0, 1, 2.5])}
        tasks.append(task)
    keep = {"t0": chance.randint(0, 2)} if chance.random() < 0.2 else None
    return {
        "step_min": 30, "horizon_steps": horizon, "crew": 2, "equipment": {"lift": 2, "washer": 1}, "tasks": tasks, "time_limit_s": 5,
        "seed": 0, "keep": keep,
    }  # fmt: skip


def faults(request: dict, starts: dict[str, int]) -> list[str]:
    """Return every rule that a plan of some of the tasks breaks; a task that waits for one without a place breaks its wait."""
    out, by_id = [], {t["id"]: t for t in request["tasks"]}
    for i, start in starts.items():
        task = by_id[i]
        if start < task.get("release", 0) or start < 0 or start + task["duration_steps"] > request["horizon_steps"]:
            out.append(f"{i} lies outside its time")
        allowed = task.get("allowed_starts")
        if allowed is not None and not any(start == a if isinstance(a, int) else a[0] <= start <= a[1] for a in allowed):
            out.append(f"{i} starts where it may not")
        if i in (request.get("keep") or {}) and request["keep"][i] != start:
            out.append(f"{i} was to be kept")
        for wait in task.get("after", []):
            if wait["task"] not in starts:
                out.append(f"{i} waits for nothing")
                continue
            before = starts[wait["task"]]
            if wait.get("ready_at") is not None:
                table = wait["ready_at"]
                ready = table[before] if before < len(table) else -1
                is_kept = ready >= 0 and start >= ready
            else:
                is_kept = start >= before + by_id[wait["task"]]["duration_steps"] + wait.get("lag_steps", 0)
            if not is_kept:
                out.append(f"{i} does not wait for {wait['task']}")
    for step in range(request["horizon_steps"]):
        running = [by_id[i] for i, start in starts.items() if start <= step < start + by_id[i]["duration_steps"]]
        if sum(t.get("crew", 0) for t in running) > request["crew"]:
            out.append(f"too many people at {step}")
        for name, units in request["equipment"].items():
            if sum(_units(t, name) for t in running) > units:
                out.append(f"too much of {name} at {step}")
    return out


def _units(task: dict, name: str) -> int:
    given = task.get("equipment", {})
    return given.get(name, 0) if isinstance(given, dict) else given.count(name)


def rank(request: dict, starts: dict[str, int]) -> tuple[int, int, float]:
    """Return what plans are compared by: tasks left out, end of the last, weighted lateness."""
    by_id = {t["id"]: t for t in request["tasks"]}
    ends = {i: start + by_id[i]["duration_steps"] for i, start in starts.items()}
    late = sum(by_id[i].get("weight", 1) * max(0, end - by_id[i]["due"]) for i, end in ends.items() if "due" in by_id[i])
    return len(by_id) - len(starts), max(ends.values(), default=0), late


def best_of_all(request: dict) -> tuple[int, int, float]:
    """Return the rank of the best plan by trying all."""
    ids = [t["id"] for t in request["tasks"]]
    lengths = {t["id"]: t["duration_steps"] for t in request["tasks"]}
    options = [[None, *[s for s in range(request["horizon_steps"] + 1) if not _alone(request, i, s, lengths)]] for i in ids]
    best = (len(ids) + 1, 0, 0.0)
    for choice in itertools.product(*options):
        starts = {i: s for i, s in zip(ids, choice, strict=True) if s is not None}
        if len(ids) - len(starts) <= best[0] and (found := rank(request, starts)) < best and not faults(request, starts):
            best = found
    return best


def _alone(request: dict, task: str, start: int, lengths: dict[str, int]) -> bool:
    """Return whether a start breaks a rule of its own, whatever the others do."""
    return any(not fault.endswith("nothing") for fault in faults(request, {task: start}))
