"""Makes a permission request, answers a question about it, or withdraws it."""

from __future__ import annotations

import hashlib
from dataclasses import dataclass, replace
from datetime import datetime, timedelta

from playhouse.pool import PooledPostgresqlDatabase

from gremba.actions.actor import SubjectStudent
from gremba.actions.context import ActionContext
from gremba.actions.permission.changes import change_data
from gremba.actions.permission.deciders import deciders_of, read_deciders
from gremba.actions.permission.telling import lifted_text, quoted, tell_deciders
from gremba.actions.problem import Problem
from gremba.actions.problem_kinds import ProblemKind
from gremba.actions.registration.look_at_cart import as_of_opening, pools_in_sight
from gremba.core.catalogue.seats import SeatFigures
from gremba.core.catalogue.term import Section, TermCatalogue
from gremba.core.messages import MessageKind
from gremba.core.permission.answering import MOST_WORDS
from gremba.core.permission.asking import Asking, work_out_asking
from gremba.core.permission.attachments import MOST_FILES, plain_name, type_of, why_not_attached
from gremba.core.permission.deciders import Deciders
from gremba.core.permission.policy import Decider
from gremba.core.registration.changes import Change, Kind, Request
from gremba.core.registration.deciding.steps import groups_of
from gremba.core.registration.situation import Situation
from gremba.core.states import PermissionEventKind, PermissionState
from gremba.store.database import connected, reading
from gremba.store.permission.requests import (
    RequestRow,
    change_request,
    count_asked_since,
    count_attached_since,
    count_open,
    files_of,
    find_request,
    insert_file,
    insert_request,
    is_file_there,
    lock_request,
    open_request,
    put_event,
)
from gremba.store.registration.carts import read_cart
from gremba.store.registration.situations import lock_student_terms, read_seats, read_situations


@dataclass(frozen=True, slots=True)
class AskingLook:
    """What a request for a section would cover, and who would decide it.

    Attributes:
        request: the change, with those of the cart that belong to it.
        who: who would have it, step by step, by name.
        open: the request for it that is open already.
    """

    section: Section
    situation: Situation
    request: Request
    asking: Asking
    who: tuple[str, ...]
    open: RequestRow | None


def look_at_asking(context: ActionContext, student_id: int, term_code: str, number: str) -> AskingLook:
    """What a request for a section would cover: with its change in the cart and what belongs to that, or as a
    plain add. Up to ten statements.

    Raises:
        Problem: no such term or section, or the student is not expected in the term.
    """
    term = context.term(term_code)
    row = context.student_term(student_id, term)
    section = term.by_number.get(number)
    if section is None:
        raise Problem(ProblemKind.SECTION_UNKNOWN, "Look for it in Find.", term=term.name, number=number[:20])
    with reading(context.database) as database:
        situation, request, index = _read(database, term, row, number)
        now = as_of_opening(situation, context.clock.now())
        asking = work_out_asking(situation, request, index, now)
        open_now = open_request(database, row, section.id)
        deciders = read_deciders(context, term, {section.id})
    who = tuple(_named(deciders, decider, section, situation) for decider in asking.route)
    return AskingLook(section, situation, request, asking, who, open_now)


def _named(deciders: Deciders, decider: Decider, section: Section, situation: Situation) -> str:
    if decider is Decider.ADVISOR and situation.student.advisor:
        return situation.student.advisor
    people = deciders.themselves(decider, section, None)
    if people == deciders.registrars:
        return "the registrar's office"
    return " or ".join(deciders.names[p] for p in people)


def _read(
    database: PooledPostgresqlDatabase, term: TermCatalogue, row: int, number: str
) -> tuple[Situation, Request, int]:
    """The student's situation, the changes to request, and the index of the section's change."""
    seats: dict[int, SeatFigures] = {}
    cart = read_cart(database, row, term)
    situation = read_situations(database, {row: term}, seats)[row]
    seats.update(read_seats(database, pools_in_sight(situation, cart.request)))
    wanted = [
        i
        for i, c in enumerate(cart.request.changes)
        if c.number == number and c.kind in (Kind.ADD, Kind.SWAP, Kind.WAIT)
    ]
    if not wanted:
        changes: tuple[Change, ...] = (Change(Kind.ADD, number),)
        request = Request(changes)
        seats.update(read_seats(database, pools_in_sight(situation, request)))
        return situation, request, 0
    groups = groups_of(situation, cart.request, _any_time(term))
    members = next((group for group in groups if wanted[0] in group), (wanted[0],))
    changes = tuple(_asked(cart.request.changes[i]) for i in members)
    return situation, Request(changes), members.index(wanted[0])


DAY = timedelta(days=1)

MAX_REQUESTS_A_DAY = 20
"""Of one student, those taken back too."""

MAX_FILES_A_DAY = 15
"""Of one student: thirty megabytes."""

_TOMORROW = "Those there are stay as they are. Go on tomorrow, or speak to the office."


def _any_time(term: TermCatalogue) -> datetime:
    """What belongs together, whatever the time."""
    return datetime.combine(term.calendar.first, datetime.min.time(), tzinfo=term.calendar.zone)


def _asked(change: Change) -> Change:
    """A change as it is requested: a wait is requested as a seat, and backup sections are left out."""
    kind = change.kind
    if kind is Kind.WAIT:
        kind = Kind.SWAP if change.in_exchange else Kind.ADD
    return replace(change, kind=kind, permission_code="", alternatives=(), wait_if_full=False)


def ask(
    context: ActionContext,
    subject: SubjectStudent,
    term_code: str,
    number: str,
    words: str,
    goes_through: bool,
) -> int:
    """Request a section; returns the request's id. Deciders are told by mail.

    Args:
        words: the student's own, to the one who decides.
        goes_through: put it through by itself once it is granted.

    Raises:
        Problem: nothing can be asked, it was asked already, the words are missing or too long, or too many
            requests are open.
    """
    words = checked_words(words)
    look = look_at_asking(context, subject.student_id, term_code, number)
    if look.asking.why_not:
        raise Problem(ProblemKind.NOT_ASKED, look.asking.why_not)
    term, section = context.term(term_code), look.section
    row = context.student_term(subject.student_id, term)
    now = context.clock.now()
    policy = term.policy.permission
    with connected(context.database) as database, database.atomic():
        lock_student_terms(database, [row])
        if open_request(database, row, section.id) is not None:
            raise Problem(ProblemKind.REQUEST_OPEN, "Look under Requests who has it, and since when.")
        if count_asked_since(database, subject.student_id, now - DAY) >= MAX_REQUESTS_A_DAY:
            raise Problem(ProblemKind.ASKED_ENOUGH, _TOMORROW, what=f"{MAX_REQUESTS_A_DAY} requests")
        if count_open(database, row) >= policy.most_open:
            raise Problem(
                ProblemKind.TOO_MANY_ASKED,
                "Wait for an answer, or take one of them back under Requests.",
                most=policy.most_open,
            )
        request_id = insert_request(
            database,
            row,
            section.id,
            now,
            {
                "changes": [change_data(c) for c in look.request.changes],
                "waives": [w.value for w in look.asking.waives],
                "words": words,
                "otherwise": list(look.asking.otherwise),
                "goes_through": goes_through,
                "route": [d.value for d in look.asking.route],
            },
        )
        put_event(database, request_id, PermissionEventKind.ASKED, now, subject.by.id, words)
        found = find_request(database, request_id)
        if found is not None:
            deciders = deciders_of(context, term, [found])
            lifted = lifted_text(found.waives)
            came = MessageKind.REQUEST_CAME
            tell_deciders(database, deciders, found, section, came, now, lifted=lifted, words=quoted(words))
    return request_id


def attach(
    context: ActionContext, subject: SubjectStudent, request_id: int, name: str, content: bytes
) -> None:
    """Attach a file to one's own open request. The same file is attached once.

    Raises:
        Problem: it is not one's own or not open, the file is not what it says, or it is one too many.
    """
    name = plain_name(name)
    why = why_not_attached(name, content)
    kind = type_of(content)
    if why or kind is None:
        raise Problem(ProblemKind.FILE_WRONG, why)
    digest = hashlib.sha256(content).digest()
    with connected(context.database) as database, database.atomic():
        row = own_request(database, subject.student_id, request_id)
        if not row.state.is_open:
            raise _moved()
        if is_file_there(database, row.id, digest):
            return
        if len(files_of(database, [row.id]).get(row.id, ())) >= MOST_FILES:
            raise Problem(ProblemKind.FILE_WRONG, f"A request has at most {MOST_FILES} files.")
        now = context.clock.now()
        if count_attached_since(database, subject.student_id, now - DAY) >= MAX_FILES_A_DAY:
            raise Problem(ProblemKind.ASKED_ENOUGH, _TOMORROW, what=f"{MAX_FILES_A_DAY} files")
        insert_file(database, row.id, name, kind, content, digest, now)
        change_request(database, row, row.state)


def checked_words(words: str) -> str:
    """Validates a text that one person writes to another.

    Raises:
        Problem: there are none, or too many.
    """
    words = words.strip()
    if not words:
        raise Problem(
            ProblemKind.WORDS_MISSING, "Write a sentence or two: whoever reads it knows nothing else of it."
        )
    if len(words) > MOST_WORDS:
        raise Problem(
            ProblemKind.TEXT_TOO_LONG,
            f"Write at most {MOST_WORDS:,} signs; it has {len(words):,}. What you wrote is still there.",
        )
    return words


def answer_back(context: ActionContext, subject: SubjectStudent, request_id: int, words: str) -> None:
    """Answer a question about one's own request; it returns to the decider.

    Raises:
        Problem: it is not one's own, nothing was asked, or the words are missing or too long.
    """
    words = checked_words(words)
    now = context.clock.now()
    with connected(context.database) as database, database.atomic():
        row = own_request(database, subject.student_id, request_id)
        if row.state is not PermissionState.ASKED_BACK:
            raise _moved()
        term = context.term(row.term)
        section = term.by_id[row.section]
        change_request(database, row, PermissionState.OPEN, since=now, reminded_at=None)
        put_event(database, row.id, PermissionEventKind.ANSWERED, now, subject.by.id, words)
        answered = MessageKind.REQUEST_ANSWERED
        deciders = deciders_of(context, term, [row])
        tell_deciders(database, deciders, row, section, answered, now, words=quoted(words))


def withdraw(context: ActionContext, subject: SubjectStudent, request_id: int) -> None:
    """Withdraw one's own open request.

    Raises:
        Problem: it is not one's own, or it is not open any more.
    """
    now = context.clock.now()
    with connected(context.database) as database, database.atomic():
        row = own_request(database, subject.student_id, request_id)
        if not row.state.is_open:
            raise _moved()
        change_request(database, row, PermissionState.WITHDRAWN, since=now)
        put_event(database, row.id, PermissionEventKind.WITHDRAWN, now, subject.by.id)


def own_request(database: PooledPostgresqlDatabase, student_id: int, request_id: int) -> RequestRow:
    """A student's own request, locked.

    Raises:
        Problem: there is none, or it is somebody else's.
    """
    row = lock_request(database, request_id)
    if row is None or row.student_id != student_id:
        raise Problem(ProblemKind.REQUEST_UNKNOWN, "Look under Requests for those that are yours.")
    return row


def _moved() -> Problem:
    return Problem(ProblemKind.REQUEST_MOVED, "Look at it again: it stands otherwise by now.")
