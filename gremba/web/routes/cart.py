"""The cart: reading it, filling it, choosing options, putting it in order."""

from __future__ import annotations

from collections.abc import Sequence

from fastapi import APIRouter, Request

from gremba.actions import edit_cart
from gremba.actions.edit_cart import Report
from gremba.actions.look_at_cart import look_at_cart
from gremba.core.changes import Kind, Mode
from gremba.core.findings import Wish
from gremba.web.schemas import (
    CartView,
    Instead,
    ModeChoice,
    NextChoices,
    Options,
    Order,
    Pasted,
    PastedView,
    ReportView,
    Waiting,
    Wishes,
)
from gremba.web.services import services_of
from gremba.web.views import cart_view
from gremba.web.whose import Whose

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
def read_cart(request: Request, whose: Whose, term: str) -> CartView:
    """The cart, and what sending it would do: now, or before the window at its opening."""
    return _cart(request, whose, term)


@router.post("/changes")
def add_to_cart(request: Request, whose: Whose, term: str, pasted: Pasted) -> PastedView:
    """Put sections into the cart by reference number; what cannot be taken is reported."""
    reports = edit_cart.put_pasted(
        services_of(request).desk, whose, term, Kind(pasted.kind), pasted.text,
        pasted.gives_up or "",
    )  # fmt: skip
    return _reported(request, whose, term, reports)


@router.post("/wishes")
def put_in_cart(request: Request, whose: Whose, term: str, wishes: Wishes) -> PastedView:
    """Put changes of any kind into the cart, all at once."""
    reports = edit_cart.put_wishes(
        services_of(request).desk, whose, term,
        [Wish(Kind(w.kind), w.number, w.gives_up) for w in wishes.changes],
    )  # fmt: skip
    return _reported(request, whose, term, reports)


@router.delete("/changes/{change_id}")
def remove_from_cart(request: Request, whose: Whose, term: str, change_id: int) -> CartView:
    """Take a change out of the cart."""
    edit_cart.take_out(services_of(request).desk, whose, term, [change_id])
    return _cart(request, whose, term)


@router.put("/changes/{change_id}/options")
def choose_cart_options(
    request: Request, whose: Whose, term: str, change_id: int, options: Options
) -> CartView:
    """Choose grading, credits and consent code of a change."""
    edit_cart.choose_options(
        services_of(request).desk, whose, term, change_id,
        options.grading, options.credits, options.consent,
    )  # fmt: skip
    return _cart(request, whose, term)


@router.put("/changes/{change_id}/section")
def take_section_instead(
    request: Request, whose: Whose, term: str, change_id: int, instead: Instead
) -> CartView:
    """Put another section in a change's place, and its companions beside it."""
    edit_cart.take_instead(services_of(request).desk, whose, term, change_id, instead.numbers)
    return _cart(request, whose, term)


@router.put("/changes/{change_id}/waiting")
def wait_if_full(
    request: Request, whose: Whose, term: str, change_id: int, waiting: Waiting
) -> CartView:
    """Let an add or swap join the waitlist where no seat can be had, or no longer."""
    edit_cart.choose_waiting(services_of(request).desk, whose, term, change_id, waiting.wait)
    return _cart(request, whose, term)


@router.put("/changes/{change_id}/next")
def choose_next_sections(
    request: Request, whose: Whose, term: str, change_id: int, choices: NextChoices
) -> CartView:
    """Name sections to try in turn where the one wished for cannot be had."""
    edit_cart.choose_next(services_of(request).desk, whose, term, change_id, choices.or_else)
    return _cart(request, whose, term)


@router.put("/order")
def order_cart(request: Request, whose: Whose, term: str, order: Order) -> CartView:
    """Put the changes in order: the order is the priority."""
    edit_cart.put_in_order(services_of(request).desk, whose, term, order.ids)
    return _cart(request, whose, term)


@router.put("/mode")
def choose_cart_mode(request: Request, whose: Whose, term: str, choice: ModeChoice) -> CartView:
    """Each change by itself, or all or nothing."""
    edit_cart.choose_mode(services_of(request).desk, whose, term, Mode(choice.mode))
    return _cart(request, whose, term)
