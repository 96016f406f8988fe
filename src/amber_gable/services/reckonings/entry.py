"""What a registered reckoning is: name, models, function, and words for its page."""

from collections.abc import Callable
from dataclasses import dataclass, field
from typing import Any

from pydantic import BaseModel, ConfigDict


class Strict(BaseModel):
    """Input: JSON numbers only, finite, no unknown fields."""

    model_config = ConfigDict(strict=True, extra="forbid", allow_inf_nan=False, frozen=True)


class Answer(BaseModel):
    """Output: never rounded."""

    model_config = ConfigDict(frozen=True)


@dataclass(frozen=True)
class Reckoning:
    """One computation with three faces.

    Parameters
    ----------
    name : str
        As in the address and on the command line: "dew-point".
    title, question : str
        For its page: a noun, and what a painter would ask.
    input_model, output_model : Pydantic models
    function : callable
        Pure: input model to output model.
    example : dict
        Input that the page starts with and the documentation shows.
    lead : str
        The output field that is the answer, shown largest.
    """

    name: str
    title: str
    question: str
    input_model: type[BaseModel]
    output_model: type[BaseModel]
    function: Callable[[Any], BaseModel]
    example: dict[str, Any]
    lead: str
    notes: tuple[str, ...] = field(default_factory=tuple)
