"""Bids: where each enquiry stands, when to follow it up, and why it was won or lost."""

from collections.abc import Mapping, Sequence
from dataclasses import asdict, dataclass
from datetime import date
from decimal import Decimal

from amber_gable.errors import FieldErrors
from amber_gable.services import jobs
from amber_gable.services.changes import changing, require
from amber_gable.services.context import Context
from amber_gable.services.systems.samples import today_of
from amber_gable.services.takeoff.alternatives import range_of
from amber_gable.services.takeoff.job import job_takeoff
from amber_gable.store import queries
from amber_gable.store.models import Bid, Job
from amber_gable.store.types import new_id

STATES: Mapping[str, str] = {
    "enquiry": "Enquiry", "visited": "Visited", "sent": "Proposal sent", "won": "Won", "lost": "Lost",
}  # fmt: skip
OPEN = ("enquiry", "visited", "sent")
# A date farther away than this is a slip of the pen.
_FARTHEST_DAYS = 730


@dataclass(frozen=True)
class BidFacts:
    """Where a bid stands, as it is typed; `follow_up_on` as YYYY-MM-DD, empty for none."""

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
class Standing:
    """A job as a bid.

    Parameters
    ----------
    bid : Bid or None
        None while nobody has touched it: an enquiry.
    low, likely, high : float
        Its price now; a range only of a quick survey that was not sent yet: the others are firm.
    sent_total : Decimal or None
        What was last sent.
    days_left : int or None
        Until it is to be followed up; negative when overdue. None for no date, and for what is won or lost.
    """

    job: Job
    bid: Bid | None
    low: float
    likely: float
    high: float
    sent_total: Decimal | None
    days_left: int | None

    @property
    def state(self) -> str:
        return self.bid.state if self.bid else "enquiry"

    @property
    def is_open(self) -> bool:
        return self.state in OPEN


def bid_of(context: Context, job: Job) -> Bid | None:
    with context.reading() as session:
        return queries.bid(session, job.id)


def _standing(context: Context, job: Job, bid: Bid | None) -> Standing:
    sent = [h["total"] for h in bid.history if h["state"] == "sent"] if bid else []
    likely = float(job_takeoff(context, job).price.total)
    low, high = likely, likely
    if job.building.is_quick and not sent:
        # Six take-offs more: only where the range is shown.
        price = range_of(context, job)
        low, high = price.low, price.high
    left = None
    if bid and bid.follow_up_on and bid.state in OPEN:
        left = (date.fromisoformat(bid.follow_up_on) - today_of(context, job)).days
    return Standing(job, bid, low, likely, high, Decimal(sent[-1]) if sent else None, left)


def standings(context: Context) -> list[Standing]:
    """Return every job as a bid: what is to be followed up first, what is closed last."""
    with context.reading() as session:
        by_job = {b.job_id: b for b in queries.bids(session)}
    whole = [jobs.whole(context, row.id) for row in jobs.list_jobs(context)]
    found = [_standing(context, job, by_job.get(job.id)) for job in whole]
    return sorted(found, key=lambda s: (not s.is_open, s.days_left is None, s.days_left or 0, s.job.name))


def won_share(found: Sequence[Standing]) -> tuple[int, int]:
    """Return how many of the closed bids were won, and how many are closed."""
    closed = [s for s in found if not s.is_open]
    return sum(s.state == "won" for s in closed), len(closed)


def move(context: Context, job: Job, facts: BidFacts, version: int | None = None) -> None:
    """Write down where a bid stands; the price of the moment is kept with what is sent.

    Raises
    ------
    FieldErrors
    ConflictError
    """
    facts.check(today_of(context, job))
    before = bid_of(context, job)
    history = list(before.history) if before else []
    if before is None or before.state != facts.state:
        total = str(job_takeoff(context, job).price.total)
        history.append({"state": facts.state, "at": context.clock.now().isoformat(), "total": total})
    values = {k: v.strip() for k, v in asdict(facts).items()} | {"follow_up_on": facts.follow_up_on or None, "history": history}
    with changing(context, f"bid: {STATES[facts.state].lower()}", job.id) as change:
        require(queries.job_whole(change.session, job.id), "job")
        row = queries.bid(change.session, job.id)
        if row is None:
            change.add(Bid(id=new_id(), version=1, job_id=job.id, **values))
        else:
            change.update(row, values, version)
