"""Schemas of the session."""

from __future__ import annotations

from datetime import date, datetime
from typing import Annotated, Literal

from pydantic import Field, StringConstraints

from gremba.web.catalogue.term_office_schemas import TermStateName
from gremba.web.schema_base import Schema


class Health(Schema):
    """The application and its database answer."""

    status: Literal["well"]


class PersonResponse(Schema):
    """Who is signed in."""

    username: str
    full_name: str
    role: Literal["student", "advisor", "instructor", "registrar", "cashier"]


class TermName(Schema):
    """A term to choose."""

    code: str
    name: str
    first_day: date
    last_day: date
    state: TermStateName


class SessionResponse(Schema):
    """Who is signed in, the current time, and the terms."""

    person: PersonResponse | None
    csrf_token: str = Field(description="To be sent back as X-CSRF-Token with every write")
    college: str
    demo: bool
    now: datetime = Field(description="The time in force, in the college's zone")
    zone: str
    terms: list[TermName]
    usual_term: str = Field(description="The term that is open for registration")


class Credentials(Schema):
    """A user name and a password."""

    username: Annotated[str, StringConstraints(min_length=1, max_length=200)]
    password: Annotated[str, StringConstraints(min_length=1, max_length=1000)]


class PersonSignedOut(Schema):
    """The person whose sessions were ended."""

    full_name: str
    sessions: int = Field(description="How many there were")


class OpenSession(Schema):
    """One open session."""

    opened_at: datetime
    seen_at: datetime = Field(description="When it was last used, to five minutes")
    browser: str
    is_this: bool = Field(description="It is the one that asks")


class FailedPage(Schema):
    """Where a page failed. What the person typed is not sent."""

    where: Annotated[str, StringConstraints(max_length=40)] = Field(description="Frame, screen or cart")
    address: Annotated[str, StringConstraints(max_length=200)]
    problem: Annotated[str, StringConstraints(max_length=300)]


class DemoPerson(Schema):
    """A person of the demo to sign in as."""

    username: str
    full_name: str
    who: str
    situation: str


class DemoPeople(Schema):
    """The people of the demo and the password they share."""

    password: str
    people: list[DemoPerson]


class DemoMoment(Schema):
    """A moment to which the campus clock can be set."""

    name: str
    at: datetime


class ClockMove(Schema):
    """The time to set the campus clock to."""

    to: datetime = Field(description="Without a zone it is a time of the campus")
