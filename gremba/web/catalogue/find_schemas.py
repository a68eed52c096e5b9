"""Schemas of sections found and read."""

from __future__ import annotations

from datetime import date
from typing import Annotated, Literal

from pydantic import Field

from gremba.web.catalogue.seat_schemas import SeatsResponse
from gremba.web.registration.cart_schemas import EvidenceResponse, OutcomeResponse, SectionName
from gremba.web.schema_base import Number, Schema

MOST_OF_WEEK = 40
"""Sections of a week that fit is judged against, at the most."""

Numbers = Annotated[
    str,
    Field(
        pattern=r"^([0-9]{5}(,[0-9]{5})*)?$",
        max_length=2_400,
        description="Reference numbers with commas between them",
    ),
]


class TightResponse(Schema):
    """A walk between campuses that takes longer than the break."""

    other: SectionName
    minutes: int
    takes: int


class LinkedSectionFitResponse(Schema):
    """How many of a section's linked sections have a seat and fit."""

    component: str
    fitting: int
    all: int


class FitResponse(Schema):
    """How a section fits a schedule."""

    fits: bool
    clashes: list[SectionName]
    linked_sections: list[LinkedSectionFitResponse]
    tight: TightResponse | None


class MeetingHours(Schema):
    """When and where a section meets each week."""

    pattern: str
    weekdays: list[int] = Field(description="0 is Monday")
    start: int = Field(description="Minutes since midnight, local")
    end: int
    first_day: date
    last_day: date
    campus: str
    room: str


class CourseRow(Schema):
    """A course, above its sections."""

    kind: Literal["course"]
    key: str
    title: str
    credits_least: float
    credits_most: float
    needs: str = Field(description="Its requisites in words; empty where anybody may take it")
    counts: list[str]


class SectionRow(Schema):
    """A section in the results."""

    kind: Literal["section"]
    number: str
    name: str
    course: str
    title: str
    topic: str
    component: str
    delivery: str
    campus: str
    session: str
    first_day: date
    last_day: date
    meetings: list[MeetingHours]
    instructors: list[str]
    cancelled: bool
    consent_needed: bool
    restricted: bool
    bundle: str | None
    notes: str
    no_textbook_cost: bool
    seats: SeatsResponse
    fit: FitResponse


class CountResponse(Schema):
    """A value of a filter, and how many of the current results have it."""

    value: str
    name: str
    sections: int


class FilterCounts(Schema):
    """A filter with its values."""

    filter: str
    name: str
    values: list[CountResponse]


class ReadAs(Schema):
    """A word that matches nothing, and the words used instead."""

    word: str
    taken_for: list[str]


class ReadingResponse(Schema):
    """A part of the search words that was read as a filter."""

    text: str
    filter: str
    value: str
    said: str = Field(description="The value as it is called")


class SearchResponse(Schema):
    """Search results: counts, and the rows requested."""

    sections: int
    courses: int
    lines: int = Field(description="Courses and sections together")
    offset: int
    rows: list[CourseRow | SectionRow]
    counts: list[FilterCounts]
    notes: list[str] = Field(description="What of the filters could not be followed")
    loosen: list[CountResponse] = Field(
        description="Where nothing was found: filters without which something would be"
    )
    read_as: list[ReadAs]
    understood: list[ReadingResponse] = Field(description="Of the words, what was read as filters")
    rest: str = Field(description="The words that are left, as the field should have them")


class SessionDays(Schema):
    """The dates of a section's session."""

    name: str
    first_day: date
    last_day: date
    add_by: date
    drop_by: date
    withdraw_by: date


class FeeResponse(Schema):
    """A fee charged in addition to tuition."""

    label: str
    cents: int


class SectionDetails(Schema):
    """Everything about one section."""

    row: SectionRow
    session: SessionDays
    credits_least: float
    credits_most: float
    gradings: list[str]
    description: str
    counts: list[str]
    needs: str
    fees: list[FeeResponse]
    restrictions: list[str] = Field(description="Who may take it, in sentences")
    reserved: list[str]
    waitlist: str = Field(description="How its waitlist works, in a sentence")
    repeat: str = Field(description="What becomes of it when it is taken again, in a sentence")
    linked_sections: list[SectionRow]
    bundle: list[SectionRow]
    others: list[SectionRow] = Field(description="Other sections of the same course and component")
    cross_listed: list[SectionName]


class OutlookResponse(Schema):
    """What a section would mean for one student, given their cart."""

    state: Literal["registered", "in cart", "next choice", "waiting", "offered", "open"]
    outcome: OutcomeResponse
    requisites: EvidenceResponse | None
    now: bool = Field(description="False: the window is not open; as of its opening")


class StarsResponse(Schema):
    """The reference numbers of starred sections, newest first."""

    numbers: list[Number]
