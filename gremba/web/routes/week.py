"""The week: what a student is registered for, and what the cart would add."""

from __future__ import annotations

from fastapi import APIRouter, Request

from gremba.actions.look_at_cart import look_at_cart
from gremba.core.changes import Kind
from gremba.web.schemas import WeekView
from gremba.web.services import services_of
from gremba.web.views import section_view
from gremba.web.whose import Whose

router = APIRouter(prefix="/api/terms/{term}")


@router.get("/week")
def read_week(request: Request, whose: Whose, term: str) -> WeekView:
    """The sections registered and those in the cart, each with every date on which it meets."""
    view = look_at_cart(services_of(request).desk, whose, term)
    calendar = view.term.calendar
    return WeekView(
        term=term,
        registered=[
            section_view(h.section, calendar, h.credits, h.grading) for h in view.situation.held
        ],
        in_cart=[
            section_view(o.section, calendar, o.credits, o.grading)
            for o in view.decision.outcomes
            if o.section and o.change.kind in (Kind.ADD, Kind.SWAP)
        ],
    )
