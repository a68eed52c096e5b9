"""A small term to write cases in: a few lines make a section, a student, a request."""

from __future__ import annotations

import re
from collections.abc import Iterable, Sequence
from dataclasses import replace
from datetime import date, datetime, time
from zoneinfo import ZoneInfo

from gremba.core.catalogue.calendar import Break, Calendar, Meeting, RefundStep, TermSession
from gremba.core.catalogue.requisites import Requisite
from gremba.core.catalogue.seats import SeatFigures
from gremba.core.catalogue.term import Course, Policy, Section, TermCatalogue
from gremba.core.permission.permission_code import PermissionCode
from gremba.core.registration.changes import Change, Kind, Mode, Request
from gremba.core.registration.decision import decide
from gremba.core.registration.outcome import Decision
from gremba.core.registration.situation import Registration, Situation
from gremba.core.states import ClearanceKind, TermState
from gremba.core.students.student import Hold, Student
from gremba.core.students.transcript import Attempt, Record
from gremba.core.waitlists.entry import WaitlistEntry
from gremba.core.windows.opening import Window
from tests.support.tariffs import plain_tariff

ZONE = ZoneInfo("America/New_York")
FIRST, LAST = date(2027, 8, 23), date(2027, 12, 10)

FULL = TermSession(
    "full",
    "full term",
    FIRST,
    LAST,
    date(2027, 8, 27),
    date(2027, 9, 3),
    date(2027, 11, 5),
    (RefundStep(date(2027, 8, 27), 100), RefundStep(date(2027, 9, 3), 50)),
)
FIRST_HALF = TermSession(
    "first", "first half", FIRST, date(2027, 10, 15), date(2027, 8, 25), date(2027, 8, 30), date(2027, 9, 24)
)
SECOND_HALF = TermSession(
    "second",
    "second half",
    date(2027, 10, 18),
    LAST,
    date(2027, 10, 20),
    date(2027, 10, 25),
    date(2027, 11, 19),
)
CALENDAR = Calendar(
    ZONE,
    FIRST,
    LAST,
    (
        Break(date(2027, 9, 6), date(2027, 9, 6), "holiday"),
        Break(date(2027, 11, 22), date(2027, 11, 26), "autumn break"),
    ),
    {b.code: b for b in (FULL, FIRST_HALF, SECOND_HALF)},
)

OPEN = datetime(2027, 4, 19, 10, tzinfo=ZONE)
"""A moment at which the usual window is open."""
WINDOW = Window(datetime(2027, 4, 19, 8, tzinfo=ZONE), datetime(2027, 5, 3, 17, tzinfo=ZONE))
LATE = Window(datetime(2027, 8, 9, 8, tzinfo=ZONE), datetime(2027, 12, 10, 17, tzinfo=ZONE))


def on(month: int, day: int, hour: int = 12, minute: int = 0) -> datetime:
    """A campus moment in 2027."""
    return datetime(2027, month, day, hour, minute, tzinfo=ZONE)


def hours(text: str, session: TermSession = FULL, campus: str = "hill") -> Meeting:
    """``MW 10:00-11:15``, and behind it a campus if it is not the usual one, and the first and the last
    date if they are not those of the session."""
    days, span, *rest = text.split()
    campus = rest[0] if rest else campus
    first, last = map(date.fromisoformat, rest[1:]) if rest[1:] else (session.first, session.last)
    start, end = (time.fromisoformat(t) for t in span.split("-"))
    return Meeting.in_term(CALENDAR, days, start, end, first, last, campus)


class World:
    """Gathers sections and seats, and decides requests about them."""

    def __init__(self, policy: Policy | None = None) -> None:
        self.policy = policy or Policy(tariff=plain_tariff(per_credit=100_00, per_term=50_00))
        self.sections: dict[str, Section] = {}
        self.seats: dict[int, SeatFigures] = {}
        self.student = Student(1, "Case Student")
        self.record = Record()
        self.windows: tuple[Window, ...] = (WINDOW,)
        self.holds: tuple[Hold, ...] = ()
        self.held: list[str] = []
        self.reserved: dict[str, int] = {}
        self.credits: dict[str, float] = {}
        """Of sections held, where they are not the usual ones."""
        self.other_terms: dict[str, tuple[str, ...]] = {}
        self.now = OPEN
        self.state = TermState.OPEN
        self.clearance_open: tuple[ClearanceKind, ...] = ()
        self.permission_codes: dict[str, PermissionCode] = {}
        self.grants: dict[int, tuple[PermissionCode, ...]] = {}
        self.travel: dict[tuple[str, str], int] = {}
        self.waitlist_entries: tuple[WaitlistEntry, ...] = ()
        self.registrations: tuple[Registration, ...] = ()
        """Registrations with credits and grading of their own, beside those of `held`."""
        self._courses: dict[str, Course] = {}

    def course(self, key: str, **options: object) -> Course:
        """A course with three credits unless said otherwise."""
        credits = float(options.pop("credits", 3.0))  # type: ignore[arg-type]
        values = {"credits_least": credits, "credits_most": credits, **options}
        made = Course(key, f"About {key}", **values)  # type: ignore[arg-type]
        self._courses[key] = made
        return made

    def section(
        self,
        number: str,
        course: str,
        *meets: str,
        seats: SeatFigures | int = 10,
        session: TermSession = FULL,
        needs: Requisite | None = None,
        credits: float = 3.0,
        **options: object,
    ) -> Section:
        """A section of a course, which is made if it is not there."""
        key = self._courses.get(course) or self.course(course, requisites=needs, credits=credits)
        pool = int(str(options.pop("pool", 0)) or 0) or len(self.sections) + 1
        values = {"component": "lecture", **options}
        made = Section(
            id=len(self.sections) + 1,
            reference_number=number,
            course=key,
            session=session,
            pool=pool,
            meetings=tuple(hours(m, session) for m in meets),
            **values,  # type: ignore[arg-type]
        )
        self.sections[number] = made
        self.seats[pool] = SeatFigures(seats, 0) if isinstance(seats, int) else seats
        return made

    def permission_code(self, code: str, number: str, *waives: str, **options: object) -> None:
        """A permission code for a section."""
        section = self.sections[number]
        self.permission_codes[code] = PermissionCode(
            len(self.permission_codes) + 1,
            code,
            section.id,
            frozenset(waives),
            "Petra Lunn",
            **options,  # type: ignore[arg-type]
        )

    def grant(self, number: str, *waives: str, **options: object) -> None:
        """Somebody has said yes to the student for a section."""
        section = self.sections[number]
        values = {"by": "Petra Lunn", "student": self.student.id, **options}
        before = self.grants.get(section.id, ())
        yes = PermissionCode(100 + len(before), "", section.id, frozenset(waives), **values)  # type: ignore[arg-type]
        self.grants[section.id] = (*before, yes)

    def passed(self, *courses: tuple[str, str | None]) -> None:
        """Put courses with grades on the record; None is in progress."""
        more = tuple(Attempt(c, "Thaw 2027" if g is None else "Harvest 2026", g, 3.0) for c, g in courses)
        self.record = replace(self.record, attempts=self.record.attempts + more)

    def wait_for(self, *numbers: str) -> None:
        """Give the student places on the waitlists of these sections."""
        more = (WaitlistEntry(n + 1, self.sections[number]) for n, number in enumerate(numbers))
        self.waitlist_entries = (*self.waitlist_entries, *more)

    def catalogue(self) -> TermCatalogue:
        """The term as it stands."""
        offered = [s.course for s in self.sections.values()]
        return TermCatalogue(
            1,
            "harvest-2027",
            "Harvest 2027",
            CALENDAR,
            self.policy,
            tuple(self.sections.values()),
            other_terms=self.other_terms,
            travel=self.travel | {(b, a): n for (a, b), n in self.travel.items()},
            not_offered=tuple(c for c in self._courses.values() if c not in offered),
            state=self.state,
        )

    def situation(self) -> Situation:
        """The student's situation as it stands."""
        held = tuple(
            Registration(
                self.sections[n],
                self.sections[n].credits_for(self.credits.get(n)),
                reserved_seats=self.reserved.get(n),
            )
            for n in self.held
        )
        return Situation(
            self.catalogue(),
            self.student,
            self.record,
            self.windows,
            self.holds,
            (*held, *self.registrations),
            dict(self.seats),
            clearance_open=self.clearance_open,
            permission_codes=self.permission_codes,
            grants=self.grants,
            waitlist_entries=self.waitlist_entries,
        )

    def decide(self, *changes: str, mode: Mode = Mode.EACH) -> Decision:
        """Decide on changes written as :func:`request` reads them."""
        return decide(self.situation(), request(changes, mode), self.now)


def request(changes: Sequence[str], mode: Mode = Mode.EACH) -> Request:
    """Changes as a request: ``+30001`` adds, ``-30001`` drops, ``30001>30002`` swaps the first
    for the second, ``~30001`` adjusts, ``?30001`` waits, ``30001?30002`` waits for the second by
    swap. ``+?30001`` adds, or waits if it is full. Behind it, options: ``2.5cr``, ``#CODE``, and any other
    word is a grading basis (``pass/no_pass``)."""
    return Request(tuple(_change(c) for c in changes), mode)


def _change(text: str) -> Change:
    head, *options = text.split()
    kinds = {"+": Kind.ADD, "-": Kind.DROP, "~": Kind.ADJUST, ">": Kind.SWAP, "?": Kind.WAIT}
    in_exchange, sign, number = re.fullmatch(r"(\d*)([-+~>?]\??)(\d+)", head).groups()  # type: ignore[union-attr]
    made = Change(kinds[sign[0]], number, in_exchange=in_exchange, wait_if_full=sign == "+?")
    for option in options:
        if option.startswith("#"):
            made = replace(made, permission_code=option[1:])
        elif option.endswith("cr"):
            made = replace(made, credits=float(option[:-2]))
        else:
            made = replace(made, grading=option.replace("_", " "))
    return made


def codes(decision: Decision, index: int = 0) -> list[str]:
    """The codes of a change's findings."""
    return [f.code for f in decision.outcomes[index].findings]


def results(decision: Decision) -> str:
    """One letter a change: a for accepted, w for waiting, r for refused."""
    return "".join(o.result.value[0] for o in decision.outcomes)


def numbers(held: Iterable[Registration]) -> list[str]:
    """Reference numbers of sections held."""
    return sorted(h.section.reference_number for h in held)
