"""Schemas of a student for the registrar."""

from __future__ import annotations

from datetime import datetime
from typing import Annotated, Literal

from pydantic import Field

from gremba.web.schema_base import CampusMoment, Lift, Schema
from gremba.web.students.clearance_schemas import HoldResponse
from gremba.web.windows.window_schemas import OwnWindowResponse

Reason = Annotated[str, Field(min_length=3, max_length=300)]


class OfficeEventResponse(Schema):
    """Something an office did."""

    what: str
    detail: str
    person: str
    at: datetime


class OfficeStudent(Schema):
    """A student in a term."""

    id: int
    username: str
    full_name: str
    program: str
    cohort: str
    is_expected: bool = Field(description="In the term; where not, there is no more than holds and events")
    standing: str
    credits_earned: float
    credits: float
    credit_limit: float
    own_limit: float | None = Field(description="The student's own; else it is that of the standing")
    registered: list[str]
    waiting: int
    windows: list[OwnWindowResponse]
    holds: list[HoldResponse]
    events: list[OfficeEventResponse]


class LimitWanted(Schema):
    """A credit limit to set."""

    credits: Annotated[float, Field(strict=True, gt=0, le=60)] | None = Field(
        description="None for that of the standing"
    )
    reason: Reason


class HoldWanted(Schema):
    """A registrar's hold to place."""

    reason: Annotated[str, Field(min_length=5, max_length=300)]
    contact: Annotated[str, Field(min_length=3, max_length=120)]
    stops: list[Literal["add", "wait", "swap", "drop"]] = Field(min_length=1, max_length=4)


class RulesLifted(Schema):
    """The rules overridden for a student in one section, once."""

    number: Annotated[str, Field(pattern=r"^\d{5}$")]
    waives: list[Lift] = Field(min_length=1, max_length=9)
    words: Annotated[str, Field(max_length=500)] = ""
    until: CampusMoment | None = None
