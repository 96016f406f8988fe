"""The rows of what weather is held to and what is waited for: rules, laws of waiting, the weather of steps that are no coat."""

from typing import Literal

from pydantic import Field

from amber_gable.core.knowledge.rows import TableRow

Law = Literal["clock", "drying", "cure", "label", "tacky", "wetness", "moisture", "putty-skin", "result"]


class Wait(TableRow):
    """Wait before the next step: so many hours, or the event that its law names."""

    hours: float = Field(default=0.0, ge=0)
    law: Law = "clock"


class LawRow(TableRow):
    """A law of waiting: how it is called, and what it takes on the average where the weather is not asked."""

    until: str
    words: str
    usual_h: float = Field(ge=0)
    source: str


class Rule(TableRow):
    """A rule that weather is held to: what is compared with what, and how it is said."""

    short: str
    quantity: Literal["temperature", "temperature difference", "percent", "film", "speed", "angle", "hours", "share", "moisture"]
    unit: str
    sense: Literal[1, -1]
    band: float | str
    label: str = ""
    measured: str = ""
    looks_ahead: bool = False
    by_degrees: bool = True
    sentence: str
    at_zero: str = ""
    below: str = ""
    # Where it is broken, if that is said otherwise than of what is near.
    broken: str = ""
    source: str
    school: int = 0


class StepWeather(TableRow):
    """Weather that a step without paint needs, and the wait after it."""

    label: str
    min_air_temp_c: float
    max_surface_temp_c: float
    frost_free_h: float = Field(ge=0)
    rain_free_h: float = Field(ge=0)
    needs_dry: bool
    # What lies under it must be dry inside too.
    max_moisture: bool
    # What is waited for after such work, where a step says nothing of its own.
    wait: Wait
    follows: str
    source: str
