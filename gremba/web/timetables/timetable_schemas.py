"""Schemas of Timetables questions and answers."""

from __future__ import annotations

from datetime import date, datetime
from typing import Annotated, Literal

from pydantic import Field, StringConstraints, model_validator

from gremba.core.timetables.answer import MOST_SHOWN, MOST_WALKED
from gremba.core.timetables.question import (
    MOST_CRITERIA,
    MOST_IN_ALL,
    MOST_KEPT_FREE,
    MOST_OF_CHOICE,
    MOST_WANTS,
)
from gremba.web.catalogue.find_schemas import SectionRow
from gremba.web.registration.cart_schemas import FindingResponse, SectionName
from gremba.web.schema_base import Number, PlainText, Schema

CourseKey = Annotated[str, StringConstraints(min_length=2, max_length=20)]
Code = Annotated[str, StringConstraints(min_length=1, max_length=60)]
Codes = Annotated[list[Code], Field(max_length=20)]
Numbers = Annotated[list[Number], Field(max_length=60)]
Order = Literal[
    "starts late",
    "ends early",
    "days free",
    "few gaps",
    "short days",
    "few ways",
    "seats left",
    "starred",
    "few changes",
]


class WantSchema(Schema):
    """A course, or alternatives, and which sections will do."""

    courses: list[CourseKey] = Field([], max_length=MOST_OF_CHOICE)
    tag: str = Field("", max_length=60, description="Instead of courses: what they are to count toward")
    count: int = Field(1, ge=1, le=4, description="How many of them are wanted")
    is_needed: bool = Field(True, description="False: only if it fits")
    without: Numbers = []
    only: Numbers = []
    instructors: Codes = []
    campuses: Codes = []
    deliveries: Codes = []
    sessions: Codes = []

    @model_validator(mode="after")
    def _says_what(self) -> WantSchema:
        if bool(self.courses) == bool(self.tag):
            raise ValueError("Name courses, or what they are to count toward, and not both.")
        if self.courses and self.count > len(set(self.courses)):
            raise ValueError("More are wanted than there are to choose among.")
        return self


class KeptFreeSchema(Schema):
    """Hours to keep free on some weekdays."""

    weekdays: list[Annotated[int, Field(ge=0, le=6)]] = Field(
        min_length=1, max_length=7, description="0 is Monday"
    )
    start: int = Field(ge=0, lt=24 * 60, description="Minutes since midnight")
    end: int = Field(gt=0, le=24 * 60)
    label: Annotated[PlainText, StringConstraints(max_length=40)] = ""
    first: date | None = Field(None, description="The first date; none for the whole term")
    last: date | None = None
    is_must: bool = Field(True, description="False: rather than not")

    @model_validator(mode="after")
    def _runs_forward(self) -> KeptFreeSchema:
        if self.end <= self.start:
            raise ValueError("The hours end before they begin; let them end later.")
        if self.first and self.last and self.last < self.first:
            raise ValueError("The dates run backwards; let the last be after the first.")
        return self


class QuestionSchema(Schema):
    """A question to Timetables."""

    wants: list[WantSchema] = Field([], max_length=MOST_WANTS)
    kept_free: list[KeptFreeSchema] = Field([], max_length=MOST_KEPT_FREE)
    may_move: Numbers = Field([], description="Sections registered that may move to others of their course")
    keeps: Numbers = Field([], description="Sections that every timetable is to have")
    order: list[Order] = Field([], max_length=MOST_CRITERIA)
    seats: Literal["left", "waitlist", "all"] = "left"
    no_tight_ways: bool = False

    @model_validator(mode="after")
    def _can_be_told_apart(self) -> QuestionSchema:
        in_all = sum(w.count for w in self.wants)
        if in_all > MOST_IN_ALL:
            raise ValueError(f"{in_all} courses are wanted in all; {MOST_IN_ALL} are the most. Take one out.")
        choices = [w for w in self.wants if w.tag or len(w.courses) > 1]
        kinds = {w.model_dump_json(exclude={"count", "is_needed"}) for w in choices}
        for choice in choices:
            sharing = [w for w in choices if w.tag or choice.tag or set(w.courses) & set(choice.courses)]
            if sum(w.count for w in sharing) > 2 and len(kinds) > 1:
                raise ValueError(
                    "More than two choices share courses, so timetables could not be told apart. "
                    "Let each course stand in one choice."
                )
        return self


class AskedSchema(QuestionSchema):
    """A question, and which timetables to return."""

    first: int = Field(0, ge=0, le=MOST_WALKED)
    many: int = Field(24, ge=1, le=MOST_SHOWN)
    show: Numbers = Field([], description="Reference numbers of a timetable to be looked at besides")


class CourseOfWant(Schema):
    """A course that is wanted."""

    key: str
    title: str


class StoppedResponse(Schema):
    """A section that is blocked in any timetable."""

    section: SectionName
    finding: FindingResponse


class WantResponse(Schema):
    """The result for one wanted course."""

    name: str
    state: Literal["sought", "held", "twice", "not offered", "unknown", "stopped"]
    is_in: bool
    is_needed: bool
    moves: bool = Field(description="It is registered, and may move")
    courses: list[CourseOfWant]
    fitting: int = Field(description="Sections that would do")
    in_all: int
    stopped: list[StoppedResponse]
    hangs_on: str = Field(description="That all timetables need one section of it, in a few words; or empty")
    seats: int | None = Field(description="The seats left in that section")


class PartResponse(Schema):
    """A wanted course as a timetable has it."""

    course: str
    numbers: list[Number]
    alike: list[list[Number]] = Field(description="Others that come to the same for the timetable")
    others: int = Field(description="Other ways to have it that would still fit the rest")
    seats: int = Field(description="Seats left, the least of its sections")


class TimetableResponse(Schema):
    """One timetable."""

    place: int | None = Field(description="In the order, from 0")
    numbers: list[Number] = Field(description="All of its sections but those that stay, ascending")
    parts: list[PartResponse] = Field(description="The scarcest first")
    differs: list[Number] = Field(description="Sections that the one before it does not have")
    start: int | None = Field(description="The earliest class of the week, in minutes since midnight")
    end: int | None
    gaps: int
    days: list[int] = Field(description="Weekdays with class; 0 is Monday")
    credits: float
    breaks: list[int] = Field(description="Places of the hours that it does not keep free")
    stops: list[FindingResponse] = Field(description="What the rules say against it")
    is_in_order: bool


class KeySectionResponse(Schema):
    """A section without which few or no timetables remain."""

    section: SectionName
    without: int = Field(description="Timetables that would be left")
    seats: int


class WayOnResponse(Schema):
    """A way out if nothing is possible."""

    text: str
    question: QuestionSchema | None = Field(description="What would be asked then")


class ReasonResponse(Schema):
    """Why there is no timetable: what cannot be combined."""

    title: str
    text: str
    ways_on: list[WayOnResponse]


class NearestResponse(Schema):
    """The closest timetable if none is possible."""

    without: list[str]
    number: int
    is_beyond: bool
    is_exact: bool
    timetables: list[TimetableResponse]


class TimetablesResponse(Schema):
    """The answer: how many timetables there are, the best ones, and why there are no others."""

    number: int
    is_exact: bool = Field(description="False: there are at least so many")
    is_beyond: bool = Field(description="There are more than are counted")
    is_whole: bool = Field(description="False: not all could be looked at in the time there is")
    wants: list[WantResponse]
    timetables: list[TimetableResponse]
    shown: TimetableResponse | None
    sections: dict[str, SectionRow] = Field(description="Every section that is named, by its number")
    stays: list[Number] = Field(description="Registered sections that stay as they are")
    key_sections: list[KeySectionResponse]
    reasons: list[ReasonResponse]
    are_reasons_whole: bool
    nearest: NearestResponse | None
    looked_at: list[Number]
    now: bool = Field(description="False: the window is not open; as of its opening")
    as_of: datetime


class CourseDemand(Schema):
    """How many want a course."""

    course: str
    wants: int


class DemandResponse(Schema):
    """Demand by course, highest first."""

    courses: list[CourseDemand]
