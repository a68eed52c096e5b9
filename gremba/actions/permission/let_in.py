"""Lets an instructor admit a student from the roster: a grant without a request."""

from __future__ import annotations

from collections.abc import Sequence
from datetime import datetime

from gremba.actions.actor import Actor
from gremba.actions.catalogue.room_figures import room_figures
from gremba.actions.context import ActionContext
from gremba.actions.once import is_repeated
from gremba.actions.permission.answer import checked_until
from gremba.actions.permission.ask import checked_words
from gremba.actions.permission.codes import MOST_LET_IN, new_code, not_your_section, not_yours_to_lift
from gremba.actions.permission.telling import lifted_text, quoted
from gremba.actions.problem import Problem
from gremba.actions.problem_kinds import ProblemKind
from gremba.core.catalogue.term import TermCatalogue
from gremba.core.messages import MessageKind, message
from gremba.core.states import Role, Waiver
from gremba.core.wording import moment, times_text
from gremba.store.database import connected
from gremba.store.messages.inbox import put_notice
from gremba.store.permission.codes import (
    count_open_permission_codes,
    insert_grant,
    lock_permission_codes_of,
    section_of_instructor,
    student_by_username,
)
from gremba.store.registration.situations import find_student_term, lock_seats, lock_student_terms


def let_in(
    context: ActionContext,
    by: Actor,
    term: TermCatalogue,
    number: str,
    username: str,
    waives: Sequence[Waiver],
    words: str = "",
    until: datetime | None = None,
    *,
    key: str,
) -> None:
    """Give a student permission for one's own section, or as registrar for any: overrides what blocks them,
    once, and once for a key. The student is told.

    Args:
        waives: of what the term's policy lets instructors lift; the registrar lifts anything.
        until: None for as long as the policy allows.

    Raises:
        Problem: the section is not one's own, there is no such student in the term, it is not theirs to
            lift, it ends at the wrong time, or the room holds no more.
    """
    policy, now = term.policy, context.clock.now()
    if words.strip():
        words = checked_words(words)
    is_registrar = by.role == Role.REGISTRAR
    not_theirs = sorted({w.value for w in waives} - set(policy.instructors_lift))
    if not_theirs and not is_registrar:
        raise not_yours_to_lift(not_theirs)
    ends = checked_until(term, until, now)
    section = term.by_number.get(number)
    with connected(context.database) as database, database.atomic():
        if section is None or not (is_registrar or section_of_instructor(database, section.id, by.id)):
            raise not_your_section()
        student = student_by_username(database, username)
        row = None if student is None else find_student_term(database, student, term.code)
        if student is None or row is None:
            raise Problem(
                ProblemKind.STUDENT_NAME_UNKNOWN,
                f"No student of {term.name} has the user name “{username[:40]}”.",
            )
        lock_student_terms(database, [row])
        if is_repeated(database, by.id, key, now, "let in", section.id, row, waives, words, until):
            return
        lock_seats(database, [section.pool])
        lock_permission_codes_of(database, section.id)
        if count_open_permission_codes(database, section.id, now) >= policy.most_open_permission_codes:
            raise Problem(ProblemKind.PERMISSION_CODE_QUOTA, MOST_LET_IN)
        if Waiver.SEATS in waives:
            room = room_figures(database, section.pool, now)
            if not room.holds():
                raise Problem(
                    ProblemKind.ROOM_FULL, f"{room.told} Ask the registrar's office for a larger room."
                )
        lifts = [w.value for w in Waiver if w in waives]
        insert_grant(database, new_code(), section.id, student, lifts, by.id, now, ends)
        told = message(
            MessageKind.LET_IN,
            section,
            by=by.name,
            times=times_text(section.meetings),
            lifted=lifted_text(lifts),
            words=quoted(words),
            until=moment(ends.astimezone(term.calendar.zone)),
        )
        put_notice(database, row, told, now)
