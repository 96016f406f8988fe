"""The site log beside work, readings and weather: deliveries, delays, extras, injuries, visitors, tools, notes. Lines are only added.

Not here: marks of an inspection (marks), work (record), readings of instruments (sitelog).
"""

from collections.abc import Mapping, Sequence
from dataclasses import dataclass, field
from typing import Any

from amber_gable.core.planning.state import void_ids
from amber_gable.errors import FieldErrors
from amber_gable.services.app.scope import Scope
from amber_gable.services.changes.changes import ChangeSet, changing
from amber_gable.services.changes.ownership import head_of
from amber_gable.services.office import extras
from amber_gable.services.office.extras import ExtraFacts
from amber_gable.services.survey.evidence import photofiles
from amber_gable.services.survey.evidence.photos import insert_photo
from amber_gable.store import queries
from amber_gable.store.models import Job, LogEntry, Photo, Surface
from amber_gable.store.types import new_id

MOST_LETTERS = 1000
MOST_HOURS = 100.0
WITHDRAWN = "withdrawn"


@dataclass(frozen=True)
class Written:
    """What somebody writes down.

    Parameters
    ----------
    kind : str
        Row of the table of kinds.
    text : str
    details : mapping
        What the kind asks besides: "batch", "count", "why", "hours", "harm", "person".
    surface : Surface or None
        The part of the house that it is about.
    refers, corrects : str
        Ids of the entries that it is about, or stands for.
    entry : str
        Id made on the device: sent twice, it is one entry. Empty for a new one.
    """

    kind: str
    text: str
    details: Mapping[str, Any] = field(default_factory=dict)
    surface: Surface | None = None
    refers: str = ""
    corrects: str = ""
    entry: str = ""


def _check(scope: Scope, written: Written) -> None:
    tables, errors = scope.knowledge.site_log, {}
    kind = tables.kinds.get(written.kind)
    if kind is None:
        raise FieldErrors(
            {"kind": f"Choose what it is: {', '.join(row.label.lower() for row in tables.kinds.values() if not row.is_own)}."}
        )
    said = written.details
    needs_text = not kind.is_own and "harm" not in kind.asks
    if len(written.text) > MOST_LETTERS:
        errors["text"] = f"Shorten this to {MOST_LETTERS} characters."
    elif needs_text and not written.text.strip():
        errors["text"] = f"{kind.text}: a few words, please."
    if "why" in kind.asks and said.get("why") not in tables.delays:
        errors["why"] = "Choose what held the work up."
    if "harm" in kind.asks and said.get("harm") not in tables.harms:
        errors["harm"] = "Choose what happened."
    if said.get("hours") is not None and not 0 < said["hours"] <= MOST_HOURS:
        errors["hours"] = f"More than 0 and at most {MOST_HOURS:g} hours."
    if errors:
        raise FieldErrors(errors)


def write(scope: Scope, job: Job, written: Written) -> str:
    """Add a line to the site log; return its id as the device knows it. Extra work becomes an extra that is to be signed.

    Raises
    ------
    FieldErrors
    NotFoundError
    """
    _check(scope, written)
    kind = scope.knowledge.site_log.kinds[written.kind]
    with changing(scope, f"log: {kind.label.lower()}", job.id) as change:
        entry, is_new = put(scope, change, job, written)
        if is_new and written.kind == "extra":
            facts = ExtraFacts(written.text.strip()[:200], hours=float(written.details.get("hours") or 0.0))
            extras.insert(scope, change, facts)
    return entry


def put(scope: Scope, change: ChangeSet, job: Job, written: Written) -> tuple[str, bool]:
    """Add a line within a change; return its id, and whether it was not there before."""
    entry = written.entry or new_id()
    if queries.log_entry(change.session, job.id, entry) is not None:
        return entry, False
    surface, details = written.surface, dict(written.details) | scope.on_its_way()
    change.add(
        LogEntry(
            id=new_id(), version=1, job_id=job.id, entry=entry, kind=written.kind, at=scope.said_at(), said_at=change.at,
            said_by=scope.actor, surface_id=surface.id if surface else None, place=surface.name if surface else "",
            text=written.text.strip(), details=details, refers=written.refers, corrects=written.corrects,
        )
    )  # fmt: skip
    return entry, True


def take_back(scope: Scope, job: Job, log_id: str) -> None:
    """Correct the log: an entry no longer counts; both stay readable.

    Raises
    ------
    NotFoundError
    """
    with changing(scope, "take an entry of the log back", job.id) as change:
        row = change.find(LogEntry, log_id, "entry of the log")
        if row.entry not in void_in(queries.log_entries(change.session, job.id)):
            change.add(row.taken_back(change.at, scope.actor))


def lines_of(scope: Scope, job: Job) -> Sequence[LogEntry]:
    """Return all lines of a job's log, the oldest first, those among them that were taken back."""

    def read() -> Sequence[LogEntry]:
        with scope.reading() as session:
            return queries.log_entries(session, job.id)

    return scope.cached(("log", job.id, head_of(scope, job.id).revision), read)


def void_in(rows: Sequence[LogEntry]) -> set[str]:
    """Return the ids of the entries among these lines that no longer count."""
    return void_ids((row.entry, row.corrects) for row in rows if row.corrects)


def standing_lines(scope: Scope, job: Job) -> list[LogEntry]:
    """Return the lines of a job's log that count."""
    rows = lines_of(scope, job)
    gone = void_in(rows)
    return [row for row in rows if row.entry not in gone and row.kind != WITHDRAWN]


def add_photos(scope: Scope, job: Job, entry: str, contents: Sequence[bytes]) -> list[str]:
    """Keep photographs of an entry; return their ids. The entry itself may still be on its way.

    Raises
    ------
    FieldErrors
        If one is too large, or no photograph.
    """
    if not contents:
        raise FieldErrors({"photo": "Choose a photograph first."})
    if not 8 <= len(entry) <= 64:
        raise FieldErrors({"entry": "The photograph does not say which entry it belongs to."})
    pictures = [photofiles.store(scope, content) for content in contents]
    with changing(scope, "add a photograph to the log", job.id) as change:
        return [insert_photo(change, job.id, picture, None, entry) for picture in pictures]


def photos_by_entry(scope: Scope, job: Job) -> dict[str, list[Photo]]:
    """Return the photographs of a job's log by entry."""
    out: dict[str, list[Photo]] = {}
    for photo in scope.once(("log photos", job.id), lambda session: queries.photos_of_entries(session, job.id)):
        out.setdefault(photo.entry, []).append(photo)
    return out
