"""Ways on that several rules offer, each only where it can help."""

from __future__ import annotations

from gremba.core.catalogue.seats import SeatFigures
from gremba.core.catalogue.term import Section
from gremba.core.registration.changes import Kind
from gremba.core.registration.findings import MoveUp, Remedy, SeeChange, TakeOut, put, swap, wait
from gremba.core.registration.rules.access import settle
from gremba.core.registration.rules.case import Case, Step
from gremba.core.waitlists.deadlines import closes_at
from gremba.core.wording import day, listed


def give_up(case: Case, held: Section) -> list[Remedy]:
    """Give up a registered section for the wanted one: as a swap, or with a drop."""
    name, number = f"{held.name} {held.reference_number}", held.reference_number
    over = held.session.withdraw_by
    if case.today > over:
        return [Remedy(f"{name} can no longer be dropped (until {day(over)}); take another section.")]
    asked = case.wanted.drops_of(held)
    if asked:
        # It stands in the cart already and was refused: the section would not be kept otherwise.
        step = asked[0]
        what = _named(step.change.kind, name)
        return [Remedy(f"See what stops {what} in your cart first.", SeeChange(step.change.number))]
    if not held.stands_for_same(case.section):
        # Its lab or lecture would go along.
        going = [h.section for h in case.end.remaining if h.section.reference_number in held.linked_sections]
        name = listed([name, *(f"{s.name} {s.reference_number}" for s in going)])
    ways = []
    if not _is_held_up(case, Kind.SWAP) and case.step.change.kind is not Kind.SWAP:
        ways.append(
            Remedy(
                f"Swap {name} for it.",
                swap(case.section.reference_number, number),
            )
        )
    if not _is_held_up(case, Kind.DROP):
        ways.append(Remedy(f"Drop {name} in the same cart.", put(Kind.DROP, number)))
    return ways or [Remedy(f"A hold keeps you from giving up {name}: settle it first.")]


def _named(kind: Kind, name: str) -> str:
    return f"the drop of {name}" if kind is Kind.DROP else f"the swap of {name}"


def _is_held_up(case: Case, kind: Kind) -> bool:
    return any(kind.value in hold.stops for hold in case.situation.holds)


def wait_settled(case: Case) -> list[Remedy]:
    """The remedy if a hold keeps the student off waitlists."""
    return [settle(hold) for hold in case.situation.holds if Kind.WAIT.value in hold.stops]


def wait_instead(case: Case, figures: SeatFigures) -> list[Remedy]:
    """Join the waitlist, if it has room and the student may."""
    situation, section, change = case.situation, case.section, case.step.change
    term = situation.catalogue
    if figures.waiting >= section.waitlist_limit or change.kind is Kind.WAIT:
        return []
    if case.now >= closes_at(section.session, term.calendar, term.policy):
        return []
    if len(situation.waitlist_entries) >= term.policy.most_waitlist_entries or _is_held_up(case, Kind.WAIT):
        return []
    if any(p.section.stands_for_same(section) for p in situation.waitlist_entries):
        return []
    if any(s.section is section and s.does is Kind.WAIT for s in case.wanted.steps):
        return []
    return [
        Remedy(
            f"Wait for a seat: you would be number {figures.waiting + 1}.",
            wait(change.number, change.in_exchange),
        )
    ]


def put_beside(case: Case, section: Section, text: str) -> Remedy:
    """Add another section to the cart; if it is there and refused, look at it, and if the cart drops it,
    remove the drop."""
    name, number = section.name, section.reference_number
    for step in case.wanted.steps:
        if step.section is not section:
            continue
        if step.does is not Kind.DROP:
            return Remedy(f"See what stops {name} {number} in your cart first.", SeeChange(number))
        if step.change.kind is Kind.DROP:
            return Remedy(f"Keep {name} {number}: take its drop out of the cart.", TakeOut((number,)))
    return Remedy(text, put(Kind.ADD, number))


def one_of_two(case: Case, other: Step) -> list[Remedy]:
    """What to do about two changes of which only one is possible."""
    ways = [Remedy("Move this one up: then it goes first.", MoveUp())] if case.may_move_up([other]) else []
    out = Remedy(f"Take {_what(other)} out of the cart.", TakeOut((other.change.number,)))
    return [*ways, out, Remedy("Or take this one out.")]


def _what(step: Step) -> str:
    if step.does is Kind.ADD:
        return step.name
    kind = "change" if step.change.kind is Kind.ADJUST else step.change.kind.value
    return f"the {kind} of {step.name}"


def take_out(case: Case, other: Step) -> list[Remedy]:
    """Remove another add and its linked sections from the cart; nothing for what the change itself may
    need, or for a bundle."""
    theirs, mine = other.section, case.section
    if other.change.kind is not Kind.ADD or theirs is None or theirs.bundle is not None:
        return []
    if theirs.course is mine.course or mine.course.needs_this_term & theirs.course.same_as:
        return []
    along = [
        step.number
        for step in case.wanted.steps
        if step.change.kind is Kind.ADD and step.section is not None and step.number in theirs.linked_sections
    ]
    return [Remedy(f"Take {other.name} out of the cart.", TakeOut((other.number, *along)))]
