"""From what the core knows to the shapes of the API."""

from __future__ import annotations

from datetime import datetime

from gremba.actions.look_at_cart import CartView
from gremba.core.calendar import Calendar
from gremba.core.catalogue import Section
from gremba.core.changes import Kind
from gremba.core.situation import SeatFigures
from gremba.core.windows import view_window
from gremba.core.wording import pattern
from gremba.formats.decision_json import figures_data, outcome_data, title_of
from gremba.web import schemas


def cart_view(view: CartView) -> schemas.CartView:
    """A cart with its verdicts."""
    zone = view.term.calendar.zone
    window = view_window(view.situation.windows, view.as_of)
    changes = [
        {
            "id": kept.id,
            "outcome": outcome_data(outcome),
            "times": times_of(outcome.section) if outcome.section else "",
            "seats": seats_text(view.situation.seats[outcome.section.pool])
            if outcome.section and outcome.change.kind is Kind.ADD
            else "",
        }
        for kept, outcome in zip(view.cart.changes, view.decision.outcomes, strict=True)
    ]
    return schemas.CartView.model_validate(
        {
            "term": view.term.code,
            "as_of": view.as_of.astimezone(zone),
            "window": {
                "state": window.state.value,
                "opens_at": _local(window.window and window.window.opens_at, view),
                "closes_at": _local(window.window and window.window.closes_at, view),
            },
            "mode": view.cart.mode.value,
            "changes": changes,
            "before": figures_data(view.decision.before),
            "after": figures_data(view.decision.after),
            "credit_limit": view.situation.credit_limit,
        }
    )


def _local(moment: datetime | None, view: CartView) -> datetime | None:
    return None if moment is None else moment.astimezone(view.term.calendar.zone)


def times_of(section: Section) -> str:
    """``MW 10:00–11:15``, or that it has no set times."""
    return ", ".join(pattern(m) for m in section.meetings) or "no set times"


def seats_text(seats: SeatFigures) -> str:
    """``7 left of 24``; when full, ``full, 3 waiting``."""
    if seats.left:
        return f"{seats.left} left of {seats.limit}"
    return f"full, {seats.waiting} waiting" if seats.waiting else f"full, 0 left of {seats.limit}"


def section_view(
    section: Section, calendar: Calendar, credits: float, grading: str
) -> schemas.SectionView:
    """A section with all its dates."""
    return schemas.SectionView(
        number=section.reference_number,
        name=section.name,
        course=section.course.key,
        title=title_of(section),
        component=section.component,
        delivery=section.delivery,
        campus=section.campus,
        block=section.block.name,
        first_day=section.block.first,
        last_day=section.block.last,
        instructors=list(section.instructors),
        notes=section.notes,
        credits=credits,
        grading=grading,
        meetings=[
            schemas.MeetingView(
                pattern=pattern(m),
                start=m.start,
                end=m.end,
                room=m.room,
                campus=m.campus,
                dates=list(calendar.dates(m.days)),
            )
            for m in section.meetings
        ],
    )
