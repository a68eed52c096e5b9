"""Schemas of sections for the registrar."""

from __future__ import annotations

from datetime import date
from typing import Annotated, Literal

from pydantic import Field

from gremba.web.exchange.import_schemas import FolderReport
from gremba.web.schema_base import Schema

Number = Annotated[str, Field(pattern=r"^\d{5}$")]


class TeacherResponse(Schema):
    """An instructor of a section."""

    username: str
    full_name: str


class MeetingCells(Schema):
    """When and where a section meets."""

    weekdays: str
    starts: int = Field(description="Minutes since midnight, local")
    ends: int
    first_day: date
    last_day: date
    campus: str
    room: str


class ReservedResponse(Schema):
    """Reserved seats."""

    kind: Literal["cohort", "program", "campus", "residence"]
    value: str
    seats: int
    release_on: date | None


class OfficeSectionResponse(Schema):
    """A section with its seats."""

    number: str
    name: str
    title: str
    component: str
    carries_credit: bool
    session: str
    session_first: date
    session_last: date
    times: str
    rooms: list[str]
    teachers: list[TeacherResponse]
    limit: int
    taken: int
    waiting: int
    seats_with: str = Field(description="The section whose seats these are; empty where they are its own")
    waitlist_limit: int
    waitlist_way: Literal["offer", "automatic"]
    consent_needed: bool
    cancelled: bool
    topic: str
    notes: str
    meetings: list[MeetingCells]
    reserved: list[ReservedResponse]


class OfficeSections(Schema):
    """The sections of a term."""

    sections: list[OfficeSectionResponse]
    campuses: dict[str, str] = Field(description="Names of the campuses by their code")


class MeetingChange(MeetingCells):
    """A new time or place for one of a section's meetings."""

    place: Annotated[int, Field(ge=1, le=99, description="Which of its meetings, from 1")]
    weekdays: Annotated[str, Field(pattern=r"^[MTWRFSU]{1,7}$")]
    starts: Annotated[int, Field(ge=0, le=1439)]
    ends: Annotated[int, Field(ge=0, le=1439)]
    campus: Annotated[str, Field(max_length=40)] = ""
    room: Annotated[str, Field(max_length=80)] = ""


class ReservedChange(ReservedResponse):
    """Reserved seats to set."""

    value: Annotated[str, Field(min_length=1, max_length=80)]
    seats: Annotated[int, Field(ge=1, le=100_000)]
    release_on: date | None = None


class SectionsChange(Schema):
    """Changes to sections; fields that are left out stay as they are."""

    numbers: list[Number] = Field(min_length=1, max_length=1000)
    limit: Annotated[int, Field(ge=0, le=100_000)] | None = None
    limit_by: Annotated[int, Field(ge=-10_000, le=10_000)] | None = None
    waitlist_limit: Annotated[int, Field(ge=0, le=10_000)] | None = None
    waitlist_way: Literal["offer", "automatic"] | None = None
    consent_needed: bool | None = None
    cancelled: bool | None = None
    notes: Annotated[str, Field(max_length=2000)] | None = None
    meetings: list[MeetingChange] = Field(default=[], max_length=20)
    reserved: list[ReservedChange] = Field(default=[], max_length=20)
    old_teacher: Annotated[str, Field(max_length=60)] = ""
    new_teacher: Annotated[str, Field(max_length=60)] = ""
    trial: bool = True
    expected: Annotated[str, Field(max_length=64)] = Field(
        default="", description="The digest of the trial's report"
    )


class SectionsReport(Schema):
    """What a change does, and which students it affects."""

    report: FolderReport
    linked_sections: list[str] = Field(description="Sections that go with those taken off, and stay")
