"""Judges what adding one section would mean for a student, given their cart."""

from __future__ import annotations

from dataclasses import dataclass, replace

from gremba.actions.context import ActionContext
from gremba.actions.problem import Problem
from gremba.actions.problem_kinds import ProblemKind
from gremba.actions.registration.look_at_cart import as_of_opening, pools_in_sight
from gremba.core.catalogue.requisites import Evidence
from gremba.core.catalogue.seats import SeatFigures
from gremba.core.catalogue.term import Section, TermCatalogue
from gremba.core.registration.alternatives.backup_sections import decide_with_alternatives
from gremba.core.registration.alternatives.ways_on import drop_moving_up, keep_what_helps
from gremba.core.registration.changes import Request
from gremba.core.registration.deciding.effort import Effort
from gremba.core.registration.outcome import Outcome
from gremba.core.registration.rules.requisite import requisite_evidence
from gremba.core.registration.section_action import SectionAction, SectionState, as_change, section_action
from gremba.store.database import reading
from gremba.store.registration.carts import read_cart
from gremba.store.registration.situations import read_permission_codes, read_seats, read_situations


@dataclass(frozen=True, slots=True)
class Outlook:
    """What a section would mean for a student.

    Attributes:
        outcome: what would become of its change, as the last of the cart where it is not in it.
        now: whether that holds now, or only from the opening of the window.
    """

    state: SectionState
    outcome: Outcome
    requisites: Evidence | None
    now: bool


def section_of(term: TermCatalogue, number: str) -> Section:
    """The section with this reference number.

    Raises:
        Problem: there is none in the term.
    """
    found = term.by_number.get(number)
    if found is not None:
        return found
    others = term.other_terms.get(number, ())
    there = f" It is a section of {others[-1]}: choose that term at the top." if others else ""
    raise Problem(
        ProblemKind.SECTION_UNKNOWN,
        f"Check the number; one digit may be off.{there}",
        term=term.name,
        number=number[:12],
    )


def look_at_section(context: ActionContext, student_id: int, term_code: str, number: str) -> Outlook:
    """Decide the cart with the section as its last change, or with its change in the cart. Statements: two
    for the cart, situation, seats; one more if permission codes are named.

    Raises:
        Problem: no such term or section, or the student is not expected in the term.
    """
    term = context.term(term_code)
    section = section_of(term, number)
    row = context.student_term(student_id, term)
    seats: dict[int, SeatFigures] = {}
    with reading(context.database) as database:
        cart = read_cart(database, row, term).request
        permission_codes = read_permission_codes(database, (c.permission_code for c in cart.changes))
        situation = read_situations(database, {row: term}, seats, permission_codes)[row]
        action = section_action(situation, cart.changes, section)
        request, index = _with_section(cart, action)
        seats.update(read_seats(database, pools_in_sight(situation, request)))
    now = context.clock.now()
    as_of = as_of_opening(situation, now)
    effort = Effort()
    taken, decision = decide_with_alternatives(situation, request, as_of, effort)
    keep_what_helps(situation, taken, decision, as_of, effort, among=[index])
    if all(c.number != number for c in cart.changes):
        drop_moving_up(decision.outcomes[index])
    evidence = requisite_evidence(situation, decision.held, section)
    return Outlook(action.state, decision.outcomes[index], evidence, as_of == now)


def _with_section(cart: Request, action: SectionAction) -> tuple[Request, int]:
    """The request including the section, and the section's index in it."""
    number = action.section.reference_number
    for index, change in enumerate(cart.changes):
        if change.number == number:
            return cart, index
    wanted = as_change(action, cart.changes)
    if action.exchange is not None:
        changes = [wanted if n == action.exchange else c for n, c in enumerate(cart.changes)]
        return replace(cart, changes=tuple(changes)), action.exchange
    return replace(cart, changes=(*cart.changes, wanted)), len(cart.changes)
