"""Issues and withdraws permission codes, and limits guessing."""

from __future__ import annotations

import secrets
from collections.abc import Sequence
from datetime import UTC, datetime, timedelta

import structlog
from playhouse.pool import PooledPostgresqlDatabase

from gremba.actions.catalogue.room_figures import room_figures
from gremba.actions.context import ActionContext
from gremba.actions.problem import Problem
from gremba.actions.problem_kinds import ProblemKind
from gremba.core.catalogue.term import Section, TermCatalogue
from gremba.core.states import Waiver
from gremba.core.wording import listed
from gremba.store.database import connected, reading
from gremba.store.permission.codes import (
    PermissionCodeLine,
    count_guesses,
    count_open_permission_codes,
    insert_permission_codes,
    is_of_request,
    list_permission_codes,
    lock_permission_codes_of,
    section_of_instructor,
    student_by_username,
    student_term_let_in,
    withdraw_permission_code,
    write_guess,
)
from gremba.store.registration.situations import lock_seats, lock_student_terms, read_permission_codes

log = structlog.get_logger()

MOST_GUESSES = 8
GUESSES_WITHIN = timedelta(minutes=15)
MOST_LET_IN = "Take some back, or ask the registrar to raise the limit."
_LETTERS = "ABCDEFGHJKLMNPQRSTUVWXYZ23456789"
"""Without those that are easily mistaken; 32 signs, so eight of them are 40 bits."""


def new_code() -> str:
    """A random code that cannot be guessed."""
    return "".join(secrets.choice(_LETTERS) for _ in range(8))


def normal_code(text: str) -> str:
    """A code in its stored form: upper case, without spaces and hyphens."""
    return "".join(c for c in text.upper() if c.isalnum())[:40]


def note_guess(database: PooledPostgresqlDatabase, person_id: int, code: str, now: datetime) -> None:
    """Record that somebody named a wrong code for a section. Uses the machine's clock, not the campus clock.

    Raises:
        Problem: there were too many of them lately.
    """
    if count_guesses(database, person_id, now - GUESSES_WITHIN) >= MOST_GUESSES:
        log.warning("permission codes are being guessed", person=person_id)
        raise Problem(
            ProblemKind.PERMISSION_CODE_LIMITED,
            "Wait fifteen minutes, then enter the code just as the instructor wrote it. Your cart is kept.",
            retry_after=900,
        )
    write_guess(database, person_id, code, now)


def note_guesses(
    context: ActionContext, person_id: int, student_id: int, codes: Sequence[tuple[str, Section | None]]
) -> None:
    """Record those of these codes that do not exist, or are for another section or student. Two statements,
    and one more for each such code.

    Args:
        person_id: who names them, for whomever it is: they are charged with it.
        codes: each with the section that it is named for.

    Raises:
        Problem: there were too many of them lately.
    """
    with connected(context.database) as database:
        known = read_permission_codes(database, [code for code, _ in codes])
        for code, section in codes:
            found = known.get(code)
            fits = (
                found is not None
                and section is not None
                and found.section == section.id
                and found.student in (None, student_id)
            )
            if not fits:
                note_guess(database, person_id, code, datetime.now(UTC))


def give_permission_codes(
    context: ActionContext,
    instructor_id: int,
    term: TermCatalogue,
    number: str,
    waives: Sequence[Waiver],
    many: int,
    username: str,
    expires_at: datetime | None,
) -> list[str]:
    """Create permission codes for one's own section; returns them.

    Args:
        waives: of what the term's policy lets instructors lift. A hold is lifted by its office only.
        many: how many codes, each good once.
        username: the one student they are for, or "" for anybody.
        expires_at: None for as long as the term's policy has codes last.

    Raises:
        Problem: the section is not one's own, the student is unknown, it expires in the past or too
            late, something is not theirs to lift, or too many codes are open.
    """
    section = term.by_number.get(number)
    policy, now = term.policy, context.clock.now()
    not_theirs = sorted({w.value for w in waives} - set(policy.instructors_lift))
    if not_theirs:
        raise not_yours_to_lift(not_theirs)
    latest = now + timedelta(days=policy.permission_code_days)
    if expires_at is None:
        expires_at = latest
    if not now < expires_at <= latest:
        raise Problem(
            ProblemKind.PERMISSION_CODE_EXPIRED,
            f"Choose a time to come, {policy.permission_code_days} days from now at the latest.",
        )
    with connected(context.database) as database, database.atomic():
        if section is None or not section_of_instructor(database, section.id, instructor_id):
            raise not_your_section()
        student = student_by_username(database, username) if username else None
        if username and student is None:
            raise Problem(
                ProblemKind.STUDENT_NAME_UNKNOWN, f"No student has the user name “{username[:40]}”."
            )
        lock_permission_codes_of(database, section.id)
        open_now = count_open_permission_codes(database, section.id, now)
        if open_now + many > policy.most_open_permission_codes:
            raise Problem(
                ProblemKind.PERMISSION_CODE_QUOTA,
                f"{open_now} of {policy.most_open_permission_codes} have neither been used nor ended. "
                f"{MOST_LET_IN}",
            )
        if Waiver.SEATS in waives:
            lock_seats(database, [section.pool])
            room = room_figures(database, section.pool, now)
            if not room.holds(many):
                raise Problem(
                    ProblemKind.ROOM_FULL, f"{room.told} Give fewer, or ask the registrar's office."
                )
        codes = [new_code() for _ in range(many)]
        insert_permission_codes(
            database,
            codes,
            section.id,
            student,
            [w.value for w in waives],
            instructor_id,
            now,
            expires_at,
        )
    return codes


def take_back_permission_code(
    context: ActionContext, instructor_id: int, term: TermCatalogue, number: str, permission_code_id: int
) -> None:
    """Withdraw an unused code or permission.

    Raises:
        Problem: the section or the code is not one's own, the code has been used, or it was granted on a
            request, and is taken back there.
    """
    section = term.by_number.get(number)
    with connected(context.database) as database, database.atomic():
        if section is None or not section_of_instructor(database, section.id, instructor_id):
            raise not_your_section()
        if is_of_request(database, permission_code_id):
            raise Problem(
                ProblemKind.PERMISSION_CODE_USED, "It was granted on a request: take it back under Requests."
            )
        let_in = student_term_let_in(database, permission_code_id, section.id)
        if let_in is not None:
            # It is used without being named, so whoever it is for must not decide meanwhile.
            lock_student_terms(database, [let_in])
        if not withdraw_permission_code(database, permission_code_id, section.id, context.clock.now()):
            raise Problem(
                ProblemKind.PERMISSION_CODE_USED, "It has been used already, or was taken back before."
            )


def codes_of(
    context: ActionContext, instructor_id: int, term: TermCatalogue, number: str
) -> list[PermissionCodeLine]:
    """The codes created for one's own section.

    Raises:
        Problem: the section is not one's own.
    """
    section = term.by_number.get(number)
    with reading(context.database) as database:
        if section is None or not section_of_instructor(database, section.id, instructor_id):
            raise not_your_section()
        return list_permission_codes(database, section.id)


def not_yours_to_lift(what: Sequence[str]) -> Problem:
    """The policy does not let this person override the rule."""
    return Problem(
        ProblemKind.PERMISSION_NOT_YOURS,
        "Send the student to the office whose it is. A hold is lifted by the office that has placed it.",
        what=listed(what),
    )


def not_your_section() -> Problem:
    """The instructor does not teach the section."""
    return Problem(ProblemKind.SECTION_NOT_YOURS, "Choose one of the sections that you teach.")
