"""Schemas of terms, windows and sections."""

from __future__ import annotations

from datetime import date, datetime
from typing import Literal

from pydantic import Field

from gremba.core.windows.opening import WindowState
from gremba.web.schema_base import Schema


class BreakResponse(Schema):
    """Days without classes."""

    name: str
    first_day: date
    last_day: date


class TermSessionResponse(Schema):
    """A part of the term with its deadlines; each holds to the end of that day."""

    code: str
    name: str
    first_day: date
    last_day: date
    add_by: date
    drop_by: date
    withdraw_by: date


class TermResponse(Schema):
    """The days of a term."""

    code: str
    name: str
    zone: str
    first_day: date
    last_day: date
    breaks: list[BreakResponse]
    sessions: list[TermSessionResponse]


class WindowResponse(Schema):
    """The registration window: the open one, else the next, else the last."""

    state: WindowState
    opens_at: datetime | None
    closes_at: datetime | None


class MeetingResponse(Schema):
    """When and where a section meets, with every date."""

    pattern: str
    start: int = Field(description="Minutes since midnight, local")
    end: int
    room: str
    campus: str
    dates: list[date]


class GradingResponse(Schema):
    """A basis on which a course is graded."""

    name: str
    earns_credits: bool


class SectionResponse(Schema):
    """A section as the week and the list show it."""

    number: str
    name: str
    course: str
    title: str
    component: str
    delivery: str
    campus: str
    session: str
    first_day: date
    last_day: date
    instructors: list[str]
    notes: str
    credits: float
    grading: str
    earns_credits: bool = Field(description="With that grading basis")
    gradings: list[GradingResponse]
    credits_least: float
    credits_most: float
    adjust_by: date = Field(description="Grading and credits can be changed up to that day")
    meetings: list[MeetingResponse]


class WeekEntryResponse(Schema):
    """A section of the week, or one that the cart is about, and what becomes of it."""

    section: SectionResponse
    registered: bool
    state: Literal["registered", "dropped", "added", "swapped", "planned", "stopped"]
    planned: Literal["drop", "swap", "adjust"] | None = Field(
        description="What the cart would do with it, where it is registered"
    )
    clashes: bool
    tight: bool = Field(description="There is hardly time for the way to it")


class WeekResponse(Schema):
    """The registered week, and what the cart would make of it."""

    term: str
    entries: list[WeekEntryResponse]
