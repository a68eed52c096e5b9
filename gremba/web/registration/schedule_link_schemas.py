"""Schemas of shared schedules."""

from __future__ import annotations

from datetime import datetime
from typing import Annotated, Literal

from pydantic import Field

from gremba.web.catalogue.term_schemas import SectionResponse, TermResponse
from gremba.web.schema_base import Schema


class LinkWanted(Schema):
    """A link to create."""

    kind: Literal["calendar", "share"]
    days: Annotated[int, Field(ge=1, le=120, description="For share: how long it lasts")] = 14


class LinkResponse(Schema):
    """An active link."""

    id: int
    kind: Literal["calendar", "share"]
    made_at: datetime
    expires_at: datetime | None


class LinksResponse(Schema):
    """The active links, newest first."""

    links: list[LinkResponse]


class LinkMade(Schema):
    """A link that was created."""

    path: str = Field(description="The address on this server; its secret part is told only now")
    links: list[LinkResponse]


class SharedWeekResponse(Schema):
    """A schedule as the holder of a link sees it."""

    student: str
    term: TermResponse
    registered: list[SectionResponse]
    expires_at: datetime
