"""The one clock. Real time, or a time that was set and ticks on from there."""

import time
from datetime import UTC, datetime, timedelta


class Clock:
    """Tells the time to everything but security timers.

    Parameters
    ----------
    starts_at : datetime, optional
        Timezone-aware; the clock shows it now and ticks on. None for the real time.
    """

    def __init__(self, starts_at: datetime | None = None) -> None:
        self._set_to = starts_at
        self._set_when = time.monotonic()

    @property
    def is_set(self) -> bool:
        return self._set_to is not None

    def now(self) -> datetime:
        if self._set_to is None:
            return datetime.now(UTC)
        return self._set_to.astimezone(UTC) + timedelta(seconds=time.monotonic() - self._set_when)

    def set(self, to: datetime) -> None:
        self._set_to, self._set_when = to, time.monotonic()
