"""Routes of signing in and out."""

from __future__ import annotations

from datetime import UTC, datetime
from typing import Annotated
from zoneinfo import ZoneInfo

import structlog
from fastapi import APIRouter, Path, Request, Response
from starlette.concurrency import run_in_threadpool

from gremba.actions.access import sessions
from gremba.actions.problem import Problem
from gremba.actions.problem_kinds import ProblemKind
from gremba.core.plain_text import plain
from gremba.core.states import TermState
from gremba.demo.cast import COLLEGE
from gremba.standins import sign_in
from gremba.store.access.sessions import Session, end_other_sessions, end_sessions, find_person, sessions_of
from gremba.store.catalogue.terms import list_terms
from gremba.store.database import connected
from gremba.store.queries import is_answered
from gremba.web.access.browsers import browser_name
from gremba.web.access.guard import SignedIn, sees_prepared
from gremba.web.requests.limits import address_of
from gremba.web.schemas import (
    Credentials,
    FailedPage,
    Health,
    OpenSession,
    PersonResponse,
    PersonSignedOut,
    SessionResponse,
    TermName,
)
from gremba.web.services import Services, services_of

log = structlog.get_logger()

router = APIRouter()


@router.get("/healthz")
def read_health(request: Request) -> Health:
    """Answer 200 if the database answers and all background threads are running."""
    troubles = services_of(request).troubles
    if troubles:
        log.error("not all of this process goes on", **{n.replace(" ", "_"): t for n, t in troubles.items()})
        raise Problem(ProblemKind.NOT_WELL, f"Look into its log. In trouble: {', '.join(sorted(troubles))}.")
    with connected(services_of(request).context.database) as database:
        is_answered(database)
    return Health(status="well")


@router.get("/api/session")
def read_session(request: Request) -> SessionResponse:
    """Tell who is signed in, the current time, and which terms exist."""
    return session_response(services_of(request), request.state.session)


@router.post("/api/session")
async def open_session(request: Request, response: Response, credentials: Credentials) -> SessionResponse:
    """Sign in. The session token is set as an HttpOnly cookie, and the browser's previous session ends.
    Passwords are verified on a queue of their own that holds neither a database connection nor a worker
    thread."""
    services = services_of(request)
    database, address = services.context.database, address_of(request)
    browser = services.browser_cookie.read(request)
    request.state.account = sign_in.account_of(credentials.username)
    attempt = await run_in_threadpool(sign_in.begin, database, credentials.username, address, browser)
    try:
        async with services.verifier.place_in_queue(address, is_known=bool(attempt.browser)):
            is_right = await services.verifier.is_right(attempt.hashed, credentials.password)
    except Problem:
        await run_in_threadpool(sign_in.put_off, database, attempt)
        raise
    opened = await run_in_threadpool(sign_in.finish, database, attempt, is_right, browser_name(request))
    await run_in_threadpool(_end_presented, services, request)
    request.state.session = opened.session
    services.session_cookie.give(response, opened.token, sessions.SESSION_LASTS)
    services.browser_cookie.give(response, opened.browser, sessions.BROWSER_KNOWN)
    return await run_in_threadpool(session_response, services, opened.session)


@router.delete("/api/session", status_code=204)
def close_session(request: Request, response: Response) -> None:
    """Sign out. The browser drops all data of this application, except that it is known to the account."""
    services = services_of(request)
    _end_presented(services, request)
    services.session_cookie.take_back(response)
    response.headers["Clear-Site-Data"] = '"cache", "storage"'


def _end_presented(services: Services, request: Request) -> None:
    """End the session that the request carries, if any."""
    token = services.session_cookie.read(request)
    if token:
        sessions.sign_out(services.context.database, token)
        services.sessions.ended(sessions.token_digest(token).hex())


@router.get("/api/sessions")
def list_sessions(request: Request, session: SignedIn) -> list[OpenSession]:
    """List one's open sessions, last used first."""
    with connected(services_of(request).context.database) as database:
        lines = sessions_of(database, session.person.id, datetime.now(UTC))
    return [
        OpenSession(
            opened_at=line.opened_at,
            seen_at=line.seen_at,
            browser=line.browser,
            is_this=line.id == session.id,
        )
        for line in lines
    ]


@router.post("/api/failed-pages", status_code=204)
def report_failed_page(request: Request, failed: FailedPage) -> None:
    """Log that a page failed to render."""
    services = services_of(request)
    session = request.state.session
    who = session.person.id if session is not None else address_of(request)
    if services.reports_a_minute.take(who):
        raise Problem(ProblemKind.REPORTS_LIMITED, "Nothing is to be done.")
    request.state.detail = plain(f"{failed.where} at {failed.address}: {failed.problem}")


@router.delete("/api/sessions")
def close_other_sessions(request: Request, session: SignedIn) -> list[OpenSession]:
    """Sign out everywhere else."""
    with connected(services_of(request).context.database) as database:
        end_other_sessions(database, session.person.id, session.id, datetime.now(UTC))
    return list_sessions(request, session)


@router.post("/api/office/people/{username}/sign-out")
def sign_person_out(
    request: Request, username: Annotated[str, Path(min_length=1, max_length=60)]
) -> PersonSignedOut:
    """End all sessions of one person, for example after a lost device."""
    database = services_of(request).context.database
    with connected(database):
        found = find_person(database, username.strip())
        if found is None:
            raise Problem(ProblemKind.PERSON_UNKNOWN, "Write it as it stands in the list of people.")
        many = end_sessions(database, found[0].id, datetime.now(UTC))
    request.state.detail = f"signed {found[0].username} out of {many} sessions"
    return PersonSignedOut(full_name=found[0].full_name, sessions=many)


def session_response(services: Services, session: Session | None) -> SessionResponse:
    """Who is signed in, the current time, and the terms. One statement."""
    with connected(services.context.database) as database:
        terms = list_terms(database, with_prepared=sees_prepared(session))
    zone = terms[-1].zone if terms else "UTC"
    now = services.context.clock.now().astimezone(ZoneInfo(zone))
    announced = [t for t in terms if t.state != TermState.PREPARED]
    coming = [t for t in announced if t.first_day > now.date()] or announced[-1:] or terms[-1:]
    person = session.person if session else None
    return SessionResponse(
        person=None
        if person is None
        else PersonResponse.model_validate(
            {"username": person.username, "full_name": person.full_name, "role": person.role}
        ),
        csrf_token=session.csrf_token if session else "",
        college=services.settings.college or (COLLEGE if services.settings.demo else ""),
        demo=services.settings.demo,
        now=now,
        zone=zone,
        terms=[TermName.model_validate(term, from_attributes=True) for term in terms],
        # The last term that has been announced is the one that students register for.
        usual_term=coming[-1].code if coming else "",
    )
