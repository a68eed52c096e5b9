"""Edits the cart: adds and removes changes, sets their options and order."""

from __future__ import annotations

from collections.abc import Iterator, Mapping, Sequence
from contextlib import contextmanager
from dataclasses import dataclass
from typing import Any

from gremba.actions.actor import SubjectStudent
from gremba.actions.context import ActionContext
from gremba.actions.permission.codes import normal_code, note_guesses
from gremba.actions.problem import Problem
from gremba.actions.problem_kinds import ProblemKind
from gremba.core.catalogue.reference_numbers import read_pasted
from gremba.core.catalogue.term import Section, TermCatalogue
from gremba.core.plain_text import MAX_CHARACTERS
from gremba.core.registration.changes import Kind, Mode
from gremba.core.registration.deciding.effort import MAX_BACKUPS
from gremba.core.registration.findings import ProposedChange
from gremba.core.registration.situation import Registration
from gremba.core.wording import counted, listed
from gremba.store.database import connected
from gremba.store.registration.carts import (
    CartChange,
    NewChange,
    append,
    lock_cart,
    read_cart,
    remove,
    reorder,
    replace_section,
    set_choices,
    set_mode,
    turn_into,
)
from gremba.store.registration.situations import read_situations
from gremba.store.students.people import note_office_event


@dataclass(frozen=True, slots=True)
class Report:
    """The result for one piece of the pasted text.

    Attributes:
        taken: it is in the cart now.
        text: a sentence about it.
        mend: it may be a slip, to be corrected and given again.
    """

    piece: str
    taken: bool
    text: str
    mend: bool = False


@dataclass(frozen=True, slots=True)
class _OpenCart:
    """A locked cart, with what its changes are checked against."""

    row: int
    term: TermCatalogue
    changes: dict[str, CartChange]
    held: dict[str, Registration]
    done: list[str]
    """What is done to it, in words, to be kept where an office does it."""

    @property
    def in_cart(self) -> dict[str, int]:
        return {number: change.id for number, change in self.changes.items()}

    @property
    def room(self) -> int:
        return self.term.policy.most_changes - len(self.changes)

    def turns(self, proposed: ProposedChange) -> bool:
        """Whether the section is in the cart already as another kind of add, swap, or wait."""
        there = self.changes.get(proposed.number)
        if there is None or proposed.kind not in _WANTS or there.change.kind not in _WANTS:
            return False
        same = (proposed.kind, proposed.in_exchange) == (there.change.kind, there.change.in_exchange)
        return not same and (proposed.in_exchange in self.held or not proposed.in_exchange)

    def why_not(self, proposed: ProposedChange) -> str | None:
        """Why a change cannot be added to the cart; None if it can."""
        section = self.term.by_number.get(proposed.number)
        if section is None:
            others = self.term.other_terms.get(proposed.number)
            if others:
                return f"It is a section of {listed(others)}, not of {self.term.name}."
            return f"No section of {self.term.name} has this number. One digit may be off."
        if proposed.number in self.in_cart:
            return f"{section.name} is in your cart already."
        is_held = proposed.number in self.held
        if proposed.kind in _WANTS and is_held:
            return f"You are registered for {section.name} already."
        if proposed.kind is Kind.DROP and not is_held:
            return f"You are not registered for {section.name}, so it cannot be dropped."
        if proposed.kind is Kind.ADJUST and not is_held:
            return f"You are not registered for {section.name}, so there is nothing to adjust."
        in_exchange = proposed.kind is Kind.SWAP or (proposed.kind is Kind.WAIT and proposed.in_exchange)
        if in_exchange and proposed.in_exchange not in self.held:
            return f"You are not registered for {proposed.in_exchange}, so it cannot be given up."
        return None

    def at(self, change_id: int, version: int) -> CartChange:
        """A change of the cart, if it is still at the version seen.

        Raises:
            Problem: it does not.
        """
        for there in self.changes.values():
            if there.id == change_id and there.version == version:
                return there
        raise cart_moved()

    def section(self, number: str) -> Section:
        return self.term.by_number[number]


_WANTS = (Kind.ADD, Kind.SWAP, Kind.WAIT)
"""Kinds of change that want a section."""


def put_pasted(
    context: ActionContext,
    subject: SubjectStudent,
    term_code: str,
    kind: Kind,
    pasted: str,
    in_exchange: str = "",
) -> list[Report]:
    """Parse reference numbers from a text and add those that can be added.

    Whatever cannot is reported one by one, and the rest kept.

    Args:
        in_exchange: for a swap, the section held that is given up; only one number fits then.

    Raises:
        Problem: the text is too long, there is no such term, or the student is not expected in it.
    """
    if len(pasted) > MAX_CHARACTERS:
        raise Problem(
            ProblemKind.TEXT_TOO_LONG,
            f"Paste at most {MAX_CHARACTERS:,} signs at a time, such as the lines with the "
            "numbers. What you typed is still in the field.",
        )
    found = read_pasted(pasted)
    proposals = [ProposedChange(kind, number, in_exchange) for number in found.numbers]
    if kind is Kind.SWAP and len(proposals) > 1:
        text = f"A swap is for one section; {proposals[0].number} was taken as the one you want."
        reports = [Report(w.number, False, text, mend=True) for w in proposals[1:]]
        proposals = proposals[:1]
    else:
        reports = []
    reports = [*put_changes(context, subject, term_code, proposals), *reports]
    reports += [Report(n, False, "It stands there more than once; once is enough.") for n in found.repeated]
    reports += [Report(m.text, False, f"Not taken: {m.reason}.", mend=True) for m in found.misread]
    if found.misread_more:
        more = counted(found.misread_more, "more piece", "more pieces")
        reports.append(Report(more, False, "They are no reference numbers either."))
    if not found.numbers and not found.misread:
        reports.append(
            Report("", False, "There is no reference number in it. One has five digits, such as 30412.")
        )
    return reports


def put_changes(
    context: ActionContext,
    subject: SubjectStudent,
    term_code: str,
    proposals: Sequence[ProposedChange],
    alternatives: Mapping[str, Sequence[Sequence[str]]] | None = None,
    instead_of_same: bool = False,
) -> list[Report]:
    """Add changes to the cart; each gets a report. Statements: lock, cart, situation, insert; one more if
    something is removed.

    Args:
        alternatives: next choices, by the number of the section wanted.
        instead_of_same: what the cart wants and would stand for the same as one of these leaves it.

    Raises:
        Problem: no such term, or the student is not expected in it.
    """
    reports: list[Report] = []
    left_out: list[str] = []
    with _open_cart(context, subject, term_code) as cart:
        wanted: list[NewChange] = []
        if instead_of_same:
            reports += _take_out_same(context, cart, [p.number for p in proposals])
        for proposed in proposals:
            if cart.turns(proposed):
                there = cart.changes[proposed.number]
                given_up = cart.section(proposed.in_exchange) if proposed.in_exchange else None
                turn_into(context.database, cart.row, there.id, proposed.kind, given_up)
                name = cart.section(proposed.number).name
                what = {Kind.ADD: "an add", Kind.SWAP: "a swap"}.get(proposed.kind, "a wait")
                cart.done.append(f"{name} {proposed.number} made {what}")
                reports.append(Report(proposed.number, True, f"{name} is {what} now."))
                continue
            problem = cart.why_not(proposed)
            if problem is not None:
                mend = proposed.number not in cart.term.by_number
                reports.append(Report(proposed.number, False, problem, mend=mend))
            elif any(w.section.reference_number == proposed.number for w in wanted):
                continue
            elif len(wanted) >= cart.room:
                left_out.append(proposed.number)
            else:
                section = cart.section(proposed.number)
                given_up = cart.section(proposed.in_exchange) if proposed.in_exchange else None
                chosen = (alternatives or {}).get(proposed.number, ())
                wanted.append(NewChange(proposed.kind, section, given_up, alternatives=chosen))
                reports.append(Report(proposed.number, True, f"{section.name} is in your cart."))
        if wanted:
            cart.done.append(
                "put in "
                + listed([f"{w.kind} {w.section.name} {w.section.reference_number}" for w in wanted])
            )
            append(context.database, cart.row, cart.term.id, wanted, context.clock.now())
    if left_out:
        shown = listed(left_out[:5]) + (" and others" if len(left_out) > 5 else "")
        most = context.term(term_code).policy.most_changes
        reports.append(
            Report(
                counted(len(left_out), "number", "numbers"),
                False,
                f"A cart holds {counted(most, 'change', 'changes')}. Left out: {shown}.",
            )
        )
    return reports


def _take_out_same(context: ActionContext, cart: _OpenCart, numbers: Sequence[str]) -> list[Report]:
    new = [cart.term.by_number[n] for n in numbers if n in cart.term.by_number]
    gone = [
        there
        for number, there in cart.changes.items()
        if there.change.kind in _WANTS
        and number not in numbers
        and any(s.course is cart.section(number).course for s in new)
    ]
    if not gone:
        return []
    remove(context.database, cart.row, [there.id for there in gone])
    told = [f"{cart.section(c.change.number).name} {c.change.number}" for c in gone]
    cart.done.append(f"took out {listed(told)}")
    for there in gone:
        del cart.changes[there.change.number]
    return [
        Report(there.change.number, True, f"{name} made room for it.")
        for there, name in zip(gone, told, strict=True)
    ]


def take_out(context: ActionContext, subject: SubjectStudent, term_code: str, ids: Sequence[int]) -> None:
    """Remove changes from the cart; those already removed are ignored."""
    with _open_cart(context, subject, term_code) as cart:
        gone = [number for number, id_ in cart.in_cart.items() if id_ in ids]
        if gone:
            cart.done.append(f"took out {listed(gone)}")
        remove(context.database, cart.row, ids)


def put_in_order(context: ActionContext, subject: SubjectStudent, term_code: str, ids: Sequence[int]) -> None:
    """Set the order of priority. Changes added meanwhile follow at the end.

    Raises:
        Problem: an id is not one of this cart's.
    """
    with _open_cart(context, subject, term_code) as cart:
        if len(set(ids)) != len(ids) or not set(cart.in_cart.values()).issuperset(ids):
            raise cart_moved()
        cart.done.append("put it in another order")
        reorder(context.database, cart.row, ids)


def choose_mode(context: ActionContext, subject: SubjectStudent, term_code: str, mode: Mode) -> None:
    """Choose between each change by itself and all or nothing."""
    with _open_cart(context, subject, term_code) as cart:
        cart.done.append(f"chose “{mode.value}”")
        set_mode(context.database, cart.row, mode)


def choose(
    context: ActionContext,
    subject: SubjectStudent,
    term_code: str,
    change_id: int,
    version: int,
    chosen: Mapping[str, Any],
) -> None:
    """Set the options of a change; those not named stay.

    Whether grading and credits are good is for the rules to say. A permission code that does not exist
    counts as a guess of whoever enters it, and guesses are limited.

    Args:
        version: that of the change as it was seen.
        chosen: any of "grading", "credits", "permission_code", "wait_if_full", "leaves_waitlists" and
            "alternatives".

    Raises:
        Problem: the change is not in the cart or has been changed since, a section cannot be a next
            choice of it, or there were too many guesses.
    """
    values = dict(chosen)
    if "permission_code" in values:
        values["permission_code"] = normal_code(values["permission_code"] or "")
        if values["permission_code"]:
            section = _section_of(context, subject, term_code, change_id)
            note_guesses(context, subject.by.id, subject.student_id, [(values["permission_code"], section)])
    with _open_cart(context, subject, term_code) as cart:
        there = cart.at(change_id, version)
        wants_now = there.change.kind in (Kind.ADD, Kind.SWAP)
        if not wants_now and (values.get("wait_if_full") or values.get("alternatives")):
            raise cart_moved()
        if "alternatives" in values:
            values["alternatives"] = _next_choices(cart, there, values["alternatives"])
        cart.done.append(f"chose {listed(sorted(values))} of {there.change.number}")
        set_choices(context.database, cart.row, change_id, values)


def _section_of(
    context: ActionContext, subject: SubjectStudent, term_code: str, change_id: int
) -> Section | None:
    """The section of a change in the cart."""
    term = context.term(term_code)
    with connected(context.database) as database:
        cart = read_cart(database, context.student_term(subject.student_id, term), term)
    return next((term.by_number[c.change.number] for c in cart.changes if c.id == change_id), None)


def _next_choices(
    cart: _OpenCart, there: CartChange, alternatives: Sequence[Sequence[str]]
) -> list[Sequence[str]]:
    chosen = [numbers for numbers in alternatives if numbers[0] != there.change.number]
    if len(chosen) > MAX_BACKUPS:
        raise Problem(ProblemKind.TOO_MANY_CHOICES, "Take one of them out first.", most=MAX_BACKUPS)
    for number in (n for numbers in chosen for n in numbers):
        if number not in cart.term.by_number:
            raise Problem(
                ProblemKind.CHOICE_UNKNOWN, "One digit may be off.", term=cart.term.name, number=number
            )
        if number in cart.held:
            name = cart.section(number).name
            raise Problem(
                ProblemKind.HELD_ALREADY, "A next choice is a section that you do not have.", name=name
            )
    return chosen


def take_instead(
    context: ActionContext,
    subject: SubjectStudent,
    term_code: str,
    change_id: int,
    version: int,
    numbers: Sequence[str],
) -> None:
    """Replace a change's section with another one and its linked sections; linked sections of the old section
    that do not belong to the new one are removed.

    Args:
        version: that of the change as it was seen.

    Raises:
        Problem: the change is not in the cart or has been changed since, or a section cannot go into
            it.
    """
    with _open_cart(context, subject, term_code) as cart:
        there = cart.at(change_id, version)
        sections = [cart.term.by_number.get(n) for n in numbers]
        if not sections or None in sections:
            raise cart_moved()
        new, *linked_sections = [s for s in sections if s is not None]
        if new.reference_number in cart.in_cart or new.reference_number in cart.held:
            raise cart_moved()
        old_ones = [
            id_
            for number, id_ in cart.in_cart.items()
            if cart.section(number).course is new.course
            and id_ != change_id
            and cart.section(number).component != new.component
            and number not in new.linked_sections
        ]
        cart.done.append(f"took {listed(list(numbers))} in the place of {there.change.number}")
        remove(context.database, cart.row, old_ones)
        replace_section(context.database, cart.row, change_id, new)
        added = [
            NewChange(Kind.ADD, c)
            for c in linked_sections
            if c.reference_number not in cart.in_cart and c.reference_number not in cart.held
        ]
        if added:
            append(context.database, cart.row, cart.term.id, added, context.clock.now())


def cart_moved() -> Problem:
    """The cart is not at the version seen."""
    return Problem(
        ProblemKind.CART_MOVED, "It was changed in another window. Look at it as it is now, and do it again."
    )


@contextmanager
def _open_cart(context: ActionContext, subject: SubjectStudent, term_code: str) -> Iterator[_OpenCart]:
    """Opens the cart, locked, in a transaction. Changes by an office are recorded."""
    term = context.term(term_code)
    row = context.student_term(subject.student_id, term)
    with connected(context.database) as database, database.atomic():
        lock_cart(database, row)
        changes = {c.change.number: c for c in read_cart(database, row, term).changes}
        held = read_situations(database, {row: term}, {})[row].held
        cart = _OpenCart(row, term, changes, {h.section.reference_number: h for h in held}, [])
        yield cart
        if subject.by.acts_for_another and cart.done:
            what, detail = "changed the cart", f"{'; '.join(cart.done)}, {term.name}"
            note_office_event(
                database, subject.student_id, subject.by.id, what, detail[:2000], context.clock.now()
            )
