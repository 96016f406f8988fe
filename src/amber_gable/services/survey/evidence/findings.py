"""Findings: pins on the drawing with kind, extent, depth and note; the owner's acknowledgement of damage."""

from collections.abc import Sequence
from dataclasses import asdict, dataclass

from amber_gable.core.geometry.divide import Piece as DividedPiece
from amber_gable.core.geometry.divide import at_point
from amber_gable.core.knowledge import Knowledge
from amber_gable.errors import FieldErrors
from amber_gable.services.app.scope import Scope
from amber_gable.services.changes.changes import changing
from amber_gable.services.survey.building.openings import elevation_in
from amber_gable.services.survey.building.rows import region_of
from amber_gable.services.survey.evidence.photofiles import Picture
from amber_gable.services.survey.evidence.photos import insert_photo
from amber_gable.store import queries
from amber_gable.store.models import Elevation, Finding
from amber_gable.store.types import new_id
from amber_gable.units import both

_LONGEST_NOTE = 1000
# The extent that covers all of a surface.
WHOLE = "all"


@dataclass(frozen=True)
class FindingFacts:
    """A finding and its place, in metres from the elevation's left foot."""

    kind: str
    extent: str
    x_m: float
    y_m: float
    depth_mm: float | None = None
    note: str = ""

    def check(self, knowledge: Knowledge) -> None:
        """Refuse what is in no list or cannot be.

        Raises
        ------
        FieldErrors
        """
        faults = {}
        if self.kind not in knowledge.conditions:
            faults["kind"] = "Choose what was found from the list."
        if self.extent not in knowledge.extents:
            faults["extent"] = "Say how much of the surface: spots, up to 10 %, 10 to 30 %, or more."
        if self.depth_mm is not None and not 0 <= self.depth_mm <= 500:
            faults["depth_mm"] = both("The depth must be 0 to 500 mm (20 in).")
        if len(self.note) > _LONGEST_NOTE:
            faults["note"] = f"Shorten the note to {_LONGEST_NOTE} characters."
        if faults:
            raise FieldErrors(faults)


def surface_at(elevation: Elevation, x: float, y: float) -> str | None:
    """Return the surface that a point lies in: a door before the wall it stands in."""
    rows = sorted(elevation.surfaces, key=lambda s: s.opening_id is None)
    index = at_point([DividedPiece("wall", region_of(s)) for s in rows], (x, y))
    return None if index is None else rows[index].id


def findings_of(scope: Scope, job_id: str) -> Sequence[Finding]:
    """Return the findings of a job by their number."""
    with scope.reading() as session:
        return queries.findings(session, job_id)


def add_finding(scope: Scope, job_id: str, elevation_id: str, facts: FindingFacts, pictures: Sequence[Picture] = ()) -> str:
    """Pin a finding; return its id.

    Parameters
    ----------
    pictures : sequence of Picture
        Photographs of it whose files are kept already.

    Raises
    ------
    FieldErrors
        If it lies outside the elevation, or names what is in no list.
    """
    facts.check(scope.knowledge)
    with changing(scope, f"pin {scope.knowledge.conditions[facts.kind].label.lower()}", job_id) as change:
        job = change.whole_job()
        elevation = elevation_in(job, elevation_id)
        surface_id = surface_at(elevation, facts.x_m, facts.y_m)
        if surface_id is None:
            raise FieldErrors({"x_m": "The pin lies beside the wall. Tap on the wall, or type where it is."})
        numbers = [f.number for f in queries.findings(change.session, job_id)]
        row = Finding(
            id=new_id(), version=1, job_id=job_id, elevation_id=elevation.id, surface_id=surface_id, number=max(numbers, default=0) + 1,
            found_at=change.at, acknowledged_by=None, acknowledged_at=None, **asdict(facts),
        )  # fmt: skip
        change.add(row)
        for picture in pictures:
            insert_photo(change, job_id, picture, row.id)
        return row.id


def update_finding(scope: Scope, job_id: str, finding_id: str, facts: FindingFacts, version: int | None = None) -> str | None:
    """Change a finding; return the id of its elevation.

    Raises
    ------
    FieldErrors, ConflictError
    """
    facts.check(scope.knowledge)
    with changing(scope, "change the finding", job_id) as change:
        row = change.find(Finding, finding_id, "finding")
        change.label = f"change finding {row.number}"
        values = asdict(facts)
        if row.elevation_id:
            job = change.whole_job()
            values["surface_id"] = surface_at(elevation_in(job, row.elevation_id), facts.x_m, facts.y_m) or row.surface_id
        change.update(row, values, version)
        return row.elevation_id


def acknowledge(scope: Scope, job_id: str, finding_id: str, owner: str, version: int | None = None) -> str | None:
    """Record that the owner acknowledges damage that was there before; return the id of its elevation.

    Raises
    ------
    FieldErrors
        If nobody is named, or the finding is no damage.
    """
    name = owner.strip()
    with changing(scope, "the owner's acknowledgement", job_id) as change:
        row = change.find(Finding, finding_id, "finding")
        if scope.knowledge.conditions[row.kind].group != "damage":
            raise FieldErrors({"acknowledged_by": "Only damage that was there before is acknowledged."})
        if not name:
            raise FieldErrors({"acknowledged_by": "Write the name of the owner who was shown it."})
        change.label = f"{name} acknowledges finding {row.number}"
        change.update(row, {"acknowledged_by": name, "acknowledged_at": change.at}, version)
        return row.elevation_id


def remove_finding(scope: Scope, job_id: str, finding_id: str) -> str | None:
    """Take a pin away; its photographs stay with the job. Return the id of its elevation."""
    with changing(scope, "remove the finding", job_id) as change:
        row = change.find(Finding, finding_id, "finding")
        change.label = f"remove finding {row.number}"
        elevation_id = row.elevation_id
        for photo in queries.photos(change.session, job_id):
            if photo.finding_id == finding_id:
                change.follow(photo, {"finding_id": None})
        change.delete(row)
        return elevation_id
