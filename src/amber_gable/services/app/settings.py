"""Settings, all from the environment (prefix AMBER_GABLE_). Read once at start-up and passed on."""

from datetime import datetime
from pathlib import Path
from typing import Any

from pydantic import AwareDatetime, Field, ValidationError
from pydantic_settings import BaseSettings, SettingsConfigDict

from amber_gable.core.air.members import MEMBERS
from amber_gable.errors import PlanError


class Settings(BaseSettings):
    """Settings: the data folder, the weather service, the clock.

    Every field is an environment variable: `data_dir` is AMBER_GABLE_DATA_DIR, and so on.
    """

    model_config = SettingsConfigDict(env_prefix="AMBER_GABLE_", frozen=True)

    data_dir: Path = Path("data")
    database_url: str = ""
    # The contractor that this process serves, by name or id, where a database holds several.
    contractor: str = ""
    weather_url: str = "http://127.0.0.1:8790"
    # The gauge on site, where there is one.
    gauge_url: str = ""
    weather_timeout_s: float = Field(default=2.0, gt=0, le=30)
    # Sets the clock, which then ticks on; empty for the real time.
    now: AwareDatetime | None = None
    # Shows the control that steps the clock forward.
    demo: bool = False
    # The most memory that kept results may take [MB].
    cache_mb: int = Field(default=288, ge=16, le=16_000)
    # Whether long computations go to a process of their own, and the start page is prepared while nobody asks.
    prepares: bool = True
    # Names that this application is reached by, besides this machine's own names and addresses; "*" for any.
    hosts: str = ""
    # Where back-ups are made once a day while serving, and how many are kept; "-" for none.
    backup_dir: str = ""
    backups_kept: int = Field(default=14, ge=1, le=1000)
    # By how many courses that the weather may take within the forecast chances are told.
    forecast_members: int = Field(default=MEMBERS, ge=10, le=400)
    # By how many courses of the weather beyond the forecast the end of a job is told; one tells it by the season alone.
    plan_courses: int = Field(default=8, ge=1, le=16)
    # How long a page waits for a plan before it shows how far the planning is [s].
    plan_waits_s: float = Field(default=2.0, ge=0, le=600)
    # Start with an empty firm although the data folder was in use.
    start_empty: bool = False

    @property
    def resolved_database_url(self) -> str:
        return self.database_url or f"sqlite:///{(self.data_dir / 'amber-gable.sqlite3').absolute()}"

    @property
    def backups_in(self) -> Path | None:
        """Folder of the daily back-ups; None where they are switched off."""
        if self.backup_dir == "-":
            return None
        return Path(self.backup_dir) if self.backup_dir else self.data_dir / "backups"

    @property
    def starts_at(self) -> datetime | None:
        return self.now


class SettingsError(PlanError):
    """A setting of the environment that cannot be read; the message names it and says how it is written."""


def read_settings(**given: Any) -> Settings:
    """Return the settings of the environment, some of them given.

    Raises
    ------
    SettingsError
        Naming every one at fault, with its value and what it must be.
    """
    try:
        return Settings(**given)
    except ValidationError as fault:
        lines = [_words(error) for error in fault.errors(include_url=False)]
        raise SettingsError("\n".join(lines)) from fault


_WRITTEN = {
    "timezone_aware": "a time with its zone, like 2026-09-15T06:50:00-05:00",
    "datetime_from_date_parsing": "a time with its zone, like 2026-09-15T06:50:00-05:00",
    "datetime_parsing": "a time with its zone, like 2026-09-15T06:50:00-05:00",
    "bool_parsing": "1 or 0",
    "int_parsing": "a whole number",
    "float_parsing": "a number",
}


def _words(error: Any) -> str:
    name = f"AMBER_GABLE_{str(error['loc'][0]).upper()}" if error["loc"] else "The settings"
    limits = {"greater_than_equal": ("at least", "ge"), "less_than_equal": ("at most", "le"), "greater_than": ("more than", "gt")}
    if error["type"] in limits:
        words, key = limits[error["type"]]
        wanted = f"{words} {error['ctx'][key]:g}"
    else:
        wanted = _WRITTEN.get(error["type"], str(error["msg"]).lower())
    return f"{name} is “{error['input']}”; it must be {wanted}. Put it right, then start again."
