"""Bids: where each enquiry stands, when to follow it up, and why it was won or lost."""

from collections.abc import Mapping
from dataclasses import asdict, dataclass
from datetime import date, datetime
from decimal import Decimal
from zoneinfo import ZoneInfo

from amber_gable.errors import FieldErrors
from amber_gable.services.app.scope import Scope
from amber_gable.services.changes.changes import changing
from amber_gable.services.jobs import jobs
from amber_gable.services.systems.samples import today_of
from amber_gable.services.takeoff.job import job_takeoff
from amber_gable.services.takeoff.ranges import range_of
from amber_gable.store import queries
from amber_gable.store.models import Bid, Job
from amber_gable.store.queries import JobHead
from amber_gable.store.types import new_id

STATES: Mapping[str, str] = {
    "enquiry": "Enquiry", "visited": "Visited", "sent": "Proposal sent", "won": "Won", "lost": "Lost",
}  # fmt: skip
OPEN = ("enquiry", "visited", "sent")
_JOB_STATE = {"won": jobs.RUNNING, "lost": "archived"}
# A date farther away than this is a slip of the pen.
_FARTHEST_DAYS = 730


@dataclass(frozen=True)
class BidFacts:
    """State of a bid as it is typed; `follow_up_on` as YYYY-MM-DD, empty for none."""

    state: str
    owner_name: str = ""
    contact: str = ""
    follow_up_on: str = ""
    reason: str = ""

    def check(self, today: date) -> None:
        """Refuse what cannot be.

        Raises
        ------
        FieldErrors
        """
        faults = {}
        if self.state not in STATES:
            faults["state"] = "Choose from the list."
        if self.state == "lost" and not self.reason.strip():
            faults["reason"] = "Why was it lost? Price, date, trust: the next bid learns from it."
        for name, most in (("owner_name", 120), ("contact", 200), ("reason", 500)):
            if len(getattr(self, name)) > most:
                faults[name] = f"Shorten this to {most} characters."
        if self.follow_up_on:
            try:
                day = date.fromisoformat(self.follow_up_on)
            except ValueError:
                faults["follow_up_on"] = "A date like 2026-09-21."
            else:
                if abs((day - today).days) > _FARTHEST_DAYS:
                    faults["follow_up_on"] = "That is more than two years away. Check the year."
        if faults:
            raise FieldErrors(faults)


@dataclass(frozen=True)
class BidFigure:
    """Price of a job now: a range for a quick survey that was not sent yet, a firm price for the others."""

    low: float
    likely: float
    high: float
    is_quick: bool


@dataclass(frozen=True)
class BidStanding:
    """A job as a bid.

    Parameters
    ----------
    head : JobHead
    job_state : str
    owner_name, contact : str
        Of the house, as the job has them; what stands on an old bid where the job has none.
    bid : Bid or None
        None while nobody has touched it: an enquiry.
    sent_total : Decimal or None
        What was last sent.
    days_left : int or None
        Until it is to be followed up; negative when overdue. None for no date, and for what is won or lost.
    """

    head: JobHead
    job_state: str
    owner_name: str
    contact: str
    bid: Bid | None
    sent_total: Decimal | None
    days_left: int | None

    @property
    def state(self) -> str:
        return self.bid.state if self.bid else "enquiry"

    @property
    def is_open(self) -> bool:
        return self.state in OPEN and self.job_state not in ("done", "archived")


@dataclass(frozen=True)
class BidsPage:
    """Some of the bids, and how they stand on the whole.

    Parameters
    ----------
    rows : list of BidStanding
        What is to be followed up first, what is closed last.
    due, open : int
        To be followed up today; not won or lost yet.
    won, closed : int
    page, pages : int
        From 1.
    """

    rows: list[BidStanding]
    due: int
    open: int
    won: int
    closed: int
    page: int
    pages: int


def bid_of(scope: Scope, job: Job) -> Bid | None:
    with scope.reading() as session:
        return queries.bid(session, job.id)


def standings(scope: Scope, search: str = "") -> list[BidStanding]:
    """Return every job as a bid: what is to be followed up first, what is closed last."""
    now = scope.clock.now()
    with scope.reading() as session:
        rows = queries.jobs_as_bids(session, scope.contractor_id, search)
    return sorted((_standing(*row, now) for row in rows), key=lambda s: (not s.is_open, s.days_left is None, s.days_left or 0, s.head.name))


def _standing(head: JobHead, job_state: str, owner: tuple[str, str], bid: Bid | None, now: datetime) -> BidStanding:
    sent = [h["total"] for h in bid.history if h["state"] == "sent"] if bid else []
    left = None
    if bid and bid.follow_up_on and bid.state in OPEN:
        left = (date.fromisoformat(bid.follow_up_on) - now.astimezone(ZoneInfo(head.time_zone)).date()).days
    name, contact = owner[0] or (bid.owner_name if bid else ""), owner[1] or (bid.contact if bid else "")
    return BidStanding(head, job_state, name, contact, bid, Decimal(sent[-1]) if sent else None, left)


SHOWN: Mapping[str, str] = {"open": "Open", "won": "Won", "lost": "Lost", "all": "All"}


def page_of(scope: Scope, shown: str = "open", search: str = "", page: int = 1) -> BidsPage:
    """Return one page of the bids.

    Parameters
    ----------
    shown : str
        Of `SHOWN`; open ones where it is another word.
    search : str
        Part of a job's or an owner's name.
    """
    every = standings(scope, search)
    wanted = shown if shown in SHOWN else "open"
    kept = [s for s in every if wanted == "all" or (s.is_open if wanted == "open" else s.state == wanted)]
    pages = max(-(-len(kept) // jobs.PAGE_SIZE), 1)
    page = min(max(page, 1), pages)
    rows = kept[jobs.PAGE_SIZE * (page - 1) : jobs.PAGE_SIZE * page]
    is_open = [s for s in every if s.is_open]
    closed = [s for s in every if s.state in ("won", "lost")]
    due = sum(s.days_left is not None and s.days_left <= 0 for s in is_open)
    return BidsPage(rows, due, len(is_open), sum(s.state == "won" for s in closed), len(closed), page, pages)


def figure_key(scope: Scope, head: JobHead) -> tuple[object, ...]:
    return ("figure", head.id, head.revision, scope.basis, scope.clock.now().year)


def figure_of(scope: Scope, head: JobHead) -> BidFigure:
    """Return what a job comes to; reckoned once for each state of it."""
    return scope.cached(figure_key(scope, head), lambda: _figure(scope, jobs.whole(scope, head.id)))


def _figure(scope: Scope, job: Job) -> BidFigure:
    likely = float(job_takeoff(scope, job).price.total)
    if not job.building.is_quick:
        return BidFigure(likely, likely, likely, False)
    # Six take-offs more: only where the range is shown.
    price = range_of(scope, job)
    return BidFigure(price.low, likely, price.high, True)


def move(scope: Scope, job: Job, facts: BidFacts, version: int | None = None) -> None:
    """Write down where a bid stands; the price of the moment is kept with what is sent.

    Raises
    ------
    FieldErrors
    ConflictError
    """
    facts.check(today_of(scope, job))
    before = bid_of(scope, job)
    history = list(before.history) if before else []
    if before is None or before.state != facts.state:
        total = str(job_takeoff(scope, job).price.total)
        history.append({"state": facts.state, "at": scope.clock.now().isoformat(), "total": total})
    values = {k: v.strip() for k, v in asdict(facts).items()} | {"follow_up_on": facts.follow_up_on or None, "history": history}
    with changing(scope, f"bid: {STATES[facts.state].lower()}", job.id) as change:
        whole = change.whole_job()
        # A job that is won is worked on; one that is lost is over. Who has set it otherwise knows better.
        after = _JOB_STATE.get(facts.state)
        if after is not None and whole.state in ("enquiry", "running"):
            change.follow(whole, {"state": after})
        # One house has one owner: who is named on its bid stands on its papers.
        told = {"owner_name": values["owner_name"], "owner_phone": values["contact"]}
        named = {field: text for field, text in told.items() if text and text != getattr(whole, field)}
        if named:
            change.follow(whole, named)
        row = queries.bid(change.session, job.id)
        if row is None:
            change.add(Bid(id=new_id(), version=1, job_id=job.id, **values))
        elif version == 0:
            raise change.conflict(row, values)
        else:
            change.update(row, values, version)
