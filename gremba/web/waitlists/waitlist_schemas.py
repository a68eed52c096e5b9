"""Schemas of waitlists, offers and messages."""

from __future__ import annotations

from datetime import datetime
from typing import Annotated, Literal

from pydantic import Field

from gremba.web.registration.cart_schemas import (
    DueChangeResponse,
    FiguresResponse,
    OutcomeResponse,
    SectionName,
)
from gremba.web.schema_base import Number, Schema


class WaitlistEventResponse(Schema):
    """What happened to an entry."""

    what: str
    at: datetime
    cause: str
    by: str = Field(description="Who did it, where that was not the student")


class ChanceResponse(Schema):
    """How often entries like this one got a seat in the college's past terms."""

    sentence: str
    came_up: int
    of: int
    low: float = Field(description="Lower end of the 90 % interval, 0 to 1")
    high: float


class WaitlistEntryResponse(Schema):
    """A waitlist entry."""

    id: int
    section: SectionName
    title: str
    times: str
    state: Literal["waiting", "offered", "given", "left", "declined", "lapsed", "closed"]
    how: str = Field(description="What happens when its turn comes")
    joined_at: datetime
    ended_at: datetime | None
    offer_until: datetime | None
    closes_at: datetime
    position: int = Field(description="Counted now; 0 where it does not wait")
    waiting: int
    in_exchange: SectionName | None
    chosen_linked_sections: list[SectionName]
    events: list[WaitlistEventResponse]
    chance: ChanceResponse | None


class WaitlistEntriesResponse(Schema):
    """A student's waitlist entries, open ones first."""

    entries: list[WaitlistEntryResponse]


class OfferChoice(Schema):
    """How to accept an offer."""

    in_exchange: Number | None = Field(None, description="As a swap: the section given up")
    chosen_linked_sections: Annotated[list[Number], Field(max_length=4)] = Field(
        [], description="Linked sections to take with it"
    )


class OfferResponse(Schema):
    """What accepting an offer does or would do."""

    possible: bool
    outcomes: list[OutcomeResponse]
    before: FiguresResponse
    after: FiguresResponse
    due: DueChangeResponse | None = Field(
        None, description="None once it is accepted, and where the term has no due dates"
    )
    linked_sections: list[SectionName] = Field(description="Those that could go with it")
    swaps: list[SectionName] = Field(description="Sections held that could be given up for it")
    full: list[str] = Field(
        description="Components to be taken with it of which no section has a seat at the moment"
    )
    confirmation: int | None


class MessageResponse(Schema):
    """A message."""

    id: int
    title: str
    body: str
    until: datetime | None
    made_at: datetime
    read_at: datetime | None


class MessagesResponse(Schema):
    """Messages, newest first."""

    messages: list[MessageResponse]


class NewsResponse(Schema):
    """The counters of the top bar."""

    unread: int
    offers: int
    first_lapses: datetime | None


class ReadUpTo(Schema):
    """The latest message read."""

    id: Annotated[int, Field(ge=0, le=2**62)]


class RefusedMessage(Schema):
    """A message whose mail was permanently rejected."""

    id: int
    student: str
    address: str
    title: str
    made_at: datetime
    refused_at: datetime
    problem: str = Field(description="What the mail server said")


class RefusedMailResponse(Schema):
    """Such messages, newest first."""

    mails: list[RefusedMessage]
    more: bool
