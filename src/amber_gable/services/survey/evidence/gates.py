"""Gates of a job: how lead and asbestos stand, and the records that clear them and silica.

Silica is raised by steps, so its gate is services.systems.silica.
"""

from collections.abc import Mapping, Sequence

from amber_gable.core.survey.gates import HAZARDS, Component, Gate, Record, check_record, gate
from amber_gable.errors import FieldErrors
from amber_gable.services.app.scope import Scope
from amber_gable.services.changes.changes import changing
from amber_gable.store import queries
from amber_gable.store.models import Clearance, Job
from amber_gable.store.types import new_id

# Findings of windows that break old putty out.
PUTTY = ("failed-putty",)
# Parts that are no surfaces: a clearance of theirs has the part's key in its details.
OF_PIECES = {"windows": "Windows: old putty", "trim": "Trim and soffits: cement boards"}


def components_of(scope: Scope, job: Job) -> list[Component]:
    """Return what work may disturb: every surface that is painted or carries an old coating, putty that fails, boards of cement."""
    knowledge = scope.knowledge
    components = []
    for elevation in job.building.elevations:
        for s in elevation.surfaces:
            substrate = knowledge.substrates[s.substrate]
            # A roof that nobody works on is not disturbed.
            if s.is_painted or (substrate.may_hold_asbestos and substrate.family != "roofing"):
                components.append(Component(s.id, s.name, substrate.may_hold_asbestos, knowledge.coatings[s.coating].film != "none"))
    if any(f.kind in PUTTY for f in scope.once(("findings", job.id), lambda session: queries.findings(session, job.id))):
        components.append(Component("windows", OF_PIECES["windows"], True, False))
    if any(i.is_painted and knowledge.substrates[i.substrate].may_hold_asbestos for i in job.building.items):
        components.append(Component("trim", OF_PIECES["trim"], True, False))
    return components


def records_of(scope: Scope, job: Job) -> list[Record]:
    """Return the clearances of a job that can still clear something."""
    rows = clearances_of(scope, job.id)
    return [
        Record(
            row.hazard,
            row.basis,
            (row.surface_id or row.details.get("part")) if row.basis == "test" else None,
            row.details.get("result", "negative") == "negative",
        )
        for row in rows
        if row.basis == "works-under" or row.surface_id is not None or row.details.get("part")
    ]


def gates_of(scope: Scope, job: Job) -> list[Gate]:
    """Return lead and asbestos as they stand on a job."""
    records = records_of(scope, job)
    components = components_of(scope, job)
    country = scope.knowledge.countries[job.country]
    own = {"lead": job.lead_before_year, "asbestos": job.asbestos_before_year}
    return [gate(hazard, job.year_built, country, components, records, own[hazard]) for hazard in HAZARDS]


def clearances_of(scope: Scope, job_id: str) -> Sequence[Clearance]:
    """Return the records that clear a hazard of a job."""
    return scope.once(("clearances", job_id), lambda session: queries.clearances(session, job_id))


def record(
    scope: Scope, job_id: str, hazard: str, basis: str, surface_ids: Sequence[str], details: Mapping[str, str]
) -> list[str]:  # fmt: skip
    """Keep a clearance: a qualified test of parts, each by name, or working under the rules; return the ids of its rows.

    One entry for several parts makes a row for each: nothing is cleared that was not tested, and each can be taken back alone.

    Raises
    ------
    FieldErrors
        If it would not stand.
    """
    wanted: list[str] = list(dict.fromkeys(surface_ids)) if basis == "test" else []
    check_record(hazard, basis, wanted[0] if wanted else None, details)
    with changing(scope, f"record {hazard}", job_id) as change:
        job = change.whole_job()
        named = {s.id: s.name for e in job.building.elevations for s in e.surfaces} | OF_PIECES
        if any(part not in named for part in wanted):
            raise FieldErrors({"surface_id": "Choose the parts that were tested from the list."})
        tested: list[str | None] = [*wanted] or [None]
        names = [named[part] for part in wanted] or ["the whole job"]
        change.label = f"{hazard}: {details.get('result', 'works under the rules')}, {', '.join(names)}"
        rows = [
            Clearance(
                id=new_id(), version=1, job_id=job_id, hazard=hazard, basis=basis, surface_id=None if part in OF_PIECES else part,
                component=name, recorded_at=change.at,
                details={k: v.strip() for k, v in details.items()} | ({"part": part} if part in OF_PIECES else {}),
            )
            for part, name in zip(tested, names, strict=True)
        ]  # fmt: skip
        for row in rows:
            change.add(row)
        return [row.id for row in rows]


def withdraw(scope: Scope, job_id: str, clearance_id: str) -> None:
    """Take a record back: the gate closes again."""
    with changing(scope, "withdraw the record", job_id) as change:
        row = change.find(Clearance, clearance_id, "record")
        change.label = f"withdraw the {row.hazard} record of {row.component}"
        change.delete(row)
