"""Schemas of shared schedules."""

from __future__ import annotations

from datetime import datetime
from typing import Annotated, Literal

from pydantic import Field

from gremba.web.catalogue.term_schemas import SectionResponse, TermResponse
from gremba.web.schema_base import Schema


class LinkWanted(Schema):
    """A link to be made."""

    kind: Literal["calendar", "share"]
    days: Annotated[int, Field(ge=1, le=120, description="For share: how long it lasts")] = 14


class LinkResponse(Schema):
    """A link in force."""

    id: int
    kind: Literal["calendar", "share"]
    made_at: datetime
    expires_at: datetime | None


class LinksResponse(Schema):
    """The links in force, newest first."""

    links: list[LinkResponse]


class LinkMade(Schema):
    """A link just made."""

    path: str = Field(description="The address on this server; its secret part is told only now")
    links: list[LinkResponse]


class SharedWeekResponse(Schema):
    """A week as somebody sees it who was given a link."""

    student: str
    term: TermResponse
    registered: list[SectionResponse]
    expires_at: datetime
