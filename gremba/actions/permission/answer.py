"""Answers a permission request: approves, denies or asks back; revokes an approval that was not used."""

from __future__ import annotations

from dataclasses import replace
from datetime import datetime
from enum import StrEnum

from playhouse.pool import PooledPostgresqlDatabase

from gremba.actions.actor import Actor
from gremba.actions.catalogue.room_figures import room_figures
from gremba.actions.context import ActionContext
from gremba.actions.permission.ask import checked_words
from gremba.actions.permission.codes import new_code
from gremba.actions.permission.deciders import deciders_of
from gremba.actions.permission.put_through import put_through
from gremba.actions.permission.telling import lifted_text, quoted, tell_deciders, tell_student
from gremba.actions.problem import Problem
from gremba.actions.problem_kinds import ProblemKind
from gremba.core.catalogue.term import Section, TermCatalogue
from gremba.core.messages import MessageKind
from gremba.core.permission.answering import goes_to_registrar, latest_until, why_over
from gremba.core.permission.deciders import Deciders, Having
from gremba.core.permission.policy import Decider
from gremba.core.states import PermissionEventKind, PermissionState, Waiver
from gremba.core.wording import moment, sentence_case
from gremba.store.database import connected
from gremba.store.permission.codes import insert_grant, withdraw_permission_code
from gremba.store.permission.requests import (
    RequestRow,
    change_request,
    events_of,
    find_request,
    lock_request,
    put_event,
)
from gremba.store.registration.situations import lock_seats, lock_student_terms
from gremba.store.students.people import sections_held


class GivenAnswer(StrEnum):
    """A decision about a request."""

    YES = "yes"
    NO = "no"
    NOT_YET = "not yet"


def answer(
    context: ActionContext,
    by: Actor,
    request_id: int,
    said: GivenAnswer,
    words: str = "",
    until: datetime | None = None,
    seen: int | None = None,
) -> RequestRow:
    """Decide a request; returns it as it is afterwards.

    A yes goes on to the next who has to say it, if there is one; beyond what the room holds, to the
    registrar. The last one is a grant: it lifts what was asked for, for this student and section, once.

    Args:
        words: to the student; needed but for a yes.
        until: until when a yes is good; None for as long as the policy allows.
        seen: the request's version that the answer was made for; if it has moved on since, nothing is
            done.

    Raises:
        Problem: one does not have it, it has moved on, words are missing, or it cannot be good until
            then.
    """
    if said is not GivenAnswer.YES or words.strip():
        words = checked_words(words)
    with connected(context.database) as database, database.atomic():
        row, section, term = _locked(context, request_id)
        deciders = deciders_of(context, term, [row])
        having = _having(database, term, deciders, row, section, by)
        now = context.clock.now()
        if not row.state.is_open or (seen is not None and seen != row.version):
            raise _moved(database, row, term)
        if said is GivenAnswer.YES:
            _say_yes(context, term, deciders, row, section, by, having, words, until, now)
        elif said is GivenAnswer.NO:
            change_request(database, row, PermissionState.REFUSED, since=now)
            put_event(database, row.id, PermissionEventKind.REFUSED, now, by.id, words, having.stands_for)
            refused = MessageKind.REQUEST_REFUSED
            tell_student(database, row, section, refused, now, by=by.name, words=quoted(words))
        else:
            change_request(database, row, PermissionState.ASKED_BACK, since=now)
            put_event(database, row.id, PermissionEventKind.ASKED_BACK, now, by.id, words, having.stands_for)
            question = MessageKind.REQUEST_QUESTION
            tell_student(database, row, section, question, now, by=by.name, words=quoted(words))
        after = find_request(database, row.id)
    assert after is not None
    if after.state is PermissionState.GRANTED and after.goes_through:
        put_through(context, after)
        with connected(context.database) as database:
            after = find_request(database, row.id) or after
    return after


def _locked(context: ActionContext, request_id: int) -> tuple[RequestRow, Section, TermCatalogue]:
    """A request with its student and the seats it may be about, locked in the usual order.

    Raises:
        Problem: there is none.
    """
    database = context.database
    row = find_request(database, request_id)
    if row is None:
        raise unknown_request()
    term = context.term(row.term)
    section = term.by_id[row.section]
    lock_student_terms(database, [row.student_term_id])
    lock_seats(database, [section.pool])
    row = lock_request(database, request_id)
    assert row is not None
    return row, section, term


def _having(
    database: PooledPostgresqlDatabase,
    term: TermCatalogue,
    deciders: Deciders,
    row: RequestRow,
    section: Section,
    by: Actor,
) -> Having:
    """How somebody may decide a request: as decider or as delegate.

    Raises:
        Problem: they do not have it; who had it a moment ago is told what became of it.
    """
    found = [h for h in deciders.having(row, section) if h.person == by.id]
    if found:
        return found[0]
    if deciders.had(row, section, by.id):
        raise _moved(database, row, term)
    raise unknown_request()


def _say_yes(
    context: ActionContext,
    term: TermCatalogue,
    deciders: Deciders,
    row: RequestRow,
    section: Section,
    by: Actor,
    having: Having,
    words: str,
    until: datetime | None,
    now: datetime,
) -> None:
    database = context.database
    ends = checked_until(term, until, now)
    over = why_over(
        section,
        [term.by_id[s] for s in sections_held(database, [row.student_term_id])[row.student_term_id]],
        [Waiver(w) for w in row.waives],
        term.calendar.local_date(now),
    )
    if over:
        raise Problem(ProblemKind.REQUEST_MOVED, f"Nothing is left to say yes to: {over}.")
    left = deciders.left_of_route(row, section, by.id)
    if not left and Waiver.SEATS.value in row.waives:
        room = room_figures(database, section.pool, now)
        if goes_to_registrar(room, row.route):
            left = [Decider.REGISTRAR]
            words = words or f"Beyond the room. {room.told}"
    if left:
        _pass_on(context, term, deciders, row, section, by, having, words, left, now)
        return
    grant = insert_grant(database, new_code(), section.id, row.student_id, row.waives, by.id, now, ends)
    change_request(database, row, PermissionState.GRANTED, since=now, grant=grant)
    put_event(database, row.id, PermissionEventKind.GRANTED, now, by.id, words, having.stands_for)
    tell_student(
        database,
        row,
        section,
        MessageKind.REQUEST_GRANTED,
        now,
        by=by.name,
        lifted=lifted_text(row.waives),
        words=quoted(words),
        until=moment(ends.astimezone(term.calendar.zone)),
        itself="as you have asked" if row.goes_through else None,
    )


def checked_until(term: TermCatalogue, until: datetime | None, now: datetime) -> datetime:
    """The expiry of an approval given now.

    Args:
        until: as it was chosen; None for as long as the policy allows.

    Raises:
        Problem: that is over, or too late.
    """
    latest = latest_until(term.policy.permission, now)
    if until is None:
        return latest
    if not now < until <= latest:
        zone = term.calendar.zone
        raise Problem(
            ProblemKind.PERMISSION_CODE_EXPIRED,
            f"Choose a time to come, {moment(latest.astimezone(zone))} at the latest.",
        )
    return until


def _pass_on(
    context: ActionContext,
    term: TermCatalogue,
    deciders: Deciders,
    row: RequestRow,
    section: Section,
    by: Actor,
    having: Having,
    words: str,
    left: list[Decider],
    now: datetime,
) -> None:
    database = context.database
    route = [*row.route[: row.step + 1], *(d.value for d in left)]
    change_request(
        database,
        row,
        PermissionState.OPEN,
        since=now,
        route=route,
        step=row.step + 1,
        reminded_at=None,
    )
    put_event(database, row.id, PermissionEventKind.PASSED_ON, now, by.id, words, having.stands_for)
    moved = replace(row, route=tuple(route), step=row.step + 1)
    who = deciders.told(moved, section)
    tell_student(
        database, row, section, MessageKind.REQUEST_PASSED_ON, now, by=by.name, who=sentence_case(who)
    )
    tell_deciders(
        database,
        deciders,
        moved,
        section,
        MessageKind.REQUEST_CAME,
        now,
        lifted=lifted_text(row.waives),
        words=quoted(row.words),
    )


def take_back(context: ActionContext, by: Actor, request_id: int, words: str) -> None:
    """Withdraw an approval that was not used.

    Raises:
        Problem: one does not decide about it, it was used or taken back, or the words are missing.
    """
    words = checked_words(words)
    with connected(context.database) as database, database.atomic():
        row, section, term = _locked(context, request_id)
        having = _having(database, term, deciders_of(context, term, [row]), row, section, by)
        now = context.clock.now()
        # The student is locked: nobody uses it meanwhile.
        if row.state is not PermissionState.GRANTED or row.grant is None:
            raise _moved(database, row, term)
        if not withdraw_permission_code(database, row.grant, section.id, now):
            raise Problem(ProblemKind.GRANT_USED, "It has been used already; speak to the student.")
        change_request(database, row, PermissionState.TAKEN_BACK, since=now)
        put_event(database, row.id, PermissionEventKind.TAKEN_BACK, now, by.id, words, having.stands_for)
        taken = MessageKind.GRANT_TAKEN_BACK
        tell_student(database, row, section, taken, now, by=by.name, words=quoted(words))


def term_of(context: ActionContext, request_id: int) -> TermCatalogue | None:
    """The term of a request; None if there is no such request. One statement."""
    with connected(context.database) as database:
        row = find_request(database, request_id)
    return None if row is None else context.term(row.term)


def latest_until_of(term: TermCatalogue, now: datetime) -> datetime:
    """The latest expiry of an approval given now, in the term's zone."""
    return latest_until(term.policy.permission, now).astimezone(term.calendar.zone)


def unknown_request() -> Problem:
    """There is no such request, or this person may not decide it."""
    return Problem(ProblemKind.REQUEST_UNKNOWN, "Look under Requests for those that you have.")


def _moved(database: PooledPostgresqlDatabase, row: RequestRow, term: TermCatalogue) -> Problem:
    """Tells what happened last, for somebody who acts second."""
    last = events_of(database, [row.id])[row.id][-1]
    at = moment(last.at.astimezone(term.calendar.zone))
    who = last.by or "It happened by itself"
    return Problem(
        ProblemKind.REQUEST_MOVED,
        f"{last.what.value.capitalize()}, {who}, {at}. Nothing of yours was done; look at it again.",
    )
