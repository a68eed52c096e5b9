"""Schemas of timetable drafts."""

from __future__ import annotations

from datetime import datetime
from typing import Annotated

from pydantic import Field, StringConstraints

from gremba.web.catalogue.term_schemas import SectionResponse, TermResponse
from gremba.web.schema_base import Number, PlainText, Schema
from gremba.web.timetables.timetable_schemas import QuestionSchema

DraftName = Annotated[PlainText, StringConstraints(min_length=1, max_length=60)]


class DraftWanted(Schema):
    """A timetable to save, with its question."""

    name: DraftName
    question: QuestionSchema
    numbers: Annotated[list[Number], Field(min_length=1, max_length=60)]


class DraftRenamed(Schema):
    """A new name."""

    name: DraftName


class DraftLinkWanted(Schema):
    """The link to create."""

    days: Annotated[int, Field(ge=1, le=120, description="How long it lasts")] = 14


class DraftResponse(Schema):
    """A saved timetable."""

    id: int
    name: str
    question: QuestionSchema
    numbers: list[Number]
    kept_at: datetime
    changed: list[str] = Field(description="What has changed since, a sentence each")
    link_ends_at: datetime | None


class DraftsResponse(Schema):
    """Saved timetables, newest first."""

    drafts: list[DraftResponse]


class DraftLinked(Schema):
    """The link that was created."""

    path: str = Field(description="The address on this server; its secret part is told only now")
    drafts: list[DraftResponse]


class SharedDraftResponse(Schema):
    """A timetable as the holder of a link sees it."""

    student: str
    name: str
    term: TermResponse
    sections: list[SectionResponse]
    changed: list[str]
    ends_at: datetime


class TimetableSections(Schema):
    """The sections of a timetable, with all their dates."""

    term: TermResponse
    sections: list[SectionResponse]
