"""Putting changes into the cart, taking them out, and putting them in order."""

from __future__ import annotations

from collections.abc import Iterator, Sequence
from contextlib import contextmanager
from dataclasses import dataclass

from gremba.actions.desk import Desk
from gremba.actions.problem import Problem
from gremba.core.catalogue import Section, TermCatalogue
from gremba.core.changes import Kind, Mode
from gremba.core.reference_numbers import read_pasted
from gremba.core.wording import counted, listed
from gremba.store.carts import append, lock_cart, read_cart, remove, reorder, set_mode
from gremba.store.database import connected
from gremba.store.situations import read_situations


@dataclass(frozen=True, slots=True)
class Report:
    """What became of one piece of what was pasted.

    Attributes:
        taken: it is in the cart now.
        text: a sentence about it.
        mend: it may be a slip, to be corrected and given again.
    """

    piece: str
    taken: bool
    text: str
    mend: bool = False


def put_in_cart(
    desk: Desk, student_id: int, term_code: str, kind: Kind, pasted: str
) -> list[Report]:
    """Read reference numbers out of a text and put those that can be into the cart.

    Whatever cannot is reported one by one, and the rest kept. Statements: lock, cart, situation,
    insert.

    Raises:
        Problem: no such term, or the student is not expected in it.
    """
    term = desk.term(term_code)
    row = desk.student_term(student_id, term)
    found = read_pasted(pasted)
    reports: list[Report] = []
    with connected(desk.database) as database, database.atomic():
        lock_cart(database, row)
        in_cart = {c.change.number for c in read_cart(database, row, term).changes}
        held = {
            h.section.reference_number
            for h in read_situations(database, {row: term}, {})[row].held
        }
        room = term.policy.most_changes - len(in_cart)
        wanted: list[tuple[Kind, Section]] = []
        left_out: list[str] = []
        for number in found.numbers:
            problem = _why_not(term, kind, number, in_cart, held)
            if problem is not None:
                reports.append(Report(number, False, problem, mend=number not in term.by_number))
            elif len(wanted) >= room:
                left_out.append(number)
            else:
                section = term.by_number[number]
                wanted.append((kind, section))
                reports.append(Report(number, True, f"{section.name} is in your cart."))
        if wanted:
            append(database, row, term.id, wanted, desk.clock.now())
    if left_out:
        shown = listed(left_out[:5]) + (" and others" if len(left_out) > 5 else "")
        reports.append(
            Report(
                counted(len(left_out), "number", "numbers"),
                False,
                f"A cart holds {term.policy.most_changes} changes. Left out: {shown}.",
            )
        )
    reports += [Report(m.text, False, f"Not taken: {m.reason}.", mend=True) for m in found.misread]
    if found.misread_more:
        more = counted(found.misread_more, "more piece", "more pieces")
        reports.append(Report(more, False, "They are no reference numbers either."))
    if not found.numbers and not found.misread:
        reports.append(
            Report("", False, "There is no reference number in it. One has five digits, "
                   "such as 30412.")
        )  # fmt: skip
    return reports


def _why_not(
    term: TermCatalogue, kind: Kind, number: str, in_cart: set[str], held: set[str]
) -> str | None:
    section = term.by_number.get(number)
    if section is None:
        others = term.other_terms.get(number)
        if others:
            return f"It is a section of {listed(others)}, not of {term.name}."
        return f"No section of {term.name} has this number. One digit may be off."
    if number in in_cart:
        return f"{section.name} is in your cart already."
    if kind is Kind.ADD and number in held:
        return f"You are registered for {section.name} already."
    if kind is Kind.DROP and number not in held:
        return f"You are not registered for {section.name}, so it cannot be dropped."
    return None


def take_out(desk: Desk, student_id: int, term_code: str, ids: Sequence[int]) -> None:
    """Take changes out of the cart; those that are not there any more do not matter."""
    with _open_cart(desk, student_id, term_code) as (row, _):
        remove(desk.database, row, ids)


def put_in_order(desk: Desk, student_id: int, term_code: str, ids: Sequence[int]) -> None:
    """Set the order of priority. Changes that came in meanwhile follow at the end.

    Raises:
        Problem: an id is not one of this cart's.
    """
    with _open_cart(desk, student_id, term_code) as (row, term):
        known = {c.id for c in read_cart(desk.database, row, term).changes}
        if len(set(ids)) != len(ids) or not known.issuperset(ids):
            raise Problem(
                "cart-moved",
                "The cart has changed meanwhile",
                "It was changed in another window. Look at it again and put it in order then.",
                409,
            )
        reorder(desk.database, row, ids)


def choose_mode(desk: Desk, student_id: int, term_code: str, mode: Mode) -> None:
    """Each change by itself, or all or nothing."""
    with _open_cart(desk, student_id, term_code) as (row, _):
        set_mode(desk.database, row, mode)


@contextmanager
def _open_cart(
    desk: Desk, student_id: int, term_code: str
) -> Iterator[tuple[int, TermCatalogue]]:
    """The cart, locked, in a transaction."""
    term = desk.term(term_code)
    row = desk.student_term(student_id, term)
    with connected(desk.database) as database, database.atomic():
        lock_cart(database, row)
        yield row, term
