"""The cart with its live verdicts: the same decision as on sending, on rows not locked."""

from __future__ import annotations

from dataclasses import dataclass
from datetime import datetime

from gremba.actions.desk import Desk
from gremba.core.catalogue import TermCatalogue
from gremba.core.decision import Decision, decide
from gremba.core.situation import Situation
from gremba.store.carts import Cart, read_cart
from gremba.store.database import connected
from gremba.store.situations import read_seats, read_situations


@dataclass(frozen=True, slots=True)
class CartView:
    """A cart, what it would lead to, and what that rests on."""

    term: TermCatalogue
    cart: Cart
    situation: Situation
    decision: Decision
    as_of: datetime


def look_at_cart(desk: Desk, student_id: int, term_code: str) -> CartView:
    """Read the cart and decide on it. Four statements: the cart's two, seats, situation.

    Raises:
        Problem: no such term, or the student is not expected in it.
    """
    term = desk.term(term_code)
    row = desk.student_term(student_id, term)
    with connected(desk.database) as database:
        cart = read_cart(database, row, term)
        sections = (term.by_number[c.change.number] for c in cart.changes)
        seats = read_seats(database, {s.pool for s in sections})
        situation = read_situations(database, {row: term}, seats)[row]
    now = desk.clock.now()
    return CartView(term, cart, situation, decide(situation, cart.request, now), now)
