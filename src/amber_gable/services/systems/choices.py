"""What is decided by hand: schools of a job or of the firm, what the owner wants on a part, edits of its steps."""

from dataclasses import asdict, dataclass
from datetime import date
from typing import Any

from amber_gable.core.coat.colour import lrv_pct
from amber_gable.core.knowledge import Knowledge
from amber_gable.core.survey.ages import Since, check_since
from amber_gable.core.systems.overrides import Edit, check_edit
from amber_gable.errors import FieldErrors, PlanError
from amber_gable.services.app.scope import Scope
from amber_gable.services.changes.changes import ChangeSet, changing, require
from amber_gable.services.changes.seen import part_key
from amber_gable.services.jobs.jobs import rules_of, whole
from amber_gable.services.systems.specs import specs_of
from amber_gable.store import queries
from amber_gable.store.models import Job, SystemChoice
from amber_gable.store.types import new_id


def set_school(scope: Scope, job_id: str, key: str, option: str, for_all: bool = False) -> None:
    """Choose a side of a school for a job, or for all of the contractor's jobs.

    Raises
    ------
    FieldErrors
    """
    school = scope.knowledge.systems.schools.get(key)
    if school is None or option not in school.options:
        raise FieldErrors({"option": "Choose one of the sides."})
    with changing(scope, f"{school.label.lower()}: {school.options[option]}", job_id) as change:
        job = change.whole_job()
        rules = rules_of(job)
        now = {**change.contractor_row().house_rules.get("schools", {}), **rules.schools}.get(key, school.default)
        change.compare(part_key(job.id, "schools", key), {"option": now}, {"option": option})
        if for_all:
            row = change.contractor_row()
            own = {**row.house_rules.get("schools", {}), key: option}
            change.follow(row, {"house_rules": {**row.house_rules, "schools": own}})
            schools = {k: v for k, v in rules.schools.items() if k != key}
        else:
            schools = {**rules.schools, key: option}
        if schools != rules.schools:
            change.follow(job, {"rules": rules.model_copy(update={"schools": schools}).model_dump()})


def choice_of(change: ChangeSet, job: Job, part: str) -> SystemChoice:
    """Return the row of what was decided by hand for a part, made where there is none."""
    choice = next((c for c in queries.system_choices(change.session, job.id) if c.part == part), None)
    if choice is None:
        choice = SystemChoice(
            id=new_id(), version=1, job_id=job.id, part=part, wanted="", is_heat_reflective=False, is_vinyl_safe=False, hex=None,
            old_hex=None, coating="", coated_year=None, edits=[],
        )  # fmt: skip
        change.add(choice)
    return choice


def _spec(scope: Scope, job_id: str, part: str) -> tuple[Job, Any]:
    job = whole(scope, job_id)
    return job, require(next((s for s in specs_of(scope, job) if s.part.key == part), None), "part")


@dataclass(frozen=True)
class Wish:
    """The customer's wishes for a part: finish, new colour, and for windows, shutters and trim their present coating.

    Parameters
    ----------
    wanted : str
        A family of finish, or "floor-and-sealer"; empty for what the rules say.
    old_hex, coating, coated_year : str, str, int
        Of windows, shutters and trim; surfaces keep theirs in the survey.
    """

    wanted: str = ""
    is_heat_reflective: bool = False
    is_vinyl_safe: bool = False
    old_hex: str | None = None
    coating: str = ""
    coated_year: int | None = None

    def check(self, knowledge: Knowledge, today: date) -> None:
        """Refuse what is not in the tables, and coats of days that have not come.

        Raises
        ------
        FieldErrors
        """
        faults = {}
        families = knowledge.systems.families
        if self.wanted not in ("", "floor-and-sealer") and (self.wanted not in families or families[self.wanted].role != "finish"):
            faults["wanted"] = "Choose from the list."
        if self.coating and self.coating not in knowledge.coatings:
            faults["coating"] = "Choose a coating from the list."
        try:
            if self.coated_year is not None:
                check_since(Since(self.coated_year), today)
        except PlanError as fault:
            faults["coated_year"] = str(fault)
        try:
            if self.old_hex is not None:
                lrv_pct(self.old_hex)
        except PlanError as fault:
            faults["old_hex"] = str(fault)
        if faults:
            raise FieldErrors(faults)


def decided(scope: Scope, job_id: str, part: str) -> SystemChoice | None:
    """Return what was decided by hand for a part, if anything."""
    with scope.reading() as session:
        return next((c for c in queries.system_choices(session, job_id) if c.part == part), None)


def want(scope: Scope, job_id: str, part: str, wish: Wish, version: int | None = None) -> None:
    """Say what the owner wants on a part, what is known of its new colour and of what is on it.

    Raises
    ------
    FieldErrors
    """
    wish.check(scope.knowledge, scope.clock.now().date())
    job, spec = _spec(scope, job_id, part)
    with changing(scope, f"wanted on {spec.part.name}", job_id) as change:
        choice = next((c for c in queries.system_choices(change.session, job.id) if c.part == part), None)
        if choice is None and wish == Wish():
            # Nothing is wished for, and nothing was.
            return
        # A row that is made here has nothing to disagree with.
        change.update(choice or choice_of(change, job, part), asdict(wish), version if choice else None)


def edit(scope: Scope, job_id: str, part: str, made: Edit) -> None:
    """Change a step of a part by hand.

    Raises
    ------
    FieldErrors
    """
    job, spec = _spec(scope, job_id, part)
    check_edit(made, spec.system, scope.knowledge)
    with changing(scope, f"{made.op} a step on {spec.part.name}", job_id) as change:
        row = choice_of(change, job, part)
        change.follow(row, {"edits": [*row.edits, asdict(made)]})


def forget_edit(scope: Scope, job_id: str, part: str, index: int) -> None:
    """Take one change by hand back: the rules say again what stood there."""
    job, spec = _spec(scope, job_id, part)
    with changing(scope, f"follow the rules on {spec.part.name}", job_id) as change:
        row = choice_of(change, job, part)
        if not 0 <= index < len(row.edits):
            require(None, "change")
        change.update(row, {"edits": [e for i, e in enumerate(row.edits) if i != index]})
