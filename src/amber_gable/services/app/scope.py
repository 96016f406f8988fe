"""Scope: who acts, for which contractor, with which resolved knowledge. One per request, passed on.

Everything is found through a scope. Not here: what the whole process shares (app).
"""

from collections.abc import Callable, Hashable, Iterator, Mapping
from contextlib import contextmanager
from datetime import datetime, timedelta
from typing import Any, TypeVar

from sqlalchemy.orm import Session

from amber_gable.core.knowledge import Knowledge
from amber_gable.services.app.app import App
from amber_gable.services.app.clock import Clock
from amber_gable.services.app.owners import Owner, home_of, open_books, owner_of
from amber_gable.services.app.settings import Settings
from amber_gable.services.outlook.weather.client import WeatherClient

_T = TypeVar("_T")
OFFICE = "office"
# What acts by itself.
KEEPER = "keeper"
# An entry that waited longer on a phone is entered with its day, by hand.
WAITS_AT_MOST = timedelta(days=30)
# What arrives within it did not wait.
AT_ONCE = timedelta(minutes=2)


class Scope:
    """An actor and the contractor that the actor works for.

    Parameters
    ----------
    app : App
    actor : str
        Who acts: a painter's name, "office", or what acts by itself ("keeper"). Stands beside every change.
    contractor_id : str, optional
        The one that this process serves where it is absent.
    holds : bool
        One request: the contractor is read once, and all reading shares one session and one transaction, which end at the latest with
        the request, and before anything is computed, asked elsewhere or written. Without, every read is by itself and sees what is new.
    """

    def __init__(self, app: App, actor: str, contractor_id: str | None = None, *, holds: bool = False) -> None:
        self.app = app
        self._actor = actor
        self._names: tuple[str, ...] = ()
        self._contractor_id = contractor_id
        self._holds = holds
        self._owner: Owner | None = None
        self._session: Session | None = None
        self._depth = 0
        self._seen: dict[Hashable, Any] = {}
        self._made_at: datetime | None = None
        self._clock_off_min = 0
        # What the form of this request was filled in from (services.changes.seen), by row or part of one.
        self.seen: Mapping[str, str] = {}
        # Shared with the scopes made from this one: whether any of them has written something for good.
        self._written = [False]

    @property
    def actor(self) -> str:
        """Who acts. Names that a request brought are looked at when it is first asked: a painter who has left acts no more."""
        names, self._names = self._names, ()
        self._actor = next((name for name in names if name in self.owner.painters), self._actor) if names else self._actor
        return self._actor

    def named(self, *names: str) -> None:
        """Let the first of these names that is a painter's act, before those that were given earlier. Reads nothing."""
        self._names = (*(name for name in names if name), *self._names)

    @property
    def has_written(self) -> bool:
        """Whether something was changed for good: a fault that comes after does not take it back."""
        return self._written[0]

    def acting_as(self, name: str) -> "Scope":
        """Return a scope in which a painter of this name acts; the same one where no name is given."""
        if not name or name == self.actor:
            return self
        self.release()
        other = Scope(self.app, name, self.contractor_id)
        other._made_at, other._clock_off_min, other._written = self._made_at, self._clock_off_min, self._written
        other.seen = self.seen
        return other

    def alone(self) -> "Scope":
        """Return a scope of the same actor and contractor that holds nothing and outlives the request."""
        return Scope(self.app, self.actor, self.contractor_id)

    def made_at(self, moment: datetime, phone_now: datetime | None = None) -> None:
        """Let what this request says count from the moment at which it was entered on a phone: it may have waited for a signal.

        A moment that lies ahead, or too far back, is not believed: the phone's clock is wrong, and the server's counts.

        Parameters
        ----------
        moment : datetime
            By the server's clock, as the phone knew it when it last had a signal.
        phone_now : datetime, optional
            What the phone takes for now, by the same reckoning: it is off where the phone's clock was set meanwhile.
        """
        now = self.clock.now()
        if now - WAITS_AT_MOST <= moment <= now:
            self._made_at = moment
        self._clock_off_min = round((phone_now - now).total_seconds() / 60) if phone_now is not None else 0

    def said_at(self) -> datetime:
        """Return the moment at which what this request says was said: now, or when it was entered without a signal."""
        return self._made_at or self.clock.now()

    @property
    def waited(self) -> bool:
        """Whether what this request says was entered without a signal, however short: it has happened, and is kept."""
        return self._made_at is not None

    def on_its_way(self) -> dict[str, Any]:
        """Return what an entry keeps of its way here: when it was sent, if it waited, and by how much the phone's clock was off [min]."""
        now, kept = self.clock.now(), dict[str, Any]()
        if self._made_at is not None and now - self._made_at > AT_ONCE:
            kept["sent_at"] = now.isoformat()
        if abs(self._clock_off_min) > AT_ONCE / timedelta(minutes=1):
            kept["clock_off_min"] = self._clock_off_min
        return kept

    @property
    def contractor_id(self) -> str:
        """The contractor's id; where the database has no contractor yet, one is made."""
        if self._contractor_id is None:
            if self.app.home_id is None:
                self.app.home_id = self._home()
            self._contractor_id = self.app.home_id
        return self._contractor_id

    def _home(self) -> str:
        with self.app.reading() as session:
            contractor = home_of(session, self.settings.contractor)
        if contractor is None:
            with self.app.writing() as session:
                contractor = open_books(session)
        return contractor

    @property
    def owner(self) -> Owner:
        """The contractor: for a request as it stood when it was first asked for, otherwise as this process last read it."""
        if self._owner is not None:
            return self._owner
        held = self.app.owners.get(self.contractor_id)
        if held is not None and not self._holds:
            return held
        with self.reading() as session:
            owner = self.app.owners[self.contractor_id] = owner_of(session, self.contractor_id, held)
        if self._holds:
            self._owner = owner
        return owner

    @property
    def knowledge(self) -> Knowledge:
        """The tables with the contractor's own shelf and prices over them."""
        return self.owner.knowledge

    @property
    def basis(self) -> tuple[str, int]:
        """The contractor and the revision of its shared data: the part of a cache key that is not the job's own."""
        return self.contractor_id, self.owner.revision

    @property
    def clock(self) -> Clock:
        return self.app.clock

    @property
    def settings(self) -> Settings:
        return self.app.settings

    @property
    def weather(self) -> WeatherClient:
        return self.app.weather

    def cached(self, key: Any, compute: Callable[[], _T]) -> _T:
        """Return what `compute` gives for `key`, computed once (see `ResultCache.get`).

        It reads in the transaction in which its key was read, so that both are of one moment. The transaction is ended before anything
        long: before what is `calculated`, and before waiting for somebody else who computes the same.
        """
        return self.app.cache.get(key, compute, self.release)

    def kept(self, key: Any) -> Any:
        """Return what is kept for `key`; None where nothing is."""
        return self.app.cache.peek(key)

    def calculated(self, function: Callable[..., _T], *arguments: Any) -> _T:
        """Return `function(*arguments)`, in the calculator where it is free (see `App.calculated`)."""
        self.release()
        return self.app.calculated(function, *arguments)

    @contextmanager
    def reading(self) -> Iterator[Session]:
        """A session that only reads; leave the block before computing or asking elsewhere."""
        if not self._holds:
            with self.app.reading() as own:
                yield own
            return
        if self._session is None:
            self._session = Session(self.app.engine, expire_on_commit=False)
        self._depth += 1
        try:
            yield self._session
        finally:
            self._depth -= 1

    def once(self, key: Hashable, read: Callable[[Session], _T]) -> _T:
        """Return what `read` reads under `key`; a request reads it once for as long as its transaction stands.

        Raises
        ------
        Whatever `read` raises; that is not remembered.
        """
        if key in self._seen:
            seen: _T = self._seen[key]
            return seen
        with self.reading() as session:
            value = read(session)
        if self._holds:
            self._seen[key] = value
        return value

    @contextmanager
    def writing(self, *, durable: bool = True) -> Iterator[Session]:
        """A short write transaction, begun immediate (see `App.writing`). What users change goes through changes."""
        self.release()
        with self.app.writing(durable=durable) as session:
            yield session
        self._written[0] = True
        self.release()

    def release(self) -> None:
        """End the read transaction, unless somebody is in the midst of reading: what is read next is what is there then."""
        if self._session is not None and self._depth == 0:
            self._session.close()
            self._session = None
            self._seen.clear()

    def renew(self) -> None:
        """Read the contractor again: this process or another changed it."""
        self._owner = None
        self.release()
        with self.app.reading() as session:
            self.app.owners[self.contractor_id] = owner_of(session, self.contractor_id, self.app.owners.get(self.contractor_id))
