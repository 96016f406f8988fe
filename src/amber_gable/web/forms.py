"""Reading forms: what painters type becomes SI, every fault gets a message at its field; and where the page goes on afterwards."""

import math
import re
from collections.abc import AsyncIterator, Callable, Collection
from typing import Annotated

from fastapi import Depends, Request
from fastapi.responses import Response
from starlette.datastructures import FormData, QueryParams, UploadFile

from amber_gable.core.survey.ages import Since, since_of
from amber_gable.core.survey.places import direction_of
from amber_gable.errors import FieldErrors, PlanError, check_all
from amber_gable.units import QuantityError, System, parse

_LONGEST = 200
# After the name of a field: what it showed, and the exact value behind it.
WAS = ".was"

# The unit that a bare number has, by kind and system.
_BARE: dict[str, dict[System, str]] = {
    "length": {"us": "ft", "metric": "m"},
    "temperature": {"us": "F", "metric": "C"},
    "speed": {"us": "mph", "metric": "m/s"},
}


# How a bare number was read, which other unit was perhaps meant, and how that is typed.
_MEANT: dict[str, tuple[str, str, str]] = {
    "ft": ("ft", "inches", " in"), "m": ("m", "centimetres", " cm"), "in": ("in", "millimetres", " mm"), "mm": ("mm", "centimetres", " cm"),
    "F": ("°F", "Celsius", "C"), "C": ("°C", "Fahrenheit", "F"), "mph": ("mph", "metres a second", " m/s"),
    "m/s": ("m/s", "kilometres an hour", " km/h"),
}  # fmt: skip

# Between several lengths; a comma before three digits is a thousand.
_BETWEEN = re.compile(r"\s*(?:;|,(?!\d{3}\b)|\band\b)\s*")
_PLAIN_NUMBER = re.compile(r"[+-]?(?:[0-9]+(?:\.[0-9]*)?|\.[0-9]+)(?:[eE][+-]?[0-9]{1,3})?")
_WHOLE_NUMBER = re.compile(r"[0-9]{1,9}")
# What no keyboard types and no drawing may hold, and the mark of our own quantities (units.both); line ends and tabs stay.
_CONTROLS = re.compile(r"[\u2063\x00-\x08\x0b\x0c\x0e-\x1f\x7f-\x9f\ufffe\uffff\ud800-\udfff]")


def sent(url: object) -> Response:
    """Return the answer that sends htmx to another page."""
    return Response(status_code=200, headers={"HX-Redirect": str(url)})


def number_in(text: str) -> float | None:
    """Return the plain number that a text is, with a point or one comma for decimals; None for anything else.

    The one reader of numbers: no digits of other scripts, no underscores, no words such as "nan".
    """
    text = text.strip().replace("−", "-")
    if text.count(",") == 1 and "." not in text:
        text = text.replace(",", ".")
    value = float(text) if len(text) <= 40 and _PLAIN_NUMBER.fullmatch(text) else math.nan
    return value if math.isfinite(value) else None


def whole_in(text: str) -> int | None:
    """Return the whole number of at most nine plain digits that a text is; None for anything else."""
    return int(text) if _WHOLE_NUMBER.fullmatch(text) else None


class TypedForm:
    """The fields of one form; faults are gathered and raised together by `done`.

    Parameters
    ----------
    values : FormData
    """

    def __init__(self, values: FormData) -> None:
        self.values = values
        self.errors: dict[str, str] = {}
        # Fields whose bare number was given a unit, and what to type where another was meant.
        self.readings: dict[str, str] = {}

    @classmethod
    def of(cls, query: QueryParams) -> "TypedForm":
        """Return what an address holds, read like a form."""
        return cls(FormData(dict(query)))

    def raw(self, name: str) -> str:
        value = self.values.get(name)
        return _CONTROLS.sub("", value).strip() if isinstance(value, str) else ""

    def has(self, name: str) -> bool:
        """Return whether the form has a field of this name, filled or not."""
        return name in self.values

    def each(self, name: str) -> list[str]:
        """Return every value of a name that may come several times, the empty ones left out."""
        return [text for value in self.values.getlist(name) if isinstance(value, str) and (text := value.strip())]

    def text(self, name: str, empty: str | None = None) -> str:
        """Return text; a message where it is empty and `empty` says what to do then."""
        value = self.raw(name)
        if not value and empty:
            self.errors[name] = empty
        if len(value) > _LONGEST:
            self.errors[name] = f"Shorten this to {_LONGEST} characters."
        return value

    def long_text(self, name: str, most: int) -> str:
        """Return text of more than a line."""
        value = self.raw(name)
        if len(value) > most:
            self.errors[name] = f"Shorten this to {most} characters."
        return value

    def numbers(self, name: str) -> list[float]:
        """Return several plain numbers, with spaces, commas followed by spaces, or semicolons between."""
        numbers: list[float] = []
        for part in self.raw(name).replace(";", " ").replace(", ", " ").split():
            value = number_in(part.rstrip("%,"))
            if value is None:
                self.errors[name] = f"“{part}” is not a number. Write the readings with spaces between: 12 13.5 17."
                return []
            numbers.append(value)
        return numbers

    def _untouched(self, name: str) -> float | None:
        """Return the exact value of a number that was sent back as it was shown (the macro `was`); None for one that was typed."""
        exact, _, shown = self.raw(f"{name}{WAS}").partition(" ")
        return number_in(exact) if exact and shown == self.raw(name) else None

    def quantity(self, name: str, kind: str, system: System) -> float:
        """Return a quantity in SI; a bare number has the unit of `system`."""
        return self.si(name, kind, _BARE[kind][system])

    def si(self, name: str, kind: str, bare_unit: str) -> float:
        """Return a quantity in SI; NaN with a message where it cannot be read."""
        raw = self.raw(name)
        if (exact := self._untouched(name)) is not None:
            return exact
        try:
            value = parse(raw, kind, bare_unit)
        except QuantityError as fault:
            self.errors[name] = str(fault)
            return math.nan
        if bare_unit in _MEANT and number_in(raw) is not None:
            unit, other, notation = _MEANT[bare_unit]
            self.readings[name] = f"“{raw}” was read as {raw} {unit}; for {other} type {raw}{notation}."
        return value

    def dimension(self, name: str, system: System) -> float:
        """Return a small length in millimetres; a bare number is in inches or millimetres. Counts have no unit."""
        if not name.endswith("_mm"):
            return self.number(name, "A number, please.")
        if (exact := self._untouched(name)) is not None:
            return exact
        return round(self.si(name, "small length", "in" if system == "us" else "mm"), 2)

    def number(self, name: str, words: str) -> float:
        """Return a plain number; `words` say what is wanted."""
        exact = self._untouched(name)
        value = number_in(self.raw(name).rstrip("%°")) if exact is None else exact
        if value is None:
            self.errors[name] = words
            return math.nan
        return value

    def whole(self, name: str, low: int, high: int, words: str) -> int:
        value = self.number(name, words)
        if math.isfinite(value) and (value != int(value) or not low <= value <= high):
            self.errors[name] = words
        return int(value) if math.isfinite(value) else low

    def direction(self, name: str) -> float:
        """Return an azimuth [°]; a direction that is none is left as a fault."""
        try:
            return direction_of(self.raw(name))
        except PlanError as fault:
            self.errors[name] = str(fault)
            return math.nan

    def optional_whole(self, name: str, low: int, high: int, words: str) -> int | None:
        return self.whole(name, low, high, words) if self.raw(name) else None

    def lengths(self, name: str, system: System) -> tuple[float, ...]:
        """Return several lengths in metres, with commas or semicolons between; none where the field is empty."""
        parts = [part for part in _BETWEEN.split(self.raw(name)) if part]
        if len(parts) == 1:
            value = self.quantity(name, "length", system)
            return () if math.isnan(value) else (value,)
        found = []
        for part in parts:
            try:
                found.append(parse(part, "length", _BARE["length"][system]))
            except QuantityError as fault:
                self.errors[name] = str(fault)
                return ()
        return tuple(found)

    def plausible(self, name: str, kind: str, system: System, most: float) -> float:
        """Return a quantity in SI; a bare number over what is plausible is asked about: 36 in a field of feet."""
        value = self.quantity(name, kind, system)
        raw = self.raw(name)
        if self._untouched(name) is None and value > most and number_in(raw) is not None and _BARE[kind][system] in _MEANT:
            unit, other, notation = _MEANT[_BARE[kind][system]]
            del self.readings[name]
            self.errors[name] = f"{raw} {unit}? For {other} type {raw}{notation}; if it is {raw} {unit}, type {raw} {unit}."
        return value

    def since(self, name: str) -> Since | None:
        """Return the year, or month and year, of a field; None where it is empty."""
        try:
            return since_of(self.raw(name)) if self.raw(name) else None
        except PlanError as fault:
            self.errors[name] = str(fault)
            return None

    def pictures(self, most_bytes: int) -> list[bytes]:
        """Return the photographs that were sent.

        Raises
        ------
        FieldErrors
            If one is too large.
        """
        pictures = []
        for upload in self.values.getlist("photo"):
            if isinstance(upload, UploadFile) and upload.filename:
                if (upload.size or 0) > most_bytes:
                    raise FieldErrors({"photo": f"The photograph has {(upload.size or 0) / 1e6:.1f} MB; at most 12 MB. Take it smaller."})
                pictures.append(upload.file.read())
        return pictures

    def choice(self, name: str, options: Collection[str], words: str) -> str:
        value = self.raw(name)
        if value not in options:
            self.errors[name] = words
        return value

    def flag(self, name: str) -> bool:
        return self.raw(name) in ("on", "true", "1", "yes")

    def version(self) -> int | None:
        """Return the version of the row that the form was filled in from.

        0 where there was no row then: one that is there now was made meanwhile. None for a form that carries none.

        Raises
        ------
        FieldErrors
            If it is no version at all.
        """
        if "version" not in self.values:
            return None
        text = self.raw("version")
        number = whole_in(text) if text else 0
        if number is None:
            raise FieldErrors({"form": "The page this was filled in on is broken. Load it again."})
        return number

    def done(self, *checks: Callable[[], None]) -> None:
        """Raise every fault found, together with those that `checks` find in what was read.

        Raises
        ------
        FieldErrors
        """
        # Where a field cannot be read at all, what the rules say of it means nothing.
        check_all(*checks, also=self.errors)


async def typed_form(request: Request) -> AsyncIterator[TypedForm]:
    values = await request.form()
    typed = request.state.typed = TypedForm(values)
    try:
        yield typed
    finally:
        # Uploads lie in temporary files until the answer is made.
        await values.close()


Typed = Annotated[TypedForm, Depends(typed_form)]
