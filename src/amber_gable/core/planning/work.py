"""Work: one step on one part of one side, as the value that take-off, schedule, morning and log share.

Not here: what was done (the record), when it is to be done (schedule), or what a step needs and why (systems).
"""

from collections.abc import Mapping, Sequence
from dataclasses import dataclass

from amber_gable.core.knowledge import Knowledge, Phase, Wait
from amber_gable.core.systems.specify import COAT_WEATHER, Step
from amber_gable.core.systems.work import Work

# How many painters work at once at what is in no table: steps of one's own, coats.
ANY_CREW = (1, 4)
GROUND = "ground"
# Gear that a task must have for itself while it is done.
_MACHINES = ("power", "water")
_SPRAYER = "sprayer"
# Steps that marks of an inspection ask for (services.log.inspection.touchup).
TOUCH_UP, TOUCH_UP_SAND = "touch-up", "touch-up-sand"


@dataclass(frozen=True)
class WaitsFor:
    """Another task, and what must be over after it."""

    task: str
    wait: Wait


@dataclass(frozen=True)
class WorkTask:
    """One step on one part of one side.

    Parameters
    ----------
    id : str
        Its part, side and step.
    part, side : str
        Key of the part; id of the elevation, empty for what belongs to no side.
    name : str
        Of the part on that side.
    hours : float
        Painter-hours, the height counted.
    crew : tuple of int
        Fewest and most painters at once.
    way_up : str
        Row of the access table.
    equipment : tuple of str
        Machines that it takes for itself.
    weather : str
        Row of `step_weather`, "any", or "coat" for the label of `product`.
    after : tuple of WaitsFor
        What must be over before it may begin, by which law.
    held_by : tuple of str
        Gates and patches that keep it from beginning.
    """

    id: str
    part: str
    side: str
    name: str
    step: str
    label: str
    phase: Phase
    hours: float
    crew: tuple[int, int]
    way_up: str
    equipment: tuple[str, ...]
    weather: str
    product: str = ""
    after: tuple[WaitsFor, ...] = ()
    held_by: tuple[str, ...] = ()
    wets: bool = False
    raises_dust: bool = False
    drips: bool = False

    @property
    def is_coat(self) -> bool:
        return self.weather == COAT_WEATHER


@dataclass(frozen=True)
class WorkPlace:
    """Place of a part's work: its side, its share of the part, its way up."""

    part: str
    side: str
    key: str
    name: str
    share_frac: float
    way_up: str


def tasks_at(
    place: WorkPlace, steps: Sequence[Step], works: Mapping[str, Work], products: Mapping[str, str], method: str, knowledge: Knowledge
) -> list[WorkTask]:
    """Return the tasks of a part on one side, in order: each waits for the one before it.

    Parameters
    ----------
    works, products : mapping
        Of the whole part, by step.
    method : str
        By which its coats go on.
    """
    made: list[WorkTask] = []
    for step in steps:
        row = knowledge.systems.steps.get(step.key)
        product = products.get(step.key, "") if step.family else ""
        machines = tuple(t for t in step.tools if knowledge.systems.tools[t].group in _MACHINES)
        last = _before(step, steps[: len(made)], knowledge)
        before = (WaitsFor(made[last].id, _resolved(steps[last], products, knowledge)),) if last >= 0 else ()
        made.append(
            WorkTask(
                id=f"{place.key}:{step.key}", part=place.part, side=place.side, name=place.name, step=step.key, label=step.label,
                phase=step.phase, hours=works[step.key].hours * place.share_frac, crew=row.crew if row else ANY_CREW,
                way_up=GROUND if row is not None and row.from_ground else place.way_up,
                equipment=(*machines, _SPRAYER) if step.family and method == _SPRAYER else machines,
                weather=step.weather, product=product, after=before, held_by=step.blocked_by,
                wets=row is not None and row.wets, raises_dust=row is not None and row.abrades, drips=row is not None and row.drips,
            )
        )  # fmt: skip
    return made


def _before(step: Step, earlier: Sequence[Step], knowledge: Knowledge) -> int:
    """Return the place of the step that another waits for; -1 where it is the first.

    A gate that is closed holds up what it forbids, not the wash before it: a wash that breaks no paint does not wait for sheets that
    nobody may put up yet. Once the gate is open, all is done in its order.
    """
    last = len(earlier) - 1
    if step.blocked_by or step.phase.order > Phase.CLEAN.order:
        return last
    rows = knowledge.systems.steps
    while last >= 0 and earlier[last].blocked_by and earlier[last].key in rows and rows[earlier[last].key].is_under_rules:
        last -= 1
    return last


def _resolved(step: Step, products: Mapping[str, str], knowledge: Knowledge) -> Wait:
    """Return a step's wait with its label's hours in it."""
    product = knowledge.products.get(products.get(step.key, ""))
    if step.wait.law != "label" or product is None:
        return step.wait
    return Wait(hours=max(step.wait.hours, product.recoat_h), law="label")
