"""Changes sections of a term, one or many at once: previews the affected students, then saves. Uses the
checks of the exchange folder."""

from __future__ import annotations

from collections.abc import Callable, Collection, Iterable, Sequence
from dataclasses import dataclass
from datetime import date, time
from typing import Any

from playhouse.pool import PooledPostgresqlDatabase

from gremba.actions.context import ActionContext
from gremba.actions.exchange.bring_in import ImportReport, bring_in
from gremba.actions.problem import Problem
from gremba.actions.problem_kinds import ProblemKind
from gremba.core.catalogue.calendar import WEEKDAY_LETTERS
from gremba.core.catalogue.seats import ReservedSeats
from gremba.core.catalogue.term import Section, TermCatalogue
from gremba.core.exchange.tables import BY_NAME
from gremba.core.exchange.values import write_value
from gremba.core.states import WaitlistWay
from gremba.formats.exchange.source import of_rows
from gremba.store.catalogue.teaching import Teacher, hand_over, instructor_named, teachers_of
from gremba.store.database import connected, reading
from gremba.store.exchange.affected_students import waiting_for
from gremba.store.registration.situations import read_seats


@dataclass(frozen=True, slots=True)
class OfficeSection:
    """A section as the registrar sees it.

    Attributes:
        seats_with: reference number of the section whose seats these are, where they share them; "" where
            they are its own.
        waiting: for this section; others that share its seats are not counted.
    """

    section: Section
    limit: int
    taken: int
    waiting: int
    seats_with: str
    teachers: tuple[Teacher, ...]
    reserved: tuple[ReservedSeats, ...]


@dataclass(frozen=True, slots=True)
class MeetingWanted:
    """New days, hours, or room for a meeting.

    Attributes:
        place: which of its meetings, from 1; one more than there are for another one.
        starts, ends: minutes since midnight.
    """

    place: int
    weekdays: str
    starts: int
    ends: int
    first: date
    last: date
    campus: str = ""
    room: str = ""


@dataclass(frozen=True, slots=True)
class ReservedWanted:
    """Reserved seats to set."""

    kind: str
    value: str
    seats: int
    release_on: date | None = None


@dataclass(frozen=True)
class SectionWanted:
    """Changes to a section; None for what stays.

    Attributes:
        limit_by: seats more, or fewer, than there are.
        old_teacher, new_teacher: user names; the new one teaches instead of the old, or beside others where
            no old one is named.
    """

    limit: int | None = None
    limit_by: int | None = None
    waitlist_limit: int | None = None
    waitlist_way: WaitlistWay | None = None
    consent_needed: bool | None = None
    cancelled: bool | None = None
    notes: str | None = None
    meetings: tuple[MeetingWanted, ...] = ()
    reserved: tuple[ReservedWanted, ...] = ()
    old_teacher: str = ""
    new_teacher: str = ""


def list_sections(context: ActionContext, code: str) -> list[OfficeSection]:
    """All sections of a term, by number. Three statements.

    Raises:
        Problem: there is no such term.
    """
    term = context.term(code)
    with reading(context.database) as database:
        seats = read_seats(database, {s.pool for s in term.sections})
        waiting = waiting_for(database, [s.id for s in term.sections])
        teachers = teachers_of(database, term.id)
    return [
        OfficeSection(
            section,
            seats[section.pool].limit,
            seats[section.pool].taken,
            waiting.get(section.id, 0),
            _seats_with(term, section),
            tuple(teachers.get(section.id, ())),
            seats[section.pool].reserved_seats,
        )
        for section in term.sections
        if section.pool in seats
    ]


def _seats_with(term: TermCatalogue, section: Section) -> str:
    owner = term.by_pool[section.pool]
    return "" if owner is section else owner.reference_number


def change_sections(
    context: ActionContext,
    code: str,
    numbers: Collection[str],
    wanted: SectionWanted,
    *,
    is_trial: bool,
    expected: str = "",
) -> ImportReport:
    """Change sections, or preview the change and the students it affects.

    Args:
        numbers: reference numbers.
        expected: the digest of the report that was looked at.

    Raises:
        Problem: there is no such term or section, or nothing is to be changed.
    """
    term = context.term(code)
    sections = []
    for number in dict.fromkeys(numbers):
        section = term.by_number.get(number)
        if section is None:
            raise Problem(
                ProblemKind.SECTION_UNKNOWN, "Look at the list again.", term=term.name, number=number
            )
        sections.append(section)
    tables = _tables(context, term, sections, wanted)
    if not tables and not wanted.new_teacher:
        raise Problem(ProblemKind.NOTHING_CHANGED, "Choose what is to be another thing.")
    return bring_in(
        context.database,
        of_rows(tables),
        context.clock.now(),
        is_trial=is_trial,
        expected=expected,
        beside=_handing_over(context, sections, wanted),
    )


_PLAIN = ("waitlist_limit", "waitlist_way", "consent_needed", "cancelled", "notes")
"""What is called the same here and in the folder's table of sections."""

Rows = list[list[str]]


def _written(table: str, names: Sequence[str], rows: Iterable[Sequence[Any]]) -> Rows:
    """Rows of an exchange table as they are now, headings first."""
    columns = [BY_NAME[table].column(name) for name in names]
    cells = ([write_value(column, value) for column, value in zip(columns, row, strict=True)] for row in rows)
    return [list(names), *cells]


def _tables(
    context: ActionContext, term: TermCatalogue, sections: Sequence[Section], wanted: SectionWanted
) -> dict[str, Rows]:
    """The changes, as rows of exchange tables."""
    plain = {name: value for name in _PLAIN if (value := getattr(wanted, name)) is not None}
    limits = _limits(context, sections, wanted)
    key = [(section, (term.code, section.reference_number)) for section in sections]
    tables: dict[str, Rows] = {}
    # Who teaches is changed beside; which sections it is about stands in a table all the same.
    if plain or limits or wanted.old_teacher:
        names = ("term", "number", *plain, *(("seats",) if limits else ()))
        rows = ((*own, *plain.values(), *((limits[s.pool],) if limits else ())) for s, own in key)
        tables["sections"] = _written("sections", names, rows)
    if wanted.meetings:
        tables["meetings"] = _written(
            "meetings", _OF_MEETING, ((*own, *_meeting(one)) for _, own in key for one in wanted.meetings)
        )
    if wanted.new_teacher and not wanted.old_teacher:
        rows = ((*own, wanted.new_teacher) for _, own in key)
        tables["instructors"] = _written("instructors", ("term", "number", "username"), rows)
    if wanted.reserved:
        owners = sorted({term.by_pool[section.pool].reference_number for section in sections})
        rows = (
            (term.code, number, part.kind, part.value, part.seats, part.release_on)
            for number in owners
            for part in wanted.reserved
        )
        tables["reserved_seats"] = _written("reserved_seats", _OF_RESERVED, rows)
    return tables


_OF_MEETING = (
    *("term", "number", "place", "weekdays", "starts", "ends", "first_day", "last_day", "campus", "room"),
)
_OF_RESERVED = ("term", "number", "kind", "value", "seats", "release_on")


def _meeting(one: MeetingWanted) -> tuple[Any, ...]:
    in_order = "".join(letter for letter in WEEKDAY_LETTERS if letter in one.weekdays)
    starts, ends = (time(*divmod(minutes, 60)) for minutes in (one.starts, one.ends))
    return one.place, in_order, starts, ends, one.first, one.last, one.campus or None, one.room


def _limits(context: ActionContext, sections: Sequence[Section], wanted: SectionWanted) -> dict[int, int]:
    """The new limit of each pool whose limit changes. Sections that share seats share it."""
    if wanted.limit is None and not wanted.limit_by:
        return {}
    pools = {section.pool for section in sections}
    with connected(context.database) as database:
        seats = read_seats(database, pools)
    more = wanted.limit_by or 0
    return {
        pool: max(0, figures.limit + more) if wanted.limit is None else wanted.limit
        for pool, figures in seats.items()
    }


def _handing_over(
    context: ActionContext, sections: Sequence[Section], wanted: SectionWanted
) -> Callable[[PooledPostgresqlDatabase], int]:
    if not (wanted.new_teacher and wanted.old_teacher):
        return lambda _: 0
    with connected(context.database) as database:
        new = instructor_named(database, wanted.new_teacher)
    if new is None:
        raise Problem(
            ProblemKind.INSTRUCTOR_UNKNOWN, "Write the user name of an instructor; a folder brings new ones."
        )
    ids = [section.id for section in sections]
    return lambda database: hand_over(database, ids, wanted.old_teacher, new)
