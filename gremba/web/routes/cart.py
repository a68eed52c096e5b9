"""The cart: looking at it with its verdicts, and changing it."""

from __future__ import annotations

from fastapi import APIRouter, Request

from gremba.actions.edit_cart import choose_mode, put_in_cart, put_in_order, take_out
from gremba.actions.look_at_cart import look_at_cart
from gremba.core.changes import Kind, Mode
from gremba.web.access import SignedIn
from gremba.web.schemas import CartView, ModeChoice, Order, Pasted, PastedView, ReportView
from gremba.web.services import services_of
from gremba.web.views import cart_view

router = APIRouter(prefix="/api/terms/{term}/cart")


def _cart(request: Request, session: SignedIn, term: str) -> CartView:
    return cart_view(look_at_cart(services_of(request).desk, session.person.id, term))


@router.get("")
def read_cart(request: Request, session: SignedIn, term: str) -> CartView:
    """The cart, and what sending it now would do."""
    return _cart(request, session, term)


@router.post("/changes")
def add_to_cart(request: Request, session: SignedIn, term: str, pasted: Pasted) -> PastedView:
    """Put sections into the cart by reference number; what cannot be taken is reported."""
    desk = services_of(request).desk
    reports = put_in_cart(desk, session.person.id, term, Kind(pasted.kind), pasted.text)
    return PastedView(
        reports=[
            ReportView(piece=r.piece, taken=r.taken, text=r.text, mend=r.mend) for r in reports
        ],
        cart=_cart(request, session, term),
    )


@router.delete("/changes/{change_id}")
def remove_from_cart(
    request: Request, session: SignedIn, term: str, change_id: int
) -> CartView:
    """Take a change out of the cart."""
    take_out(services_of(request).desk, session.person.id, term, [change_id])
    return _cart(request, session, term)


@router.put("/order")
def order_cart(request: Request, session: SignedIn, term: str, order: Order) -> CartView:
    """Put the changes in order: the order is the priority."""
    put_in_order(services_of(request).desk, session.person.id, term, order.ids)
    return _cart(request, session, term)


@router.put("/mode")
def choose_cart_mode(
    request: Request, session: SignedIn, term: str, choice: ModeChoice
) -> CartView:
    """Each change by itself, or all or nothing."""
    choose_mode(services_of(request).desk, session.person.id, term, Mode(choice.mode))
    return _cart(request, session, term)
