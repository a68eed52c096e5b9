"""The cart: reading it, filling it, choosing options, putting it in order."""

from __future__ import annotations

from collections.abc import Iterator, Sequence
from contextlib import contextmanager

from fastapi import APIRouter, Request

from gremba.actions import edit_cart
from gremba.actions.edit_cart import Report
from gremba.actions.look_at_cart import look_at_cart
from gremba.actions.problem import Problem
from gremba.core.changes import Kind, Mode
from gremba.core.findings import Wish
from gremba.web.schemas import (
    CartView,
    Choices,
    Instead,
    ModeChoice,
    Order,
    Pasted,
    PastedView,
    ReportView,
    Wishes,
)
from gremba.web.services import services_of
from gremba.web.subject import About, SubjectId
from gremba.web.views import cart_view

router = APIRouter(prefix="/api/terms/{term}/cart")


def _cart(request: Request, student: int, term: str) -> CartView:
    return cart_view(look_at_cart(services_of(request).desk, student, term))


def _reported(request: Request, student: int, term: str, reports: Sequence[Report]) -> PastedView:
    return PastedView(
        reports=[
            ReportView(piece=r.piece, taken=r.taken, text=r.text, mend=r.mend) for r in reports
        ],
        cart=_cart(request, student, term),
    )


@router.get("")
def read_cart(request: Request, subject_id: SubjectId, term: str) -> CartView:
    """The cart, and what sending it would do: now, or before the window at its opening."""
    return _cart(request, subject_id, term)


@router.post("/changes")
def add_to_cart(request: Request, about: About, term: str, pasted: Pasted) -> PastedView:
    """Put sections into the cart by reference number; what cannot be taken is reported."""
    reports = edit_cart.put_pasted(
        services_of(request).desk, about, term, Kind(pasted.kind), pasted.text,
        pasted.in_exchange or "",
    )  # fmt: skip
    return _reported(request, about.student_id, term, reports)


@router.post("/wishes")
def put_in_cart(request: Request, about: About, term: str, wishes: Wishes) -> PastedView:
    """Put changes of any kind into the cart, all at once."""
    reports = edit_cart.put_wishes(
        services_of(request).desk, about, term,
        [Wish(Kind(w.kind), w.number, w.in_exchange) for w in wishes.changes],
    )  # fmt: skip
    return _reported(request, about.student_id, term, reports)


@router.delete("/changes/{change_id}")
def remove_from_cart(request: Request, about: About, term: str, change_id: int) -> CartView:
    """Take a change out of the cart."""
    edit_cart.take_out(services_of(request).desk, about, term, [change_id])
    return _cart(request, about.student_id, term)


@contextmanager
def _telling_of_the_cart(request: Request, student: int, term: str) -> Iterator[None]:
    """Where the cart has moved on, the answer holds it as it is now."""
    try:
        yield
    except Problem as problem:
        if problem.slug == "cart-moved":
            problem.now = _cart(request, student, term).model_dump(mode="json")
        raise


@router.patch("/changes/{change_id}")
def choose_for_change(
    request: Request, about: About, term: str, change_id: int, choices: Choices
) -> CartView:
    """Choose grading, credits, consent code, waiting and next choices of a change; only what is named
    is set."""
    chosen = choices.model_dump(exclude_unset=True, exclude={"version"})
    with _telling_of_the_cart(request, about.student_id, term):
        edit_cart.choose(
            services_of(request).desk, about, term, change_id, choices.version, chosen
        )
    return _cart(request, about.student_id, term)


@router.put("/changes/{change_id}/section")
def take_section_instead(
    request: Request, about: About, term: str, change_id: int, instead: Instead
) -> CartView:
    """Put another section in a change's place, and its companions beside it."""
    with _telling_of_the_cart(request, about.student_id, term):
        edit_cart.take_instead(
            services_of(request).desk, about, term, change_id, instead.version, instead.numbers
        )
    return _cart(request, about.student_id, term)


@router.put("/order")
def order_cart(request: Request, about: About, term: str, order: Order) -> CartView:
    """Put the changes in order: the order is the priority."""
    with _telling_of_the_cart(request, about.student_id, term):
        edit_cart.put_in_order(services_of(request).desk, about, term, order.ids)
    return _cart(request, about.student_id, term)


@router.put("/mode")
def choose_cart_mode(request: Request, about: About, term: str, choice: ModeChoice) -> CartView:
    """Each change by itself, or all or nothing."""
    edit_cart.choose_mode(services_of(request).desk, about, term, Mode(choice.mode))
    return _cart(request, about.student_id, term)
