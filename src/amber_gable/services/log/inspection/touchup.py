"""Touching up as work: what the open marks of a wall take, in the chain of its steps, before it is looked over.

Not here: the marks themselves (marks), or work that was specified (systems).
"""

from collections.abc import Sequence
from dataclasses import replace

from amber_gable.core.knowledge import Knowledge, Phase, Wait
from amber_gable.core.planning.state import OnRecord
from amber_gable.core.planning.work import TOUCH_UP, TOUCH_UP_SAND, WaitsFor, WorkTask
from amber_gable.services.app.scope import Scope
from amber_gable.services.log.inspection.marks import Mark, hours_of, marks_of, rounds_of
from amber_gable.services.log.record import recorded
from amber_gable.store.models import Job

_CREW = (1, 1)


def with_touch_ups(scope: Scope, job: Job, tasks: Sequence[WorkTask]) -> tuple[WorkTask, ...]:
    """Return the tasks of a job with those that its open marks ask for: sand what is to be sanded, touch up, then what follows.

    A mark in a coat before the last is mended before the next coat, if that is not on by now.
    """
    by_place: dict[str, list[Mark]] = {}
    for mark in marks_of(scope, job):
        if mark.state == "open":
            by_place.setdefault(mark.surface_id, []).append(mark)
    if not by_place:
        return tuple(tasks)
    record, out = recorded(scope, job), list[WorkTask]()
    chains: dict[str, list[WorkTask]] = {}
    for task in tasks:
        chains.setdefault(task.id.rpartition(":")[0], []).append(task)
    for place, chain in chains.items():
        marks = by_place.get(place)
        on = [i for i, t in enumerate(chain) if t.is_coat and record.get(t.id, OnRecord()).began_s is not None]
        out += _touched(chain, marks, max(on), rounds_of(scope, job, place) + 1, scope.knowledge) if marks and on else chain
    return tuple(out)


def _touched(chain: Sequence[WorkTask], marks: Sequence[Mark], last: int, number: int, knowledge: Knowledge) -> list[WorkTask]:
    """Return the steps of a wall with its touching up behind the coat at `last`: what came after that coat comes after it."""
    coat, (sand_h, paint_h) = chain[last], hours_of(marks, knowledge)
    # What is still masked behind the last coat comes off first.
    at = next((i for i in range(last + 1, len(chain)) if chain[i].phase is not Phase.UNMASK), len(chain))
    words = ", ".join(dict.fromkeys(knowledge.site_log.marks[m.kind].label.lower() for m in marks))
    dry = WaitsFor(coat.id, Wait(law="label", hours=_recoat_h(coat, knowledge)))
    behind = (dry,) if at == last + 1 else (dry, WaitsFor(chain[at - 1].id, Wait(law="clock")))
    place, made = coat.id.rpartition(":")[0], list[WorkTask]()
    base = replace(coat, phase=Phase.INSPECT, crew=_CREW, equipment=(), wets=False, drips=False, after=behind, held_by=())
    if sand_h:
        made.append(
            replace(
                base, id=f"{place}:{TOUCH_UP_SAND} {number}", step=TOUCH_UP_SAND, label=f"Sand marks: {words}", hours=sand_h,
                weather="sand", product="", raises_dust=True,
            )
        )  # fmt: skip
        behind = (WaitsFor(made[-1].id, Wait(law="clock")),)
    made.append(replace(base, id=f"{place}:{TOUCH_UP} {number}", step=TOUCH_UP, label=f"Touch up: {words}", hours=paint_h, after=behind))
    rest = list(chain[at:])
    if rest:
        touched = WaitsFor(made[-1].id, Wait(law="label", hours=_recoat_h(coat, knowledge)))
        rest[0] = replace(rest[0], after=(*rest[0].after, touched))
    return [*chain[:at], *made, *rest]


def _recoat_h(coat: WorkTask, knowledge: Knowledge) -> float:
    product = knowledge.products.get(coat.product)
    return product.recoat_h if product is not None else 4.0
