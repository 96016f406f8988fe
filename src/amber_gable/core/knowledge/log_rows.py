"""The rows of the site log: kinds of entries, what to do when somebody is hurt, marks of an inspection."""

from typing import Literal

from pydantic import Field

from amber_gable.core.knowledge.rows import TableRow

Asked = Literal["batch", "count", "why", "hours", "harm", "person"]


class LogKind(TableRow):
    """A kind of entry: its name, what its text is about, which fields it asks besides.

    `is_own` kinds have a place of their own and are not among the entries that one chooses.
    """

    label: str
    text: str
    asks: tuple[Asked, ...]
    source: str
    is_own: bool = False


class Harm(TableRow):
    """What can happen to somebody, and what to do first."""

    label: str
    do: str
    source: str


class Delay(TableRow):
    label: str


class MarkKind(TableRow):
    """What an inspection finds: its letter on the drawing, what mends it, the hours of one [painter-h]."""

    label: str
    sign: str = Field(min_length=1, max_length=2)
    mend: str
    hours: float = Field(gt=0, le=8)
    is_sanded: bool


class SiteLog(TableRow):
    """All tables of the site log."""

    kinds: dict[str, LogKind]
    harms: dict[str, Harm]
    delays: dict[str, Delay]
    marks: dict[str, MarkKind]
    closing: dict[str, str]
