"""Access control: one table of routes and roles, and the guard that every API route passes.

A route that does not stand in the table is for nobody.
"""

from __future__ import annotations

import secrets
import threading
import time
from collections.abc import Sequence
from datetime import UTC, datetime
from typing import Annotated

import structlog
from fastapi import Depends, Request
from playhouse.pool import PooledPostgresqlDatabase

from gremba.actions.access.sessions import token_digest
from gremba.actions.problem import Problem, no_such_term, records_away
from gremba.actions.problem_kinds import ProblemKind
from gremba.actions.registration.batch_queue import BatchQueue
from gremba.core.states import TermState
from gremba.store.access.sessions import Session, find_sessions
from gremba.store.database import Unavailable, connected
from gremba.store.long_lived_thread import LongLivedThread

log = structlog.get_logger()

ROLES = frozenset({"student", "advisor", "instructor", "registrar", "cashier"})
ANYONE = ROLES | {"nobody"}
STUDENTS = frozenset({"student"})
STUDENTS_AND_ADVISORS = frozenset({"student", "advisor"})
"""What the two agree between them."""
STUDENTS_AND_THEIR_OFFICES = STUDENTS_AND_ADVISORS | {"registrar"}
"""Students for themselves, advisors for their own students, the registrar for anybody."""
"""Advisors name one of their own students; see :mod:`gremba.web.access.subject`."""
ADVISORS = frozenset({"advisor"})
INSTRUCTORS = frozenset({"instructor"})
REGISTRARS = frozenset({"registrar"})
CASHIERS = frozenset({"cashier"})
DECIDERS = ADVISORS | INSTRUCTORS | REGISTRARS
"""Who can have a request to answer."""

ACCESS: dict[str, frozenset[str]] = {
    "read_health": ANYONE,
    "read_session": ANYONE,
    "open_session": ANYONE,
    "close_session": ANYONE,
    "look_at_password_link": ANYONE,
    "set_password_by_link": ANYONE,
    "change_password": ROLES,
    "list_sessions": ROLES,
    "close_other_sessions": ROLES,
    "report_failed_page": ANYONE,
    "list_demo_people": ANYONE,
    "list_demo_moments": ROLES,
    "move_clock": ROLES,
    "list_terms": ANYONE,
    "read_term": ANYONE,
    "search_sections": ANYONE,
    "read_section": ANYONE,
    "follow_term": ANYONE,
    "read_outlook": STUDENTS_AND_THEIR_OFFICES,
    "list_stars": STUDENTS_AND_THEIR_OFFICES,
    "star_section": STUDENTS_AND_THEIR_OFFICES,
    "unstar_section": STUDENTS_AND_THEIR_OFFICES,
    "find_timetables": STUDENTS_AND_THEIR_OFFICES,
    "take_timetable": STUDENTS_AND_THEIR_OFFICES,
    "read_academic_plan": STUDENTS_AND_THEIR_OFFICES,
    "write_academic_plan": STUDENTS_AND_ADVISORS,
    "agree_to_academic_plan": STUDENTS_AND_ADVISORS,
    "read_academic_plan_file": STUDENTS_AND_ADVISORS,
    "download_academic_plan": STUDENTS_AND_THEIR_OFFICES,
    "list_drafts": STUDENTS_AND_THEIR_OFFICES,
    "keep_draft": STUDENTS_AND_THEIR_OFFICES,
    "rename_draft": STUDENTS_AND_THEIR_OFFICES,
    "let_draft_go": STUDENTS_AND_THEIR_OFFICES,
    "link_draft": STUDENTS,
    "withdraw_draft_link": STUDENTS,
    "read_shared_draft": ANYONE,
    "read_timetable": ANYONE,
    "download_timetable": ANYONE,
    "read_cart": STUDENTS_AND_THEIR_OFFICES,
    "add_to_cart": STUDENTS_AND_THEIR_OFFICES,
    "put_in_cart": STUDENTS_AND_THEIR_OFFICES,
    "remove_from_cart": STUDENTS_AND_THEIR_OFFICES,
    "choose_for_change": STUDENTS_AND_THEIR_OFFICES,
    "take_section_instead": STUDENTS_AND_THEIR_OFFICES,
    "order_cart": STUDENTS_AND_THEIR_OFFICES,
    "choose_cart_mode": STUDENTS_AND_THEIR_OFFICES,
    "read_plans": STUDENTS_AND_THEIR_OFFICES,
    "put_plan": STUDENTS_AND_THEIR_OFFICES,
    "order_plans": STUDENTS_AND_THEIR_OFFICES,
    "choose_plan_fallback": STUDENTS_AND_THEIR_OFFICES,
    "send_changes": STUDENTS_AND_THEIR_OFFICES,
    "read_week": STUDENTS_AND_THEIR_OFFICES,
    "download_calendar": STUDENTS_AND_THEIR_OFFICES,
    "download_table": STUDENTS_AND_THEIR_OFFICES,
    "mail_week": STUDENTS,
    "list_week_links": STUDENTS,
    "make_week_link": STUDENTS,
    "withdraw_week_link": STUDENTS,
    "follow_calendar": ANYONE,
    "read_shared_week": ANYONE,
    "list_entries": STUDENTS_AND_THEIR_OFFICES,
    "look_at_offer": STUDENTS_AND_THEIR_OFFICES,
    "download_deadline": STUDENTS_AND_THEIR_OFFICES,
    "accept_offer": STUDENTS_AND_THEIR_OFFICES,
    "decline_offer": STUDENTS_AND_THEIR_OFFICES,
    "leave_waitlist": STUDENTS_AND_THEIR_OFFICES,
    "list_messages": STUDENTS_AND_THEIR_OFFICES,
    "mark_messages_read": STUDENTS,
    "read_news": STUDENTS_AND_THEIR_OFFICES,
    "move_entry": REGISTRARS,
    "read_demand": REGISTRARS,
    "list_refused_mail": REGISTRARS,
    "list_confirmations": STUDENTS_AND_THEIR_OFFICES,
    "read_confirmation": STUDENTS_AND_THEIR_OFFICES,
    "read_clearance": STUDENTS_AND_THEIR_OFFICES,
    "accept_the_agreement": STUDENTS,
    "confirm_contact_details": STUDENTS,
    "answer_the_survey": STUDENTS,
    "finish_the_orientation": STUDENTS,
    "read_account": STUDENTS,
    "download_statement": STUDENTS,
    "pay_to_account": STUDENTS,
    "join_installment_plan": STUDENTS,
    "ask_seats_back": STUDENTS,
    "pay_hold": STUDENTS,
    "read_payment": STUDENTS,
    "ask_about_payment": STUDENTS,
    "take_payment_answer": ANYONE,
    "list_advisees": ADVISORS,
    "read_advising_day": ADVISORS,
    "release_students": ADVISORS,
    "release_student": ADVISORS,
    "limit_student": ADVISORS,
    "list_taught_sections": INSTRUCTORS,
    "read_taught_section": INSTRUCTORS,
    "insert_permission_codes": INSTRUCTORS,
    "take_back_code": INSTRUCTORS,
    "look_at_asking": STUDENTS_AND_THEIR_OFFICES,
    "list_requests": STUDENTS_AND_THEIR_OFFICES,
    "make_request": STUDENTS,
    "attach_file": STUDENTS,
    "answer_question": STUDENTS,
    "withdraw_request": STUDENTS,
    "download_request_file": STUDENTS | DECIDERS,
    "list_requests_to_answer": DECIDERS,
    "answer_request": DECIDERS,
    "take_back_grant": DECIDERS,
    "let_student_in": INSTRUCTORS,
    "name_delegate": DECIDERS,
    "call_delegate_off": DECIDERS,
    "read_prepared_term": REGISTRARS,
    "set_term_state": REGISTRARS,
    "change_term_setting": REGISTRARS,
    "carry_forward": REGISTRARS,
    "read_term_windows": REGISTRARS,
    "preview_windows": REGISTRARS,
    "publish_windows": REGISTRARS,
    "read_windows_of_student": REGISTRARS,
    "set_window_of_student": REGISTRARS,
    "send_password_links": REGISTRARS,
    "make_password_link": REGISTRARS,
    "sign_person_out": REGISTRARS,
    "see_student": REGISTRARS,
    "allow_limit": REGISTRARS,
    "place_office_hold": REGISTRARS,
    "lift_office_hold": REGISTRARS,
    "lift_rules": REGISTRARS,
    "list_office_sections": REGISTRARS,
    "change_office_sections": REGISTRARS,
    "bring_in_folder": REGISTRARS,
    "download_folder": REGISTRARS,
    "download_template": REGISTRARS,
    "download_schema": REGISTRARS,
    "download_registrations": REGISTRARS,
    "download_rosters": REGISTRARS,
    "read_record": REGISTRARS,
    "download_record": REGISTRARS,
    "verify_record": REGISTRARS,
    "find_students_to_bill": CASHIERS | REGISTRARS,
    "read_fee_holds": CASHIERS,
    "place_fee_hold": CASHIERS,
    "lift_fee_hold": CASHIERS,
    "list_accounts": CASHIERS,
    "read_desk": CASHIERS,
    "post_entry": CASHIERS,
    "undo_entry": CASHIERS,
    "note_anticipated_payment": CASHIERS,
    "withdraw_anticipated_payment": CASHIERS,
    "keep_seats": CASHIERS,
    "keep_seats_no_more": CASHIERS,
    "list_nonpayment_drops": CASHIERS,
    "preview_nonpayment_drop": CASHIERS,
    "drop_unpaid_students": CASHIERS,
    "read_nonpayment_results": CASHIERS,
    "download_day": CASHIERS,
    "take_day_file": CASHIERS,
}
"""Routes by name, and the roles they are for."""

WITHOUT_TOKEN = frozenset(
    {"open_session", "look_at_password_link", "set_password_by_link", "take_payment_answer"}
)
"""Writes that need no CSRF token: signing in, since there is no session yet, and setting a password by a
link, whose secret is proof enough; both must come from our page. And the payment service's answers, which
are signed."""

CSRF_HEADER = "X-CSRF-Token"
_SAFE = frozenset({"GET", "HEAD", "OPTIONS"})


class SessionCache:
    """Caches sessions. An ended one is dropped when the database announces it.

    Those not at hand are looked up many at a time, through a queue of their own: at the minute
    a window opens hundreds come at once that this process has not seen before.
    """

    def __init__(
        self, database: PooledPostgresqlDatabase, keep: float = 60.0, batching_window: float = 0.0
    ) -> None:
        self._database = database
        self._keep = keep
        self._known: dict[bytes, tuple[float, Session]] = {}
        # Endings told while sessions are being read, so that none is known after its end.
        self._reading = 0
        self._ended_meanwhile: set[bytes] = set()
        self._forget_all = False
        self._lock = threading.Lock()
        self._lane = BatchQueue[bytes, Session | Problem | None](
            self._look_up, key=lambda digest: digest, batching_window=batching_window, name="sessions"
        )

    @property
    def threads(self) -> Sequence[LongLivedThread]:
        """The threads that look up sessions."""
        return self._lane.threads

    async def find(self, digest: bytes) -> Session | None:
        """The session with this token digest; None if there is none or it has ended.

        Raises:
            Problem: the database cannot be reached.
        """
        entry = self._known.get(digest)
        if entry is not None and entry[0] >= time.monotonic() and not _expired(entry[1]):
            return entry[1]
        found = await self._lane.put(digest)
        if isinstance(found, Problem):
            raise found
        return found

    def _look_up(self, digests: Sequence[bytes]) -> list[Session | Problem | None]:
        """Look up a batch of digests in one statement."""
        with self._lock:
            self._reading += 1
        try:
            return self._read_and_know(digests)
        finally:
            with self._lock:
                self._reading -= 1
                if not self._reading:
                    self._ended_meanwhile.clear()
                    self._forget_all = False

    def _read_and_know(self, digests: Sequence[bytes]) -> list[Session | Problem | None]:
        try:
            try:
                found = self._read(digests)
            except Unavailable:
                # The connection that this thread keeps may have been lost long ago.
                found = self._read(digests)
        except Unavailable:
            return [records_away() for _ in digests]
        except Exception:
            log.exception("sessions could not be looked up")
            return [records_away() for _ in digests]
        until = time.monotonic() + self._keep
        with self._lock:
            if len(self._known) > 200_000:
                self._known.clear()
            found = {d: s for d, s in found.items() if d not in self._ended_meanwhile}
            if not self._forget_all:
                self._known.update({digest: (until, session) for digest, session in found.items()})
        return [found.get(digest) for digest in digests]

    def _read(self, digests: Sequence[bytes]) -> dict[bytes, Session]:
        with connected(self._database, keep=True) as database:
            return find_sessions(database, digests, datetime.now(UTC))

    def ended(self, digest_hex: str) -> None:
        """Drop a session that the database announced as ended."""
        digest = bytes.fromhex(digest_hex)
        with self._lock:
            self._known.pop(digest, None)
            if self._reading:
                self._ended_meanwhile.add(digest)

    def forget(self) -> None:
        """Clear the cache: announcements may have been missed."""
        with self._lock:
            self._known.clear()
            self._forget_all = True

    def stop(self) -> None:
        """Stop the threads."""
        self._lane.stop()


def _expired(session: Session) -> bool:
    return session.expires_at <= datetime.now(UTC)


async def guard(request: Request) -> None:
    """Allow a request only if the signed-in person's role may use its route.

    Raises:
        Problem: nobody is signed in, it is not for their role, or the CSRF token is missing.
    """
    session = await _session_of(request)
    request.state.session = session
    name = request.scope.get("route_name") or request.scope["route"].name
    role = session.person.role if session else "nobody"
    allowed = ACCESS.get(name, frozenset())
    if role not in allowed:
        if session is None and allowed:
            raise _sign_in_first(had_one=bool(request.app.state.services.session_cookie.read(request)))
        raise _not_for_you()
    _hide_prepared(request, session)
    if request.method not in _SAFE:
        _check_origin(request)
        if name not in WITHOUT_TOKEN and session is not None:
            given = request.headers.get(CSRF_HEADER, "")
            if not secrets.compare_digest(given.encode(), session.csrf_token.encode()):
                raise _no_token()


def sees_prepared(session: Session | None) -> bool:
    """Whether this person sees terms before they open."""
    return session is not None and session.person.role in REGISTRARS


def _hide_prepared(request: Request, session: Session | None) -> None:
    """Answer 404 for a term in setup, unless the person is a registrar."""
    code = request.path_params.get("term")
    if code is None or sees_prepared(session):
        return
    term = request.app.state.services.context.catalogue.known(code)
    if term is not None and term.state is TermState.PREPARED:
        raise no_such_term(code)


async def _session_of(request: Request) -> Session | None:
    services = request.app.state.services
    token = services.session_cookie.read(request)
    if not token:
        return None
    cache: SessionCache = services.sessions
    return await cache.find(token_digest(token))


def _check_origin(request: Request) -> None:
    """Reject a request that a browser sends from another origin; programs send no Origin header."""
    if request.headers.get("Sec-Fetch-Site", "same-origin") not in ("same-origin", "none"):
        raise _no_token()
    origin = request.headers.get("Origin")
    if origin is not None and origin.split("://", 1)[-1] != request.headers.get("Host"):
        raise _no_token()


async def signed_in(request: Request) -> Session:
    """The session of a request to a route that requires one.

    Raises:
        Problem: nobody is signed in.
    """
    session: Session | None = request.state.session
    if session is None:
        raise _sign_in_first(had_one=False)
    return session


SignedIn = Annotated[Session, Depends(signed_in)]


def _sign_in_first(had_one: bool) -> Problem:
    detail = "Sign in to see this."
    if had_one:
        detail = "Your session has ended. Sign in again; your cart is kept."
    return Problem(ProblemKind.SIGN_IN_FIRST, detail)


def _not_for_you() -> Problem:
    return Problem(ProblemKind.NOT_FOR_YOU, "Sign in as somebody it is meant for.")


def _no_token() -> Problem:
    return Problem(
        ProblemKind.CSRF,
        f"Reload the page and try again. Programs send the session's token as {CSRF_HEADER}.",
    )
