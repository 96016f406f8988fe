"""What is decided by hand: schools of a job or of the firm, what the owner wants on a part, edits of its steps."""

from dataclasses import asdict
from typing import Any

from amber_gable.core.systems.overrides import Edit, check_edit
from amber_gable.errors import FieldErrors
from amber_gable.services.changes import ChangeSet, changing, require
from amber_gable.services.context import Context
from amber_gable.services.jobs import contractor, rules_of, whole
from amber_gable.services.systems.specs import specs_of
from amber_gable.store import queries
from amber_gable.store.models import Contractor, Job, SystemChoice
from amber_gable.store.types import new_id


def set_school(context: Context, job_id: str, key: str, option: str, for_all: bool = False) -> None:
    """Choose a side of a school for a job, or for all of the contractor's jobs.

    Raises
    ------
    FieldErrors
    """
    school = context.knowledge.systems.schools.get(key)
    if school is None or option not in school.options:
        raise FieldErrors({"option": "Choose one of the sides."})
    owner = contractor(context)
    with changing(context, f"{school.label.lower()}: {school.options[option]}", job_id) as change:
        job = require(queries.job_whole(change.session, job_id), "job")
        rules = rules_of(job)
        if for_all:
            row = require(change.session.get(Contractor, owner.id), "contractor")
            own = {**row.house_rules.get("schools", {}), key: option}
            change.update(row, {"house_rules": {**row.house_rules, "schools": own}})
            schools = {k: v for k, v in rules.schools.items() if k != key}
        else:
            schools = {**rules.schools, key: option}
        if schools != rules.schools:
            change.update(job, {"rules": rules.model_copy(update={"schools": schools}).model_dump()})


def _choice(change: ChangeSet, job: Job, part: str) -> SystemChoice:
    found = next((c for c in queries.system_choices(change.session, job.id) if c.part == part), None)
    if found is None:
        found = SystemChoice(
            id=new_id(), version=1, job_id=job.id, part=part, wanted="", is_heat_reflective=False, is_vinyl_safe=False, edits=[]
        )  # fmt: skip
        change.add(found)
    return found


def _spec(context: Context, job_id: str, part: str) -> tuple[Job, Any]:
    job = whole(context, job_id)
    return job, require(next((s for s in specs_of(context, job) if s.part.key == part), None), "part")


def want(context: Context, job_id: str, part: str, wanted: str, is_heat_reflective: bool, is_vinyl_safe: bool) -> None:
    """Say what the owner wants on a part, and what is known of its new colour.

    Raises
    ------
    FieldErrors
    """
    families = context.knowledge.systems.families
    if wanted not in ("", "floor-and-sealer") and (wanted not in families or families[wanted].role != "finish"):
        raise FieldErrors({"wanted": "Choose from the list."})
    job, spec = _spec(context, job_id, part)
    with changing(context, f"wanted on {spec.part.name}", job_id) as change:
        row = _choice(change, job, part)
        change.update(row, {"wanted": wanted, "is_heat_reflective": is_heat_reflective, "is_vinyl_safe": is_vinyl_safe})


def edit(context: Context, job_id: str, part: str, made: Edit) -> None:
    """Change a step of a part by hand.

    Raises
    ------
    FieldErrors
    """
    job, spec = _spec(context, job_id, part)
    check_edit(made, spec.system, context.knowledge)
    with changing(context, f"{made.op} a step on {spec.part.name}", job_id) as change:
        row = _choice(change, job, part)
        change.update(row, {"edits": [*row.edits, asdict(made)]})


def forget_edit(context: Context, job_id: str, part: str, index: int) -> None:
    """Take one change by hand back: the rules say again what stood there."""
    job, spec = _spec(context, job_id, part)
    with changing(context, f"follow the rules on {spec.part.name}", job_id) as change:
        row = _choice(change, job, part)
        if not 0 <= index < len(row.edits):
            require(None, "change")
        change.update(row, {"edits": [e for i, e in enumerate(row.edits) if i != index]})
