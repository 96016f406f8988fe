"""The gate of silica dust: raised by the steps of a job that grind masonry."""

from amber_gable.core.survey.gates import Component, Gate, silica_gate
from amber_gable.services.app.scope import Scope
from amber_gable.services.survey.evidence.gates import gates_of, records_of
from amber_gable.services.systems.specs import specs_of
from amber_gable.store.models import Job


def silica_of(scope: Scope, job: Job) -> Gate:
    """Return how silica stands on a job."""
    rows = scope.knowledge.systems.steps
    grinds = [s.part for s in specs_of(scope, job) if any("silica" in rows[k.key].hazards for k in s.system.steps if k.key in rows)]
    return silica_gate([Component(p.key, p.name, False) for p in grinds], records_of(scope, job))


def all_gates(scope: Scope, job: Job) -> list[Gate]:
    """Return lead, asbestos and silica as they stand."""
    return [*gates_of(scope, job), silica_of(scope, job)]
