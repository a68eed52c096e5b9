"""Schemas of clearance, holds and payments. Amounts are in cents."""

from __future__ import annotations

from datetime import datetime
from typing import Annotated, Literal

from pydantic import Field, StringConstraints

from gremba.core.states import ClearanceKind
from gremba.web.catalogue.term_schemas import WindowResponse
from gremba.web.schema_base import PlainText, Schema


class ItemResponse(Schema):
    """An item of the registration checklist."""

    kind: ClearanceKind
    name: str
    about: str
    owner: str
    done: bool
    done_at: datetime | None
    done_by: str
    alone: bool = Field(description="The student can clear it alone, right there")


class HoldResponse(Schema):
    """A hold."""

    id: int
    reason: str
    office: str
    contact: str
    stops: list[str]
    amount_cents: int | None
    payable: bool
    by_account: bool = Field(description="Lifted as soon as what is due is paid under Account")
    placed_at: datetime
    lifted_at: datetime | None
    lifted_why: str
    waiting_payment: str | None = Field(description="Reference of a payment without an answer")


class DetailsSchema(Schema):
    """A student's contact details."""

    phone: Annotated[PlainText, StringConstraints(max_length=60)]
    address: Annotated[PlainText, StringConstraints(max_length=400)]
    emergency_name: Annotated[PlainText, StringConstraints(max_length=120)]
    emergency_phone: Annotated[PlainText, StringConstraints(max_length=60)]


class QuestionResponse(Schema):
    """A question of the survey."""

    key: str
    text: str
    options: list[str]


class StandingResponse(Schema):
    """The academic standing and what it limits."""

    name: str
    class_standing: str
    credits_earned: float
    credit_limit: float
    own_limit: bool = Field(description="The limit is the student's own, set by the advisor")


class ClearanceResponse(Schema):
    """The registration checklist."""

    sentence: str
    clear: bool
    window: WindowResponse
    items: list[ItemResponse]
    holds: list[HoldResponse]
    standing: StandingResponse
    email: str = Field(description="Told to the student alone, as are the details")
    details: DetailsSchema | None
    agreement: list[str]
    orientation: list[str]
    survey: list[QuestionResponse]


class Answers(Schema):
    """Answers to the survey, by question key."""

    answers: Annotated[dict[str, Annotated[str, StringConstraints(max_length=200)]], Field(max_length=20)]


class PaymentResponse(Schema):
    """The state of a payment."""

    reference: str
    state: Literal["waiting", "approved", "declined", "returned"]
    amount_cents: int
    hold: int | None = Field(description="That it lifts; None where it goes to an account")
    text: str
