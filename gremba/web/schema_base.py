"""The base of all schemas, and types that several use."""

from __future__ import annotations

from datetime import datetime
from typing import Annotated, Literal

from pydantic import AfterValidator, BaseModel, ConfigDict, StringConstraints

from gremba.core.plain_text import has_odd_signs

Lift = Literal[
    "consent", "seats", "requisite", "restriction", "late add", "repeat", "credits", "conflict", "hold"
]
Number = Annotated[str, StringConstraints(pattern=r"^[0-9]{5}$")]


def _without_odd_signs(text: str) -> str:
    if has_odd_signs(text):
        raise ValueError(
            "There are signs in it that cannot be seen, such as controls or marks of direction. "
            "Type it anew instead of pasting it."
        )
    return text


PlainText = Annotated[str, StringConstraints(strip_whitespace=True), AfterValidator(_without_odd_signs)]
"""What people write for people to read."""


def _of_a_college(moment: datetime) -> datetime:
    if not 2000 <= moment.year <= 2200:
        raise ValueError("It is a time between the years 2000 and 2200.")
    return moment


CampusMoment = Annotated[datetime, AfterValidator(_of_a_college)]
"""A time that somebody chooses; where it says no zone, the term's."""


class Schema(BaseModel):
    """The base of all schemas; unknown fields are rejected."""

    model_config = ConfigDict(extra="forbid")
