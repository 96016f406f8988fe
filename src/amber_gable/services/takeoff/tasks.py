"""The work of a job as tasks: each step of each part on each side, with its hours, its crew, what it waits for."""

from collections.abc import Sequence

from amber_gable.core.knowledge import Knowledge
from amber_gable.core.planning.work import WorkPlace, WorkTask, tasks_at
from amber_gable.services.app.scope import Scope
from amber_gable.services.log.inspection.touchup import with_touch_ups
from amber_gable.services.survey.around.features import suggestion
from amber_gable.services.survey.building.sides import sides_of
from amber_gable.services.systems.specs import Spec, house_of, specs_of, state_of
from amber_gable.store.models import Job


def places_of(job: Job, spec: Spec, knowledge: Knowledge) -> list[WorkPlace]:
    """Return where the work of a part is done; one place without a side where it lies on none."""
    part = spec.part
    places = [
        WorkPlace(
            part.key, s.elevation.id, s.key, s.name, s.share_frac, s.elevation.access or suggestion(job, s.elevation, knowledge).access
        )
        for s in sides_of(job, part.key, knowledge)
    ]
    return places or [WorkPlace(part.key, "", part.key, part.name, 1.0, part.facts.access)]


def tasks_in(job: Job, specs: Sequence[Spec], knowledge: Knowledge) -> tuple[WorkTask, ...]:
    """Return the tasks of some specifications of a job, in walking order and that of the work."""
    return tuple(
        task
        for spec in specs
        for place in places_of(job, spec, knowledge)
        for task in tasks_at(place, spec.system.steps, spec.works, spec.products, spec.method, knowledge)
    )


def tasks_of(scope: Scope, job: Job) -> tuple[WorkTask, ...]:
    """Return the tasks of a job as it stands, those among them that marks on its walls ask for."""

    def as_specified() -> tuple[WorkTask, ...]:
        return tasks_in(job, specs_of(scope, job), scope.knowledge)

    def compute() -> tuple[WorkTask, ...]:
        return with_touch_ups(scope, job, scope.cached(("tasks as specified", *house_of(scope, job)), as_specified))

    return scope.cached(("tasks", *state_of(scope, job)), compute)
