"""Waitlists, offers and messages."""

from __future__ import annotations

from datetime import datetime
from typing import Annotated, Literal

from pydantic import Field

from gremba.web.schemas.base import Number, Shape
from gremba.web.schemas.cart import FiguresView, OutcomeView, SectionName


class PlaceEventView(Shape):
    """What happened to a place."""

    what: str
    at: datetime
    cause: str
    by: str = Field(description="Who did it, where that was not the student")


class ChanceView(Shape):
    """How often places like this one came up, in the college's own past terms."""

    sentence: str
    came_up: int
    of: int
    low: float = Field(description="Lower end of the 90 % interval, 0 to 1")
    high: float


class PlaceView(Shape):
    """A place on a waitlist."""

    id: int
    section: SectionName
    title: str
    times: str
    state: Literal["waiting", "offered", "given", "left", "declined", "lapsed", "closed"]
    way: Literal["offer", "automatic"]
    joined_at: datetime
    ended_at: datetime | None
    offer_until: datetime | None
    closes_at: datetime
    position: int = Field(description="Counted now; 0 where it does not wait")
    waiting: int
    in_exchange: SectionName | None
    names: list[SectionName]
    events: list[PlaceEventView]
    chance: ChanceView | None


class PlacesView(Shape):
    """A student's places, open ones first."""

    places: list[PlaceView]


class OfferChoice(Shape):
    """How an offer is accepted."""

    in_exchange: Number | None = Field(None, description="As a swap: the section given up")
    names: Annotated[list[Number], Field(max_length=4)] = Field(
        [], description="Companions to take with it"
    )


class OfferView(Shape):
    """What accepting leads, or would lead, to."""

    possible: bool
    outcomes: list[OutcomeView]
    before: FiguresView
    after: FiguresView
    companions: list[SectionName] = Field(description="Those that could go with it")
    swaps: list[SectionName] = Field(description="Sections held that could be given up for it")
    full: list[str] = Field(
        description="Components to be taken with it of which no section has a seat at the moment"
    )
    receipt: int | None


class MessageView(Shape):
    """A message."""

    id: int
    title: str
    body: str
    until: datetime | None
    made_at: datetime
    read_at: datetime | None


class MessagesView(Shape):
    """Messages, newest first."""

    messages: list[MessageView]


class NewsView(Shape):
    """What is new: for the bar at the top."""

    unread: int
    offers: int
    first_lapses: datetime | None


class ReadUpTo(Shape):
    """The latest message that was read."""

    id: Annotated[int, Field(ge=0, le=2**62)]


class RefusedMailView(Shape):
    """A message to a student that the mail server will never take as it is."""

    id: int
    student: str
    address: str
    title: str
    made_at: datetime
    refused_at: datetime
    problem: str = Field(description="What the mail server said")


class RefusedMail(Shape):
    """Such messages, the latest first."""

    mails: list[RefusedMailView]
    more: bool
