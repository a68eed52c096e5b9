"""Schemas of plans in a cart."""

from __future__ import annotations

from datetime import datetime
from typing import Literal

from pydantic import Field

from gremba.core.registration.changes import Kind
from gremba.core.registration.plans import MOST_PLANS
from gremba.web.registration.cart_schemas import FiguresResponse, PlanStop, SectionName, SubmissionWanted
from gremba.web.schema_base import Schema


class PlannedChange(Schema):
    """A change in a plan."""

    kind: Kind
    section: SectionName
    in_exchange: str


class PlanResponse(Schema):
    """A timetable in the cart, and the result of submitting it alone."""

    id: int
    name: str = Field(description="A, B, C")
    changes: list[PlannedChange]
    is_whole: bool = Field(description="All of it would go through")
    stops: list[PlanStop]


class PlansResponse(Schema):
    """The cart's plans, and what submitting them would do."""

    plans: list[PlanResponse]
    fallback: Literal["nothing", "best part"]
    taken: str = Field(description="The plan that would be taken whole; empty for none")
    passing: int = Field(description="So many changes would go through or wait")
    ahead: bool = Field(description="The window is not open yet, and as_of is its opening")
    as_of: datetime
    before: FiguresResponse | None
    after: FiguresResponse | None
    sends: SubmissionWanted | None = Field(
        description="What is to be sent to put them through; None for nothing"
    )


class PlanOrder(Schema):
    """The ids of the plans in order; those left out are removed."""

    ids: list[int] = Field(max_length=MOST_PLANS)


class FallbackChoice(Schema):
    """What happens if no plan can be registered completely."""

    fallback: Literal["nothing", "best part"]
