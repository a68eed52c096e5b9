"""Rules on joining a waitlist."""

from __future__ import annotations

from collections.abc import Iterator, Sequence

from gremba.core.catalogue.term import Section
from gremba.core.registration.changes import Kind
from gremba.core.registration.findings import Finding, Remedy, Severity, put, wait
from gremba.core.registration.rules.case import Case, Matter, Rule, Step, rule
from gremba.core.registration.rules.codes import RuleCode
from gremba.core.registration.rules.seats import NO_FIGURES
from gremba.core.registration.rules.ways import one_of_two
from gremba.core.waitlists.deadlines import closes_at
from gremba.core.waitlists.policy import waitlist_policy
from gremba.core.wording import counted, moment


@rule(RuleCode.WAIT_NONE, Severity.STOP, Kind.WAIT, named=False, depends_on=())
def wait_none(case: Case, me: Rule) -> Iterator[Finding]:
    """The section has no waitlist.

    Why: Some sections are filled by consent, or not at all when they are full.

    Ways on: Take another section of the course, or ask the instructor.
    """
    if not case.section.waitlist_limit:
        yield me.finding(
            f"{case.section.name} has no waitlist.",
            remedies=[Remedy("Take another section of the course, or ask the instructor.")],
            ask="the instructor",
        )


def _has_waitlist(section: Section) -> object:
    return section.waitlist_limit


@rule(RuleCode.WAIT_CLOSED, Severity.STOP, Kind.WAIT, of_section=_has_waitlist, named=False, depends_on=())
def wait_closed(case: Case, me: Rule) -> Iterator[Finding]:
    """The waitlists of the section's session have closed: the evening before its first class.

    Why: From then on nobody could answer an offer in time; free seats are open to all.

    Ways on: Look for a free seat: first come, first served.
    """
    calendar = case.situation.catalogue.calendar
    closes = closes_at(case.section.session, calendar, case.situation.catalogue.policy)
    if case.now >= closes:
        yield me.finding(
            f"Its waitlist closed on {moment(closes)}. Free seats are open to all now.",
            remedies=[
                Remedy("Add it instead: a seat is free.", put(Kind.ADD, case.section.reference_number)),
                Remedy("Look again when a seat is free, or ask the instructor."),
            ],
            ask="the instructor",
        )


@rule(
    RuleCode.WAIT_FULL,
    Severity.STOP,
    Kind.WAIT,
    of_section=_has_waitlist,
    named=False,
    depends_on=[Matter.SEATS],
)
def wait_full(case: Case, me: Rule) -> Iterator[Finding]:
    """As many are waiting as the waitlist holds.

    Why: A place that will hardly ever come up is no help.

    Ways on: Take another section of the course, or look again later.
    """
    figures = case.situation.seats.get(case.section.pool, NO_FIGURES)
    limit = case.section.waitlist_limit
    ahead = _ahead_in_line(case)
    if figures.waiting + len(ahead) >= limit:
        text = f"Its waitlist is full: {figures.waiting} of {counted(limit, 'place', 'places')}."
        if figures.waiting < limit:
            text = "The last place on its waitlist goes to another change in your cart."
        yield me.finding(
            text,
            remedies=[Remedy("Take another section of the course, or look again later.")],
            rests_on=ahead if figures.waiting < limit else (),
            waiting=figures.waiting,
            limit=limit,
        )


def _ahead_in_line(case: Case) -> list[int]:
    """The waits before it for the same waitlist."""
    pool = case.section.pool
    return [w.index for w in case.before.waits if w.section and w.section.pool == pool]


@rule(RuleCode.WAIT_LIMIT, Severity.STOP, Kind.WAIT, named=False, depends_on=[Matter.SPOTS])
def wait_limit(case: Case, me: Rule) -> Iterator[Finding]:
    """The student holds, with those further up, as many places as anybody may.

    Why: Students on every waitlist make positions meaningless for others.

    Ways on: Leave a waitlist that matters less.
    """
    most = case.situation.catalogue.policy.most_waitlist_entries
    added = [a.section for a in case.end.adds if a.section]
    # A place ends by itself when its course is had.
    entries = [
        p for p in case.situation.waitlist_entries if not any(p.section.stands_for_same(s) for s in added)
    ]
    earlier = [w.index for w in case.before.waits]
    if len(entries) + len(earlier) >= most:
        yield me.finding(
            f"You may hold {counted(most, 'place', 'places')} on waitlists at a time.",
            remedies=[Remedy("Leave a waitlist that matters less to you.")],
            rests_on=earlier if len(entries) < most else (),
            most=most,
        )


@rule(RuleCode.WAIT_COURSE_HELD, Severity.STOP, Kind.WAIT, depends_on=[Matter.COURSE])
def wait_course_held(case: Case, me: Rule) -> Iterator[Finding]:
    """The student is registered for the course in the same component, or the request adds it,
    and the place would not give that section up. Nobody waits for the very section they have.

    Why: Nobody takes a course twice in a term; but one may wait for a better section of it.

    Ways on: Wait by swap: you keep what you have until the seat comes.
    """
    mine, leaving = case.section, _leaving(case)
    for held in case.end.remaining:
        other = held.section
        number = other.reference_number
        if other is mine:
            yield me.finding(
                "You are registered for it already.",
                remedies=[Remedy("Take the wait out of the cart; you have the seat.")],
            )
            return
        if other.stands_for_same(mine) and number not in leaving:
            yield me.finding(
                f"You are registered for {other.name} {number}, which is the same course.",
                remedies=[
                    Remedy(
                        "Wait by swap: keep that one until a seat comes here.",
                        wait(mine.reference_number, number),
                    )
                ],
                other=number,
            )
    for step in case.end.adds:
        if step.section is not None and step.section.stands_for_same(mine):
            yield me.finding(
                f"{step.name} is the same course, and your cart adds it.",
                remedies=[*one_of_two(case, step), _put_first(step)],
                rests_on=[step.index],
                other=step.number,
            )


def _leaving(case: Case) -> frozenset[str]:
    """Numbers of the registered sections that go when the seat comes: the one given up with its linked
    sections; for a section that is only named, what it is exchanged for as well."""
    mine, step = case.section, case.step
    given_up = {step.change.in_exchange}
    if step.implied:
        given_up = {
            w.change.in_exchange
            for w in case.end.waits
            if w.section is not None and w.section.reference_number in mine.linked_sections
        }
    held = [h.section for h in case.situation.held]
    leaving = [s for s in held if s.reference_number in given_up]
    for section in leaving:
        leaving += [s for s in held if s.reference_number in section.linked_sections and s not in leaving]
    if step.implied:
        leaving += [s for s in held if s.stands_for_same(mine)]
    return frozenset([s.reference_number for s in leaving])


def _put_first(step: Step) -> Remedy:
    return Remedy(f"Put {step.name} through first; then wait by swap for it, if you still want to.")


@rule(RuleCode.WAIT_TWICE, Severity.STOP, Kind.WAIT, depends_on=[Matter.COURSE])
def wait_twice(case: Case, me: Rule) -> Iterator[Finding]:
    """The student waits for the course already, or does so further up.

    Why: One place a course: a second would take another student's.

    Ways on: Leave the other place first if you prefer this one.
    """
    mine, step = case.section, case.step
    for entry in () if step.implied else case.situation.waitlist_entries:
        if entry.section.stands_for_same(mine):
            what = "are offered" if entry.offered else "wait for"
            number = entry.section.reference_number
            yield me.finding(
                f"You {what} {entry.section.name} {number} already; one place a course.",
                remedies=[Remedy("Leave that waitlist first if you prefer this one.")],
                other=number,
            )
    for other in case.before.named if step.implied else case.before.waits:
        if other.section and other.section.stands_for_same(mine):
            yield me.finding(
                "Your cart waits for the same course in another change; one place a course.",
                remedies=one_of_two(case, other),
                rests_on=[other.index],
            )


@rule(
    RuleCode.WAIT_NEEDS_SWAP,
    Severity.STOP,
    Kind.WAIT,
    of_section=lambda section: section.meetings,
    depends_on=[Matter.HOURS, Matter.COURSE],
)
def wait_needs_swap(case: Case, me: Rule) -> Iterator[Finding]:
    """The section clashes with one that is registered, or that the request adds, and that the
    place would not give up.

    Why: A seat that comes could not be taken; somebody else would have been glad of it.

    Ways on: Wait by swap: the section that clashes is kept until the very step that gives you
    the other.
    """
    mine, in_exchange = case.section, case.step.change.in_exchange
    for other in _clashing(case, [h.section for h in case.end.remaining]):
        number = other.reference_number
        ways = [
            Remedy(
                f"Wait by swap: keep {other.name} {number} until a seat comes.",
                wait(mine.reference_number, number),
            )
        ]
        yield me.finding(
            f"It clashes with {other.name} {number}, which you are registered for.",
            remedies=ways
            if not in_exchange
            else [Remedy(f"Drop {other.name} {number}, or wait by swap for it instead.")],
            other=number,
        )
    for step in case.end.adds:
        if step.section is not None and _clashing(case, [step.section]):
            yield me.finding(
                f"It clashes with {step.name}, which your cart adds.",
                remedies=[*one_of_two(case, step), _put_first(step)],
                rests_on=[step.index],
                other=step.number,
            )


def _clashing(case: Case, sections: Sequence[Section]) -> list[Section]:
    leaving = _leaving(case)
    return [
        s
        for s in sections
        if s is not case.section
        and s.reference_number not in leaving
        and not s.stands_for_same(case.section)
        and case.section.clash_with(s) is not None
    ]


@rule(RuleCode.WAIT_NOT_HELD, Severity.STOP, Kind.WAIT, named=False, depends_on=[Matter.COURSE])
def wait_not_held(case: Case, me: Rule) -> Iterator[Finding]:
    """The section that the place would give up is not registered, or the request drops it.

    Why: Only what one has can be given up.

    Ways on: Wait without giving anything up.
    """
    in_exchange = case.step.change.in_exchange
    if in_exchange and all(h.section.reference_number != in_exchange for h in case.end.remaining):
        yield me.finding(
            f"You would not be registered for {in_exchange}, so it cannot be given up.",
            remedies=[Remedy("Wait without giving anything up.", wait(case.section.reference_number))],
        )


@rule(RuleCode.WAIT_PLACE, Severity.NOTE, Kind.WAIT, of_section=_has_waitlist, named=False)
def wait_entry(case: Case, me: Rule) -> Iterator[Finding]:
    """Says which position the place would have, and how this waitlist works.

    Why: Students who join should know what to expect.

    Ways on: None is needed.
    """
    figures = case.situation.seats.get(case.section.pool, NO_FIGURES)
    how = waitlist_policy(case.section).note(case.situation.catalogue.policy)
    if case.step.change.in_exchange:
        how += f" You keep {case.step.change.in_exchange} until then."
    position = figures.waiting + len(_ahead_in_line(case)) + 1
    yield me.finding(
        f"You would be number {position} of {position} waiting. {how}",
        position=position,
        way=case.section.waitlist_way,
    )


@rule(RuleCode.WAIT_NAMED, Severity.NOTE, Kind.WAIT)
def wait_named(case: Case, me: Rule) -> Iterator[Finding]:
    """The section is a linked section of one that is waited for in the same request: it is named for
    that place, and taken with it if it still has a seat then.

    Why: A place for a lecture takes its lab at the moment of registering.

    Ways on: None is needed.
    """
    if case.step.implied:
        yield me.finding("Named for the place above: it is taken with it, if a seat is left then.")
