"""Routes of the cart."""

from __future__ import annotations

from collections.abc import Iterator, Sequence
from contextlib import contextmanager

from fastapi import APIRouter, Request

from gremba.actions.problem import Problem
from gremba.actions.problem_kinds import ProblemKind
from gremba.actions.registration import edit_cart
from gremba.actions.registration.edit_cart import Report
from gremba.actions.registration.look_at_cart import look_at_cart
from gremba.core.registration.changes import Kind, Mode
from gremba.core.registration.findings import ProposedChange
from gremba.web.access.subject import About, SubjectId
from gremba.web.registration.responses import cart_response
from gremba.web.schemas import (
    CartResponse,
    Choices,
    Instead,
    ModeChoice,
    Order,
    PastedResponse,
    PastedWanted,
    ProposedChanges,
    ReportResponse,
)
from gremba.web.services import services_of

router = APIRouter(prefix="/api/terms/{term}/cart")


def _cart(request: Request, student: int, term: str) -> CartResponse:
    return cart_response(look_at_cart(services_of(request).context, student, term))


def reported(request: Request, student: int, term: str, reports: Sequence[Report]) -> PastedResponse:
    """What was added to a cart and what was not, and the cart."""
    return PastedResponse(
        reports=[ReportResponse(piece=r.piece, taken=r.taken, text=r.text, mend=r.mend) for r in reports],
        cart=_cart(request, student, term),
    )


@router.get("")
def read_cart(request: Request, subject_id: SubjectId, term: str) -> CartResponse:
    """The cart, and what submitting it would do: now, or when the window opens."""
    return _cart(request, subject_id, term)


@router.post("/changes")
def add_to_cart(request: Request, about: About, term: str, pasted: PastedWanted) -> PastedResponse:
    """Add sections to the cart by reference number; those that cannot be added are reported."""
    reports = edit_cart.put_pasted(
        services_of(request).context,
        about,
        term,
        Kind(pasted.kind),
        pasted.text,
        pasted.in_exchange or "",
    )
    return reported(request, about.student_id, term, reports)


@router.post("/proposals")
def put_in_cart(request: Request, about: About, term: str, proposals: ProposedChanges) -> PastedResponse:
    """Add changes of any kind to the cart, all or none."""
    reports = edit_cart.put_changes(
        services_of(request).context,
        about,
        term,
        [ProposedChange(Kind(w.kind), w.number, w.in_exchange) for w in proposals.changes],
    )
    return reported(request, about.student_id, term, reports)


@router.delete("/changes/{change_id}")
def remove_from_cart(request: Request, about: About, term: str, change_id: int) -> CartResponse:
    """Remove a change from the cart."""
    edit_cart.take_out(services_of(request).context, about, term, [change_id])
    return _cart(request, about.student_id, term)


@contextmanager
def _telling_of_the_cart(request: Request, student: int, term: str) -> Iterator[None]:
    """If the cart was changed elsewhere, includes its current state in the problem."""
    try:
        yield
    except Problem as problem:
        if problem.kind is ProblemKind.CART_MOVED:
            problem.now = _cart(request, student, term).model_dump(mode="json")
        raise


@router.patch("/changes/{change_id}")
def choose_for_change(
    request: Request, about: About, term: str, change_id: int, choices: Choices
) -> CartResponse:
    """Set grading, credits, permission code, waitlisting, and backup sections of a change. Fields that are
    left out stay."""
    chosen = choices.model_dump(exclude_unset=True, exclude={"version"})
    with _telling_of_the_cart(request, about.student_id, term):
        edit_cart.choose(services_of(request).context, about, term, change_id, choices.version, chosen)
    return _cart(request, about.student_id, term)


@router.put("/changes/{change_id}/section")
def take_section_instead(
    request: Request, about: About, term: str, change_id: int, instead: Instead
) -> CartResponse:
    """Replace a change's section with another one and its linked sections."""
    with _telling_of_the_cart(request, about.student_id, term):
        edit_cart.take_instead(
            services_of(request).context, about, term, change_id, instead.version, instead.numbers
        )
    return _cart(request, about.student_id, term)


@router.put("/order")
def order_cart(request: Request, about: About, term: str, order: Order) -> CartResponse:
    """Reorder the changes; the order is their priority."""
    with _telling_of_the_cart(request, about.student_id, term):
        edit_cart.put_in_order(services_of(request).context, about, term, order.ids)
    return _cart(request, about.student_id, term)


@router.put("/mode")
def choose_cart_mode(request: Request, about: About, term: str, choice: ModeChoice) -> CartResponse:
    """Choose between each change by itself and all or nothing."""
    edit_cart.choose_mode(services_of(request).context, about, term, Mode(choice.mode))
    return _cart(request, about.student_id, term)
