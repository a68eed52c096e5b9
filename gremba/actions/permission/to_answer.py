"""Lists the permission requests a person has to answer, with what they need to decide."""

from __future__ import annotations

from collections.abc import Mapping, Sequence
from dataclasses import dataclass
from datetime import datetime, timedelta

from playhouse.pool import PooledPostgresqlDatabase

from gremba.actions.actor import Actor
from gremba.actions.catalogue.room_figures import rooms_of
from gremba.actions.context import ActionContext
from gremba.actions.permission.answer import unknown_request
from gremba.actions.permission.changes import changes_from_data
from gremba.actions.permission.deciders import deciders_of, read_deciders
from gremba.actions.registration.look_at_cart import as_of_opening, pools_in_sight
from gremba.core.catalogue.seats import SeatFigures
from gremba.core.catalogue.term import Section, TermCatalogue
from gremba.core.permission.answering import RoomFigures
from gremba.core.permission.asking import still_stopping, with_grant
from gremba.core.permission.deciders import Deciders, Having
from gremba.core.registration.changes import Request
from gremba.core.registration.decision import decide
from gremba.core.registration.outcome import Decision
from gremba.core.registration.situation import Situation
from gremba.core.states import FileType, Role, Waiver
from gremba.store.database import connected, reading
from gremba.store.permission.codes import grants_used
from gremba.store.permission.requests import (
    Answered,
    EventRow,
    FileRow,
    RequestRow,
    events_of,
    files_of,
    find_request,
    read_file,
    requests_of_advisees,
    requests_of_sections,
    requests_of_student,
    requests_of_term,
    terms_with_open_requests,
)
from gremba.store.registration.situations import read_seats, read_situations
from gremba.store.students.people import sections_of_instructors

MAX_ANSWERED_A_PAGE = 200
"""Of what was answered, on a page."""

LATELY = timedelta(days=14)
"""So long what was answered is still shown."""


@dataclass(frozen=True, slots=True)
class Told:
    """A request with its history.

    Attributes:
        who: who has it now, by name; "" where nobody has.
    """

    row: RequestRow
    section: Section
    events: Sequence[EventRow]
    files: Sequence[FileRow]
    who: str


@dataclass(frozen=True, slots=True)
class ToAnswer:
    """A request as its decider sees it.

    Attributes:
        having: how they have it; None where it is not theirs to answer now.
        situation: the student's.
        granted: what a yes would lead to.
        otherwise: what would stop it all the same, now.
    """

    told: Told
    having: Having | None
    situation: Situation
    granted: Decision
    otherwise: tuple[str, ...]


@dataclass(frozen=True, slots=True)
class Answerable:
    """Everything somebody has to decide in a term, and recent decisions.

    Attributes:
        rooms: figures by seat pool.
        let_in: by the id of a section, how many a yes has let in, on a request or without.
        names: of the people in it.
        more: behind this request there is more that was answered; None if there is not.
    """

    term: TermCatalogue
    requests: Sequence[ToAnswer]
    rooms: Mapping[int, RoomFigures]
    let_in: Mapping[int, int]
    names: Mapping[int, str]
    more: int | None


def requests_told(context: ActionContext, student_id: int, term_code: str) -> list[Told]:
    """A student's own requests for a term, newest first. Nine statements.

    Raises:
        Problem: no such term, or the student is not expected in it.
    """
    term = context.term(term_code)
    row = context.student_term(student_id, term)
    with reading(context.database) as database:
        rows = requests_of_student(database, row, MAX_ANSWERED_A_PAGE)
        return _told(database, term, rows, deciders_of(context, term, rows))


def _told(
    database: PooledPostgresqlDatabase, term: TermCatalogue, rows: Sequence[RequestRow], deciders: Deciders
) -> list[Told]:
    events = events_of(database, [r.id for r in rows])
    files = files_of(database, [r.id for r in rows])
    return [
        Told(
            row,
            term.by_id[row.section],
            events.get(row.id, ()),
            files.get(row.id, ()),
            deciders.told(row, term.by_id[row.section]) if row.state.is_open else "",
        )
        for row in rows
    ]


def requests_to_answer(
    context: ActionContext, by: Actor, term_code: str, before: int | None = None
) -> Answerable:
    """Everything somebody has to decide, also as a delegate, with the students' records and the effect of an
    approval; then recent decisions, by page. About eighteen statements, however many requests.

    Args:
        before: the next page of what was answered, from behind this request; without what is open.

    Raises:
        Problem: no such term.
    """
    term = context.term(term_code)
    now = context.clock.now()
    with reading(context.database) as database:
        still_open = [] if before is not None else _rows(context, database, term, by)
        lately = Answered(now - LATELY, before, MAX_ANSWERED_A_PAGE + 1)
        answered = _rows(context, database, term, by, lately)[: MAX_ANSWERED_A_PAGE + 1]
        rows = [*still_open, *answered[:MAX_ANSWERED_A_PAGE]]
        deciders = deciders_of(context, term, rows)
        in_hand = {
            r.id: next((h for h in deciders.having(r, term.by_id[r.section]) if h.person == by.id), None)
            for r in rows
        }
        shown = [
            r for r in rows if in_hand[r.id] is not None or deciders.had(r, term.by_id[r.section], by.id)
        ]
        told = _told(database, term, shown, deciders)
        seats: dict[int, SeatFigures] = {}
        students = {t.row.student_term_id: term for t in told}
        situations = read_situations(database, students, seats) if students else {}
        requests = {t.row.id: Request(changes_from_data(t.row.changes)) for t in told}
        pools = {t.section.pool for t in told}
        for t in told:
            pools |= pools_in_sight(situations[t.row.student_term_id], requests[t.row.id])
        seats.update(read_seats(database, pools) if pools else {})
        rooms = rooms_of(database, {t.section.pool for t in told}, seats, now)
        let_in = grants_used(database, {t.section.id for t in told})
    return Answerable(
        term,
        [
            _to_answer(t, in_hand[t.row.id], situations[t.row.student_term_id], requests[t.row.id], now)
            for t in told
        ],
        rooms,
        let_in,
        deciders.names,
        answered[MAX_ANSWERED_A_PAGE - 1].id if len(answered) > MAX_ANSWERED_A_PAGE else None,
    )


def open_elsewhere(context: ActionContext, by: Actor, term_code: str) -> list[tuple[TermCatalogue, int]]:
    """Other terms with requests to decide, and how many. About ten statements for each term with open
    requests."""
    with connected(context.database) as database:
        codes = [code for code in terms_with_open_requests(database) if code != term_code]
    counted = [(term, count_to_answer(context, by, term)) for term in map(context.term, codes)]
    return [(term, many) for term, many in counted if many]


def count_to_answer(context: ActionContext, by: Actor, term: TermCatalogue) -> int:
    """How many requests somebody has to decide in a term. About ten statements."""
    with connected(context.database) as database:
        rows = _rows(context, database, term, by)
        deciders = deciders_of(context, term, rows)
    return sum(any(h.person == by.id for h in deciders.having(r, term.by_id[r.section])) for r in rows)


def _rows(
    context: ActionContext,
    database: PooledPostgresqlDatabase,
    term: TermCatalogue,
    by: Actor,
    answered: Answered | None = None,
) -> list[RequestRow]:
    """The requests somebody may decide, also as a delegate. Open ones in order of arrival, decided ones
    newest first."""
    if by.role == Role.REGISTRAR:
        return requests_of_term(database, term.id, answered)
    # Which sections and students are theirs does not depend on the requests.
    every = read_deciders(context, term, ())
    people = {by.id, *every.stood_in_for(by.id)}
    sections = set(sections_of_instructors(database, people, term.id))
    subjects = {subject for subject, heads in every.heads.items() if people & set(heads)}
    sections |= {s.id for s in term.sections if s.course.subject in subjects}
    rows = {r.id: r for r in requests_of_sections(database, sections, answered)}
    rows |= {r.id: r for r in requests_of_advisees(database, people, term.id, answered)}
    if people & set(every.registrars):
        rows |= {r.id: r for r in requests_of_term(database, term.id, answered)}
    return [rows[request_id] for request_id in sorted(rows, reverse=answered is not None)]


def _to_answer(
    told: Told, having: Having | None, situation: Situation, request: Request, now: datetime
) -> ToAnswer:
    waives = [Waiver(w) for w in told.row.waives]
    as_of = as_of_opening(situation, now)
    granted = decide(with_grant(situation, told.section, waives), request, as_of)
    is_theirs = having is not None and told.row.state.is_open
    return ToAnswer(told, having if is_theirs else None, situation, granted, still_stopping(granted))


def attached_file(
    context: ActionContext, by: Actor, request_id: int, file_id: int
) -> tuple[str, FileType, bytes]:
    """A file of a request, for its student and its past and present deciders.

    Raises:
        Problem: there is none, or it is not for whoever asks.
    """
    with reading(context.database) as database:
        row = find_request(database, request_id)
        if row is None:
            raise unknown_request()
        term = context.term(row.term)
        if row.student_id != by.id:
            deciders = deciders_of(context, term, [row])
            has_it = any(h.person == by.id for h in deciders.having(row, term.by_id[row.section]))
            if by.role == Role.STUDENT or not (has_it or deciders.had(row, term.by_id[row.section], by.id)):
                raise unknown_request()
        found = read_file(database, request_id, file_id)
    if found is None:
        raise unknown_request()
    return found
