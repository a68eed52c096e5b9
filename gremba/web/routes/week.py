"""The week: what a student is registered for, and what the cart would add."""

from __future__ import annotations

from fastapi import APIRouter, Request

from gremba.actions.look_at_cart import look_at_cart
from gremba.core.week_plan import week_plan
from gremba.web.schemas import WeekEntry, WeekView
from gremba.web.services import services_of
from gremba.web.subject import SubjectId
from gremba.web.views import section_view

router = APIRouter(prefix="/api/terms/{term}")


@router.get("/week")
def read_week(request: Request, subject_id: SubjectId, term: str) -> WeekView:
    """The sections registered and those in the cart, with what becomes of each and every date on
    which it meets."""
    view = look_at_cart(services_of(request).desk, subject_id, term)
    calendar = view.term.calendar
    return WeekView(
        term=term,
        entries=[
            WeekEntry(
                section=section_view(e.section, calendar, e.credits, e.grading),
                registered=e.is_held,
                part=e.part.value,
                planned=e.planned and e.planned.value,  # type: ignore[arg-type]
                clashes=e.clashes,
                tight=e.tight,
            )
            for e in week_plan(view.situation, view.decision)
        ],
    )
