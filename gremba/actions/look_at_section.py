"""What one section would mean for a student, with the cart as it is."""

from __future__ import annotations

from dataclasses import dataclass, replace

from gremba.actions.desk import Desk
from gremba.actions.look_at_cart import as_of_opening, pools_of
from gremba.actions.problem import Problem
from gremba.core.catalogue import Section, TermCatalogue
from gremba.core.changes import Change, Kind, Request
from gremba.core.decision import decide
from gremba.core.outcome import Outcome
from gremba.core.requisites import Evidence
from gremba.core.rules.requisite import requisite_evidence
from gremba.core.situation import Situation
from gremba.store.carts import read_cart
from gremba.store.database import connected
from gremba.store.situations import read_consents, read_seats, read_situations


@dataclass(frozen=True, slots=True)
class Outlook:
    """What a section would mean.

    Attributes:
        state: "registered", "in cart" or "open".
        outcome: what would become of its change, as the last of the cart where it is not in it.
        now: whether that holds now, or only from the opening of the window.
    """

    state: str
    outcome: Outcome
    requisites: Evidence | None
    now: bool


def section_of(term: TermCatalogue, number: str) -> Section:
    """The section of that reference number.

    Raises:
        Problem: there is none in the term.
    """
    found = term.by_number.get(number)
    if found is not None:
        return found
    others = term.other_terms.get(number, ())
    there = f" It is a section of {others[-1]}: choose that term at the top." if others else ""
    raise Problem(
        "section-unknown",
        f"{term.name} has no section {number[:12]}",
        f"Check the number; one digit may be off.{there}",
        404,
    )


def look_at_section(desk: Desk, student_id: int, term_code: str, number: str) -> Outlook:
    """Decide on the cart with the section as its last change. Statements: the cart's two, seats,
    situation; one more where consent codes are named.

    Raises:
        Problem: no such term or section, or the student is not expected in the term.
    """
    term = desk.term(term_code)
    section = section_of(term, number)
    row = desk.student_term(student_id, term)
    with connected(desk.database) as database:
        request = read_cart(database, row, term).request
        pools = pools_of(term, request) | {section.pool}
        seats = read_seats(database, pools)
        consents = read_consents(database, (c.consent for c in request.changes))
        situation = read_situations(database, {row: term}, seats, consents)[row]
    state, request, place = _with_section(situation, request, section)
    now = desk.clock.now()
    as_of = as_of_opening(situation, now)
    decision = decide(situation, request, as_of)
    evidence = requisite_evidence(situation, decision.held, section)
    return Outlook(state, decision.outcomes[place], evidence, as_of == now)


def _with_section(
    situation: Situation, request: Request, section: Section
) -> tuple[str, Request, int]:
    """The request with the section in it, and its place there."""
    number = section.reference_number
    for place, change in enumerate(request.changes):
        if change.number == number:
            return "in cart", request, place
    changes = request.changes
    if any(h.section is section for h in situation.held):
        adjusted = Change(Kind.ADJUST, number)
        return "registered", replace(request, changes=(*changes, adjusted)), len(changes)
    given_up = {c.gives_up or c.number for c in changes if c.kind not in (Kind.ADD, Kind.WAIT)}
    for held in situation.held:
        old = held.section.reference_number
        if section.stands_for_same(held.section) and old not in given_up:
            swap = Change(Kind.SWAP, number, gives_up=old)
            return "open", replace(request, changes=(*changes, swap)), len(changes)
    return "open", replace(request, changes=(*changes, Change(Kind.ADD, number))), len(changes)
