"""Jobs: making one from its measurements, changing them, house rules, removing.

Not here: blocks, openings and surfaces (survey).
"""

from collections.abc import Mapping, Sequence
from dataclasses import asdict, dataclass, field
from typing import Any
from zoneinfo import ZoneInfo, ZoneInfoNotFoundError

from amber_gable.core.geometry import Block, check_azimuth, check_block
from amber_gable.core.knowledge import Knowledge
from amber_gable.errors import FieldErrors, check_all
from amber_gable.services.app.scope import Scope
from amber_gable.services.changes.changes import changing, require
from amber_gable.services.changes.ownership import head_of
from amber_gable.services.jobs.rules import JobRules, check_rules, read_rules
from amber_gable.services.survey.building.blocks import insert_block
from amber_gable.services.survey.building.rebuild import rebuild
from amber_gable.store import queries
from amber_gable.store.models import Building, Job
from amber_gable.store.queries import JobHead as JobHead
from amber_gable.store.types import new_id
from amber_gable.units import both

# How far a job has come. Morning and schedules look at running jobs only.
STATES: Mapping[str, str] = {
    "enquiry": "Enquiry", "running": "Running", "resting": "Resting", "done": "Done", "archived": "Archived",
}  # fmt: skip
RUNNING = "running"
PAGE_SIZE = 20


# How much may be written of an owner.
_OWNER_LENGTHS = {"owner_name": 120, "owner_phone": 120, "owner_address": 200, "owner_reach": 200, "owner_remarks": 1000}


@dataclass(frozen=True)
class JobFacts:
    """Facts of a job: its name, its place, its units."""

    name: str
    latitude_deg: float
    longitude_deg: float
    altitude_m: float
    time_zone: str
    units: str
    year_built: int | None = None
    country: str = "us"
    lead_before_year: int | None = None
    asbestos_before_year: int | None = None
    crew: Sequence[str] = field(default_factory=tuple)
    is_heated: bool = True
    owner_name: str = ""
    owner_phone: str = ""
    owner_address: str = ""
    owner_reach: str = ""
    owner_remarks: str = ""

    def check(self, knowledge: Knowledge) -> None:
        """Refuse what is in no list or cannot be.

        Raises
        ------
        FieldErrors
            Every fault at once.
        """
        faults: dict[str, str] = {}
        if not self.name.strip():
            faults["name"] = "Give the job a name, for instance the house or the street."
        if not -90 <= self.latitude_deg <= 90:
            faults["latitude_deg"] = "Latitude must be between -90 and 90 degrees; north is positive."
        if not -180 <= self.longitude_deg <= 180:
            faults["longitude_deg"] = "Longitude must be between -180 and 180 degrees; west is negative."
        if not -430 <= self.altitude_m <= 6000:
            faults["altitude_m"] = both("Altitude must be between -430 and 6000 m (-1,410 and 19,685 ft).")
        try:
            ZoneInfo(self.time_zone)
        except (ZoneInfoNotFoundError, ValueError, OSError):
            faults["time_zone"] = "Not a time zone. Type it like America/Chicago or Europe/Oslo."
        if self.units not in ("us", "metric"):
            faults["units"] = "Choose US or metric units."
        if self.year_built is not None and not 1600 <= self.year_built <= 2100:
            faults["year_built"] = "The year must be between 1600 and 2100; leave it empty if nobody knows."
        if self.country not in knowledge.countries:
            faults["country"] = "Choose the country from the list."
        for name, most in _OWNER_LENGTHS.items():
            if len(getattr(self, name)) > most:
                faults[name] = f"Shorten this to {most} characters."
        for name in ("lead_before_year", "asbestos_before_year"):
            year = getattr(self, name)
            if year is not None and not 1850 <= year <= 2100:
                faults[name] = "The year must be between 1850 and 2100; empty for the country's own, where it is known."
        if faults:
            raise FieldErrors(faults)


def list_jobs(scope: Scope) -> Sequence[Job]:
    with scope.reading() as session:
        return queries.jobs(session, scope.contractor_id)


@dataclass(frozen=True)
class JobsPage:
    """Some of the jobs, and how many there are.

    Parameters
    ----------
    rows : sequence of Job
        Without their buildings.
    total : int
        Of those that were asked for.
    counts : mapping of str to int
        Of each state, whatever was asked for.
    page, pages : int
        From 1.
    """

    rows: Sequence[Job]
    total: int
    counts: Mapping[str, int]
    page: int
    pages: int


def page_of(scope: Scope, state: str = "", search: str = "", page: int = 1) -> JobsPage:
    """Return one page of the jobs, the running ones first.

    Parameters
    ----------
    state : str
        Of `STATES`; empty for all but the archived.
    search : str
        Part of a job's or an owner's name.
    """
    states = (state,) if state in STATES else tuple(s for s in STATES if s != "archived")
    with scope.reading() as session:
        counts = queries.count_jobs(session, scope.contractor_id)
        total = queries.found_jobs(session, scope.contractor_id, states, search)
        pages = max(-(-total // PAGE_SIZE), 1)
        page = min(max(page, 1), pages)
        rows = queries.jobs_page(session, scope.contractor_id, states, search, PAGE_SIZE * (page - 1), PAGE_SIZE)
    return JobsPage(rows, total, {s: counts.get(s, 0) for s in STATES}, page, pages)


def counts(scope: Scope) -> dict[str, int]:
    """Return how many jobs there are of each state."""
    with scope.reading() as session:
        return queries.count_jobs(session, scope.contractor_id)


def head(scope: Scope, job_id: str) -> JobHead:
    """Return a job without its building.

    Raises
    ------
    NotFoundError
    """
    return head_of(scope, job_id)


def set_state(scope: Scope, job_id: str, state: str, version: int | None = None) -> None:
    """Say how far a job has come: an archived one leaves the lists, and undo or this brings it back.

    Raises
    ------
    FieldErrors, ConflictError
    """
    if state not in STATES:
        raise FieldErrors({"state": "Choose from the list."})
    with changing(scope, f"{STATES[state].lower()}", job_id) as change:
        job = change.whole_job()
        change.label = f"{job.name}: {STATES[state].lower()}"
        change.update(job, {"state": state}, version)


def home_zone(scope: Scope) -> ZoneInfo | None:
    """Return the zone that pages without a job show the time in."""
    with scope.reading() as session:
        name = queries.home_zone(session, scope.contractor_id)
    return ZoneInfo(name) if name else None


def whole(scope: Scope, job_id: str) -> Job:
    """Return a job with its building, to be read: others have the same one.

    Raises
    ------
    NotFoundError
    """
    head = head_of(scope, job_id)
    kept = scope.app.jobs_read.get(job_id, head.house_revision)
    if kept is not None:
        return kept
    with scope.reading() as session:
        job = require(queries.job_whole(session, job_id), "job")
    scope.app.jobs_read.keep(job_id, head.house_revision, job)
    return job


def create(
    scope: Scope, facts: JobFacts, block: Block, front_azimuth_deg: float, rules: JobRules | None = None, *, is_quick: bool = False
) -> str:
    """Make a job with a building of one block; return its id.

    Raises
    ------
    FieldErrors
        Faults of the facts and of the building together.
    """
    check_all(lambda: facts.check(scope.knowledge), lambda: check_block(block), lambda: check_azimuth(front_azimuth_deg))
    job_id, building_id = new_id(), new_id()
    with changing(scope, f"new job {facts.name}", job_id) as change:
        columns = asdict(facts) | {"crew": list(facts.crew), "rules": (rules or JobRules()).model_dump()}
        # What was only drawn for a first price is an enquiry; who measures a house works on it.
        columns["state"] = "enquiry" if is_quick else RUNNING
        change.add(Job(id=job_id, version=1, contractor_id=scope.contractor_id, created_at=scope.clock.now(), **columns))
        building = Building(id=building_id, version=1, job_id=job_id, front_azimuth_deg=front_azimuth_deg % 360, is_quick=is_quick)
        change.add(building)
        insert_block(change, building, block, [])
        rebuild(change, building, scope.knowledge)
    return job_id


def update_facts(scope: Scope, job_id: str, facts: JobFacts, front_azimuth_deg: float, version: int | None = None) -> None:
    """Change what a job is called, where it stands, and where its building faces.

    Raises
    ------
    FieldErrors
    ConflictError
        If somebody changed the job since `version`.
    """
    check_all(lambda: facts.check(scope.knowledge), lambda: check_azimuth(front_azimuth_deg))
    with changing(scope, "change the job's facts", job_id) as change:
        job = change.whole_job()
        change.update(job, asdict(facts) | {"crew": list(facts.crew)}, version)
        if job.building.front_azimuth_deg != front_azimuth_deg % 360:
            change.update(job.building, {"front_azimuth_deg": front_azimuth_deg % 360})
            rebuild(change, job.building, scope.knowledge)


def update_rules(scope: Scope, job_id: str, values: Mapping[str, Any], version: int | None = None) -> None:
    """Change a job's house rules.

    Raises
    ------
    FieldErrors, ConflictError
    """
    rules = JobRules(**values)
    check_rules(rules, scope.knowledge)
    with changing(scope, "change the house rules", job_id) as change:
        job = require(change.session.get(Job, job_id), "job")
        change.update(job, {"rules": rules.model_dump()}, version)


def rules_of(job: Job) -> JobRules:
    return read_rules(job.rules)


def remove(scope: Scope, job_id: str) -> str:
    """Remove a job with all that hangs on it; return its name. Undo brings it back."""
    with changing(scope, "remove the job", job_id) as change:
        job = change.whole_job()
        change.label = f"remove {job.name}"
        for kept in queries.stock(change.session, scope.contractor_id):
            if kept.job_id == job_id:
                change.follow(kept, {"job_id": None})
        for row in queries.hanging_on_job(change.session, job_id):
            change.delete(row)
        for item in job.building.items:
            change.delete(item)
        for elevation in job.building.elevations:
            for part in (*elevation.surfaces, *elevation.openings):
                change.delete(part)
            change.delete(elevation)
        # A block goes before the one it hangs on.
        blocks = list(job.building.blocks)
        while blocks:
            parents = {b.parent_id for b in blocks}
            for block in [b for b in blocks if b.id not in parents]:
                change.delete(block)
                blocks.remove(block)
        change.delete(job.building)
        change.delete(job)
        return job.name
