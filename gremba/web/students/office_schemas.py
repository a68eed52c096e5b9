"""Schemas for advisors, instructors and the cashier."""

from __future__ import annotations

from datetime import datetime
from typing import Annotated, Literal

from pydantic import Field, StringConstraints

from gremba.web.registration.cart_schemas import OutcomeResponse
from gremba.web.schema_base import CampusMoment, Lift, PlainText, Schema
from gremba.web.students.clearance_schemas import HoldResponse


class AdviseeResponse(Schema):
    """One of the advisor's students."""

    id: int
    username: str
    full_name: str
    program: str
    cohort: str
    standing: str
    released: bool | None
    own_limit: float | None
    credits: float
    in_cart: int
    holds: int
    window_opens_at: datetime | None


class Advisees(Schema):
    """The advisor's students for a term."""

    students: list[AdviseeResponse]
    more: bool


class StoppedCartResponse(Schema):
    """A cart with changes that are blocked by more than the window."""

    student: AdviseeResponse
    stops: list[str]
    passing: int = Field(description="Changes that would go through, or wait")
    outcomes: list[OutcomeResponse]


class PlanToAgree(Schema):
    """A student whose plan awaits the advisor's agreement."""

    student: int
    full_name: str


class AdvisingDayResponse(Schema):
    """Who needs the advisor now."""

    unreleased: list[AdviseeResponse] = Field(description="With a window open or near, the nearest first")
    stopped: list[StoppedCartResponse]
    requests: int = Field(description="Requests to be answered by the advisor in this term")
    plans: list[PlanToAgree]


class ReleaseMany(Schema):
    """Students to clear, all or none."""

    students: Annotated[list[Annotated[int, Field(ge=1, le=2**31 - 1)]], Field(min_length=1, max_length=400)]


class Released(Schema):
    """How many were newly cleared."""

    released: int


class Release(Schema):
    """Whether the student is cleared to register."""

    released: bool


class Limit(Schema):
    """A student's own credit limit; None for the default."""

    credits: Annotated[float, Field(strict=True, ge=0, le=60, multiple_of=0.5)] | None


class TaughtSection(Schema):
    """A section that an instructor teaches."""

    number: str
    name: str
    title: str
    times: str
    limit: int
    taken: int
    waiting: int


class RosterEntry(Schema):
    """A student on a roster."""

    full_name: str
    username: str
    program: str
    credits: float
    grading: str
    earns_credits: bool = Field(description="With that grading basis")


class PermissionCodeResponse(Schema):
    """A permission code, or a permission given without one, and its use."""

    id: int
    code: str = Field(description="Empty where the student needs none")
    waives: list[Lift]
    student: str
    given_at: datetime
    expires_at: datetime | None
    state: Literal["open", "used", "expired", "taken back"]
    used_by: str
    used_at: datetime | None


class WaitingEntry(Schema):
    """A student who waits for a section or has an offer."""

    full_name: str
    state: Literal["waiting", "offered"]
    since: datetime
    until: datetime | None


class TaughtResponse(Schema):
    """A section with its roster, waitlist, and permission codes."""

    section: TaughtSection
    roster: list[RosterEntry]
    waitlist: list[WaitingEntry]
    permission_codes: list[PermissionCodeResponse]


class PermissionCodesWanted(Schema):
    """Permission codes to create."""

    waives: Annotated[list[Lift], Field(min_length=1, max_length=8)]
    many: Annotated[int, Field(ge=1, le=50)] = 1
    student: Annotated[str, StringConstraints(max_length=60)] = Field(
        "", description="User name of the one student they are for; empty for anybody"
    )
    expires_at: CampusMoment | None = Field(
        None, description="Without a zone: a time of the campus; None for as long as may be"
    )


class FoundStudent(Schema):
    """A student as the cashier finds one."""

    id: int
    username: str
    full_name: str
    program: str


class FeeHolds(Schema):
    """A student with their fee holds."""

    student: FoundStudent
    holds: list[HoldResponse]


class FeeWanted(Schema):
    """A fee hold to place."""

    reason: Annotated[PlainText, StringConstraints(min_length=5, max_length=300)]
    amount_cents: Annotated[int, Field(ge=1, le=10_000_000)]


class Lifted(Schema):
    """Why a hold is lifted."""

    why: Annotated[PlainText, StringConstraints(min_length=3, max_length=300)]
