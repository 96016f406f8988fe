"""Weather as it was told, the plan, readings, the trail of changes."""

from datetime import datetime
from typing import Any

from sqlalchemy import JSON, ForeignKey, Index, UniqueConstraint
from sqlalchemy.orm import Mapped, mapped_column

from amber_gable.store.models.base import Base, EditableRow, Row
from amber_gable.store.types import new_id


class ForecastIssue(Row, Base):
    """One issue of a forecast for a place, kept for ever as it was received."""

    __tablename__ = "forecast_issues"
    # Whose file it is; None for the service's, which all contractors see.
    contractor_id: Mapped[str | None] = mapped_column(ForeignKey("contractors.id"))
    place: Mapped[str]
    issued_at: Mapped[datetime]
    fetched_at: Mapped[datetime]
    hours: Mapped[list[Any]]
    # "service", or "file" for hours that somebody read in.
    source: Mapped[str] = mapped_column(default="service")
    # Its last hour.
    ends_at: Mapped[datetime | None]
    __table_args__ = (UniqueConstraint("place", "issued_at"),)


class TypicalYear(Row, Base):
    """A year of hours that was read in from a file for a place: for what-if and later seasons, never a forecast."""

    __tablename__ = "typical_years"
    contractor_id: Mapped[str] = mapped_column(ForeignKey("contractors.id"))
    place: Mapped[str]
    taken_at: Mapped[datetime]
    latitude_deg: Mapped[float]
    longitude_deg: Mapped[float]
    utc_offset_h: Mapped[float]
    rain_missing: Mapped[int]
    columns: Mapped[dict[str, Any]]
    __table_args__ = (UniqueConstraint("contractor_id", "place"),)


class ObservedHour(Row, Base):
    """Observed weather of a place in one hour."""

    __tablename__ = "observed_hours"
    place: Mapped[str]
    time: Mapped[datetime]
    values: Mapped[dict[str, Any]]
    __table_args__ = (UniqueConstraint("place", "time"),)


class Schedule(EditableRow, Base):
    """The plan a job is worked by; one at a time, earlier ones in the changes."""

    __tablename__ = "schedules"
    job_id: Mapped[str] = mapped_column(ForeignKey("jobs.id", ondelete="CASCADE"), unique=True)
    made_at: Mapped[datetime]
    forecast_issued_at: Mapped[datetime]
    painters: Mapped[int]
    # Coats of surfaces and what could not be placed, as services.schedules writes them.
    visits: Mapped[list[Any]]
    unplaced: Mapped[list[Any]]
    # All work in its stints, and when it is expected to be finished.
    stints: Mapped[list[Any]] = mapped_column(default=list, server_default="[]")
    finish: Mapped[dict[str, Any]] = mapped_column(default=dict, server_default="{}")


class PlanSearch(Row, Base):
    """A search for a better plan of all jobs, in a process of its own: how far it came, what the first and the best plan cost, how the best
    is dispatched. `state` is "running", "done", "stopped", "failed", "taken" or "left"."""

    __tablename__ = "plan_searches"
    contractor_id: Mapped[str] = mapped_column(ForeignKey("contractors.id", ondelete="CASCADE"), index=True)
    asked_at: Mapped[datetime]
    asked_by: Mapped[str]
    # A digest of all that the plan is made from.
    mark: Mapped[str]
    state: Mapped[str]
    tries: Mapped[int]
    tried: Mapped[int]
    first_cost: Mapped[dict[str, Any]]
    best_cost: Mapped[dict[str, Any]]
    way: Mapped[dict[str, Any]]
    fault: Mapped[str]


class WorkEntry(EditableRow, Base):
    """One line of the record of work: what was done of one step, when and by whom. Never changed: a correction is a line of its own.

    Lines of one tap share an `entry`. `corrects` names the entry that a later one takes back.
    """

    __tablename__ = "work_entries"
    job_id: Mapped[str] = mapped_column(ForeignKey("jobs.id", ondelete="CASCADE"), index=True)
    entry: Mapped[str] = mapped_column(index=True)
    # The task of core.planning.work by its id, and its name in words, which stays when the task is gone.
    task: Mapped[str]
    name: Mapped[str]
    told: Mapped[str]
    from_at: Mapped[datetime]
    until_at: Mapped[datetime]
    share_frac: Mapped[float]
    painters: Mapped[list[Any]]
    litres: Mapped[float | None]
    product: Mapped[str]
    batch: Mapped[str]
    remark: Mapped[str]
    said_at: Mapped[datetime]
    said_by: Mapped[str]
    corrects: Mapped[str]
    # What else it says: services.log.coats.joints reads a stop joint.
    details: Mapped[dict[str, Any]] = mapped_column(default=dict, server_default="{}")

    def taken_back(self, at: datetime, who: str) -> "WorkEntry":
        """Return the line that takes this entry back; both stay readable."""
        return WorkEntry(
            id=new_id(), version=1, job_id=self.job_id, entry=new_id(), task=self.task, name=self.name, told="withdrawn", from_at=at,
            until_at=at, share_frac=0.0, painters=[], litres=None, product="", batch="", remark="", said_at=at, said_by=who,
            corrects=self.entry,
        )  # fmt: skip


class LogEntry(EditableRow, Base):
    """One line of the site log that is no work, no reading and no weather: a delivery, an injury, a mark on a wall. Never changed.

    `entry` is its id as the device made it; `refers` names the entry that it is about (a mark that was mended), `corrects` the one that it
    takes back or stands for. `place` is the name of the surface, which stays when the surface is gone.
    """

    __tablename__ = "log_entries"
    job_id: Mapped[str] = mapped_column(ForeignKey("jobs.id", ondelete="CASCADE"))
    entry: Mapped[str]
    kind: Mapped[str]
    at: Mapped[datetime]
    said_at: Mapped[datetime]
    said_by: Mapped[str]
    surface_id: Mapped[str | None] = mapped_column(ForeignKey("surfaces.id", ondelete="SET NULL"), index=True)
    place: Mapped[str]
    text: Mapped[str]
    details: Mapped[dict[str, Any]] = mapped_column(default=dict, server_default="{}")
    refers: Mapped[str]
    corrects: Mapped[str]
    __table_args__ = (UniqueConstraint("job_id", "entry"), Index("ix_log_entries_job_id_at", "job_id", "at"))

    def taken_back(self, at: datetime, who: str) -> "LogEntry":
        """Return the line that takes this entry back; both stay readable."""
        return LogEntry(
            id=new_id(), version=1, job_id=self.job_id, entry=new_id(), kind="withdrawn", at=at, said_at=at, said_by=who,
            surface_id=self.surface_id, place=self.place, text="", refers="", corrects=self.entry,
        )  # fmt: skip


class Reading(EditableRow, Base):
    __tablename__ = "readings"
    job_id: Mapped[str] = mapped_column(ForeignKey("jobs.id", ondelete="CASCADE"))
    surface_id: Mapped[str | None] = mapped_column(ForeignKey("surfaces.id", ondelete="SET NULL"))
    surface_name: Mapped[str]
    taken_at: Mapped[datetime]
    painter: Mapped[str]
    air_temp_c: Mapped[float]
    rel_humidity_pct: Mapped[float]
    surface_temp_c: Mapped[float]
    # What the tool answered then, and the forecast it was answered from.
    verdict: Mapped[dict[str, Any]]
    # What else was measured (wind, moisture), by which instrument, and how the entry came here.
    details: Mapped[dict[str, Any]] = mapped_column(default=dict, server_default="{}")
    __table_args__ = (Index("ix_readings_job_id_taken_at", "job_id", "taken_at"),)

    def taken_back(self, at: datetime, who: str) -> LogEntry:
        """Return the line of the log that takes this reading back; both stay readable."""
        return LogEntry(
            id=new_id(), version=1, job_id=self.job_id, entry=new_id(), kind="withdrawn", at=at, said_at=at, said_by=who,
            surface_id=self.surface_id, place=self.surface_name, text="", refers="", corrects=self.id,
        )  # fmt: skip


class Sighting(EditableRow, Base):
    """Report from the site: weather that comes, from one moment to another; or the state of a surface at one moment.

    `kind` is "rain" or "thunder", or of one surface "palm-dry", "palm-damp", "palm-wet", "meter" or "washed".
    """

    __tablename__ = "sightings"
    job_id: Mapped[str] = mapped_column(ForeignKey("jobs.id", ondelete="CASCADE"), index=True)
    kind: Mapped[str]
    said_at: Mapped[datetime]
    from_at: Mapped[datetime]
    # None while nobody has said that it is over.
    until_at: Mapped[datetime | None]
    # Of rain: "light" or "heavy".
    strength: Mapped[str] = mapped_column(default="")
    said_by: Mapped[str] = mapped_column(default="")
    surface_id: Mapped[str | None] = mapped_column(ForeignKey("surfaces.id", ondelete="CASCADE"), index=True)
    # What a meter showed [%].
    value: Mapped[float | None]


class Change(Row, Base):
    """One row before and after one change; changes of one action share a set."""

    __tablename__ = "changes"
    # The newest of a row, of a job, of a firm's table is found at once, however many there are.
    __table_args__ = (
        Index(None, "row_id", "number"),
        Index(None, "job_id", "number"),
        Index("ix_changes_whose", "contractor_id", "table_name", "number"),
    )
    set_id: Mapped[str] = mapped_column(index=True)
    # No key of another table: what was done stays written when a job or a contractor is gone.
    contractor_id: Mapped[str]
    job_id: Mapped[str | None]
    number: Mapped[int] = mapped_column(index=True)
    at: Mapped[datetime]
    who: Mapped[str]
    label: Mapped[str]
    table_name: Mapped[str]
    row_id: Mapped[str]
    before: Mapped[dict[str, Any] | None]
    after: Mapped[dict[str, Any] | None]
    undone_at: Mapped[datetime | None]


class SentForm(Base):
    """A form that was taken, so that the same form sent again changes nothing.

    A form of a page goes by a digest of its key and content; an entry of the log by the id that it was given on its phone, with the digest
    of what was kept and the content itself. `answer` is what was answered then; None where the answer was lost (the change was made all
    the same).
    """

    __tablename__ = "sent_forms"
    key: Mapped[str] = mapped_column(primary_key=True)
    path: Mapped[str]
    at: Mapped[datetime] = mapped_column(index=True)
    digest: Mapped[str] = mapped_column(default="", server_default="")
    content: Mapped[list[Any] | None] = mapped_column(JSON(none_as_null=True))
    answer: Mapped[dict[str, Any] | None] = mapped_column(JSON(none_as_null=True))


class AppState(Base):
    """Single values that outlive a run, such as how far the demo clock was stepped."""

    __tablename__ = "app_state"
    key: Mapped[str] = mapped_column(primary_key=True)
    value: Mapped[str]
