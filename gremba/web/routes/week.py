"""The week: what a student is registered for, and what the cart would add."""

from __future__ import annotations

from fastapi import APIRouter, Request

from gremba.actions.look_at_cart import look_at_cart
from gremba.web.access import SignedIn
from gremba.web.schemas import WeekView
from gremba.web.services import services_of
from gremba.web.views import section_view

router = APIRouter(prefix="/api/terms/{term}")


@router.get("/week")
def read_week(request: Request, session: SignedIn, term: str) -> WeekView:
    """The sections registered and those in the cart, each with every date on which it meets."""
    view = look_at_cart(services_of(request).desk, session.person.id, term)
    calendar = view.term.calendar
    in_cart = [o for o in view.decision.outcomes if o.section and o.change.kind == "add"]
    return WeekView(
        term=term,
        registered=[
            section_view(h.section, calendar, h.credits, h.grading) for h in view.situation.held
        ],
        in_cart=[
            section_view(
                o.section, calendar, o.credits, o.change.grading or o.section.course.gradings[0]
            )
            for o in in_cart
            if o.section
        ],
    )
