"""Schemas of permission requests and delegates."""

from __future__ import annotations

from datetime import date, datetime
from typing import Annotated, Literal

from pydantic import Field, StringConstraints

from gremba.web.schema_base import CampusMoment, Lift, PlainText, Schema

RequestState = Literal["open", "asked back", "granted", "refused", "taken back", "withdrawn", "closed"]
EventKind = Literal[
    "asked",
    "asked back",
    "answered",
    "passed on",
    "granted",
    "refused",
    "taken back",
    "withdrawn",
    "reminded",
    "stuck",
    "put through",
    "closed",
]
Words = Annotated[PlainText, StringConstraints(max_length=20_000)]
"""Far more than is taken, so that what is too long is told how long it may be."""


class AskingResponse(Schema):
    """What a request for a section would cover."""

    number: str
    name: str
    title: str
    times: str
    waives: list[Lift]
    lifted: list[str] = Field(description="What stops it and would not any more")
    who: list[str] = Field(description="Who has to say yes, in order")
    otherwise: list[str] = Field(description="What would stop it all the same")
    with_it: list[str] = Field(description="What is put through with it")
    why_not: str = Field(description="Why nothing can be asked, and what to do; empty if it can")
    may_wait: bool = Field(description="The way on is the waitlist")
    open_request: int | None = Field(description="The request for it that is open already")
    most_words: int


class RequestWanted(Schema):
    """A request for a section."""

    number: Annotated[str, StringConstraints(pattern=r"^[0-9]{5}$")]
    words: Words
    goes_through: bool = Field(default=False, description="Put it through by itself once it is granted")


class RequestEvent(Schema):
    """What happened to a request."""

    what: EventKind
    at: datetime
    by: str
    stands_for: str
    words: str


class RequestFile(Schema):
    """An attached file."""

    id: int
    name: str
    size: int = Field(description="Octets")


class RequestResponse(Schema):
    """A request as its student sees it."""

    id: int
    version: int
    number: str
    name: str
    title: str
    state: RequestState
    waives: list[Lift]
    who: str = Field(description="Who has it; empty where nobody has")
    asked_at: datetime
    since: datetime
    good_until: datetime | None
    is_good: bool = Field(description="Granted, not used, and not over")
    used_at: datetime | None
    confirmation: int | None
    goes_through: bool
    words: str
    otherwise: list[str]
    events: list[RequestEvent]
    files: list[RequestFile]


class RequestList(Schema):
    """A student's requests for a term, newest first."""

    requests: list[RequestResponse]


class BegunRequest(Schema):
    """The id of a request that was made."""

    id: int


class AnswerBack(Schema):
    """The student's answer to a question."""

    words: Words


class RecordLine(Schema):
    """A course on the student's record."""

    course: str
    term: str
    grade: str
    credits: float


class RequestToAnswer(RequestResponse):
    """A request as its decider sees it."""

    student: str
    program: str
    class_standing: str
    standing: str
    credits_earned: float
    record: list[RecordLine] = Field(description="The latest first")
    credits_before: float
    credits_after: float = Field(description="With a yes")
    credit_limit: float
    goes: bool = Field(description="A yes is all that is missing")
    still_stops: list[str] = Field(description="What would stop it all the same, now")
    week: list[str] = Field(description="What the student is registered for, with its times")
    is_mine: bool = Field(description="It is with whoever asks, to be answered now")
    stands_for: str = Field(description="In whose place they have it; empty for their own")


class SectionToAnswer(Schema):
    """A section with its requests."""

    number: str
    name: str
    title: str
    times: str
    limit: int
    taken: int
    offered: int
    promised: int
    waiting: int
    room: int | None = Field(description="What the smallest of its rooms holds")
    room_left: int | None
    let_in: int = Field(description="Requests for it that were granted lately")
    requests: list[RequestToAnswer]


class DelegateResponse(Schema):
    """A delegate, who decides in somebody's place."""

    id: int
    person: str
    delegate: str
    from_on: date
    until_on: date
    is_mine: bool = Field(description="Named by whoever asks")


class OpenElsewhere(Schema):
    """Another term with requests to decide."""

    term: str
    name: str
    open: int


class RequestsToAnswer(Schema):
    """Everything somebody has to decide in a term, and recent decisions."""

    open: int = Field(description="To be answered now")
    sections: list[SectionToAnswer]
    delegates: list[DelegateResponse]
    latest_until: datetime = Field(description="A yes given now is good until then at the most")
    more: int | None = Field(description="Behind this request there is more that was answered")
    elsewhere: list[OpenElsewhere]


class Said(Schema):
    """A decision about a request."""

    answer: Literal["yes", "no", "not yet"]
    words: Words = ""
    until: CampusMoment | None = Field(
        default=None, description="Until when a yes is good; a time without a zone is the college's"
    )
    version: int = Field(ge=1, le=2**31 - 1, description="Of the request that the answer was made for")


class TakenBack(Schema):
    """Why an approval is withdrawn."""

    words: Words


class LetIn(Schema):
    """Permission for one's own section without a request."""

    student: Annotated[str, StringConstraints(min_length=1, max_length=100, strip_whitespace=True)]
    waives: Annotated[list[Lift], Field(min_length=1, max_length=9)]
    words: Words = ""
    until: CampusMoment | None = None


class DelegateWanted(Schema):
    """A delegation from one day through another."""

    username: Annotated[str, StringConstraints(min_length=1, max_length=100, strip_whitespace=True)]
    from_on: date
    until_on: date
