"""Signing in and out, and who is signed in."""

from __future__ import annotations

from zoneinfo import ZoneInfo

from fastapi import APIRouter, Request, Response

from gremba.standins.sign_in import SESSION_LASTS, sign_in, sign_out, token_digest
from gremba.store.database import connected, rows
from gremba.store.sessions import Session
from gremba.web.access import SESSION_COOKIE
from gremba.web.schemas import Credentials, Health, PersonView, SessionView, TermName
from gremba.web.services import Services, services_of

router = APIRouter()


@router.get("/healthz")
def read_health(request: Request) -> Health:
    """Answers when the database does."""
    with connected(services_of(request).desk.database) as database:
        rows(database, "SELECT 1")
    return Health(status="well")


@router.get("/api/session")
def read_session(request: Request) -> SessionView:
    """Who is signed in, the time in force, and the terms there are."""
    return _view(services_of(request), request.state.session)


@router.post("/api/session")
def open_session(request: Request, response: Response, credentials: Credentials) -> SessionView:
    """Sign in; the session's token is set as a cookie that scripts cannot read."""
    services = services_of(request)
    address = request.client.host if request.client else "unknown"
    token, session = sign_in(
        services.desk.database, credentials.username, credentials.password, address
    )
    response.set_cookie(
        SESSION_COOKIE,
        token,
        max_age=int(SESSION_LASTS.total_seconds()),
        httponly=True,
        samesite="strict",
        secure=services.settings.secure_cookies,
        path="/",
    )
    return _view(services, session)


@router.delete("/api/session", status_code=204)
def close_session(request: Request, response: Response) -> None:
    """Sign out."""
    services = services_of(request)
    token = request.cookies.get(SESSION_COOKIE)
    if token:
        sign_out(services.desk.database, token)
        services.sessions.ended(token_digest(token).hex())
    response.delete_cookie(SESSION_COOKIE, path="/", httponly=True, samesite="strict")


def _view(services: Services, session: Session | None) -> SessionView:
    with connected(services.desk.database) as database:
        terms = rows(
            database, "SELECT code, name, first_day, last_day, zone FROM terms ORDER BY first_day"
        )
    zone = terms[-1][4] if terms else "UTC"
    now = services.desk.clock.now().astimezone(ZoneInfo(zone))
    coming = [t for t in terms if t[2] > now.date()] or terms[-1:]
    person = session.person if session else None
    return SessionView(
        person=None if person is None else PersonView.model_validate(
            {"username": person.username, "full_name": person.full_name, "role": person.role}
        ),
        csrf_token=session.csrf_token if session else "",
        college=services.settings.college,
        demo=services.settings.demo,
        now=now,
        zone=zone,
        terms=[TermName(code=t[0], name=t[1], first_day=t[2], last_day=t[3]) for t in terms],
        # The last term that has been announced is the one that students register for.
        usual_term=coming[-1][0] if coming else "",
    )
