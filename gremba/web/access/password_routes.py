"""Routes that set passwords."""

from __future__ import annotations

from typing import Annotated

from fastapi import APIRouter, Path, Request, Response
from starlette.concurrency import run_in_threadpool

from gremba.actions.access.sessions import BROWSER_KNOWN, SESSION_LASTS
from gremba.actions.messages.mail_server import send_now
from gremba.actions.problem import Problem
from gremba.actions.problem_kinds import ProblemKind
from gremba.standins import password_links, sign_in
from gremba.store.access.passwords import Invitee, email_of
from gremba.store.access.sessions import find_person
from gremba.store.database import connected
from gremba.web.access.browsers import browser_name
from gremba.web.access.guard import SignedIn
from gremba.web.access.session_routes import session_response
from gremba.web.requests.limits import address_of
from gremba.web.schemas import (
    LinksSent,
    LinksWanted,
    PasswordByLink,
    PasswordChange,
    PasswordLinkMade,
    PasswordLinkResponse,
    PasswordOwner,
    SessionResponse,
)
from gremba.web.services import Services, services_of

router = APIRouter()


@router.post("/api/password-links/look")
def look_at_password_link(request: Request, link: PasswordLinkResponse) -> PasswordOwner:
    """Tell whose password a link sets. The token is in the body, because URLs end up in logs."""
    services = services_of(request)
    _count(services, request)
    person = password_links.look_at_link(services.context.database, link.token)
    return PasswordOwner(username=person.username, full_name=person.full_name)


@router.post("/api/password-links", status_code=204)
def set_password_by_link(request: Request, link: PasswordByLink) -> None:
    """Set a password with a one-time link."""
    services = services_of(request)
    _count(services, request)
    _not_in_the_demo(services)
    password_links.set_by_link(services.context.database, link.token, link.password)


@router.put("/api/password")
async def change_password(
    request: Request, response: Response, wanted: PasswordChange, session: SignedIn
) -> SessionResponse:
    """Change one's own password. All sessions end and a new one opens here. A wrong current password counts
    as a failed sign-in."""
    services = services_of(request)
    _not_in_the_demo(services)
    database, address = services.context.database, address_of(request)
    browser = services.browser_cookie.read(request)
    attempt = await run_in_threadpool(sign_in.begin, database, session.person.username, address, browser)
    try:
        async with services.verifier.place_in_queue(address, is_known=bool(attempt.browser)):
            is_right = await services.verifier.is_right(attempt.hashed, wanted.old)
    except Problem:
        await run_in_threadpool(sign_in.put_off, database, attempt)
        raise
    opened = await run_in_threadpool(
        password_links.change_password,
        database,
        attempt,
        session.person,
        is_right,
        wanted.new,
        browser_name(request),
    )
    request.state.session = opened.session
    services.session_cookie.give(response, opened.token, SESSION_LASTS)
    services.browser_cookie.give(response, opened.browser, BROWSER_KNOWN)
    return await run_in_threadpool(session_response, services, opened.session)


def _count(services: Services, request: Request) -> None:
    if services.links_a_minute.take(address_of(request)):
        raise Problem(ProblemKind.LINKS_LIMITED, "Wait a minute, then open the link again.")


@router.post("/api/office/people/{username}/password-link")
def make_password_link(
    request: Request, session: SignedIn, username: Annotated[str, Path(min_length=1, max_length=60)]
) -> PasswordLinkMade:
    """Create a one-time link that sets somebody's password; earlier links stop working. The link is emailed;
    only if email is not set up does the registrar see it."""
    services = services_of(request)
    _not_in_the_demo(services)
    database = services.context.database
    with connected(database):
        found = find_person(database, username.strip())
        address = "" if found is None else email_of(database, found[0].id)
    if found is None:
        raise Problem(ProblemKind.PERSON_UNKNOWN, "Write it as it stands in the list of people.")
    person = found[0]
    link = password_links.invite(database, person.username, None)
    request.state.detail = f"password link for {person.username}"
    path = f"/welcome#{link.token}"
    body = _MAIL.format(name=person.full_name, link=f"{str(request.base_url).rstrip('/')}{path}")
    is_mailed = (
        services.postman is not None
        and "@" in address
        and send_now(services.postman.server, address, "Set your password", body)
    )
    return PasswordLinkMade(
        full_name=person.full_name,
        mailed_to=address if is_mailed else "",
        path="" if is_mailed else path,
        ends_at=link.ends_at,
    )


@router.post("/api/office/people/password-links")
def send_password_links(request: Request, wanted: LinksWanted) -> LinksSent:
    """Email a link to everybody who has neither a password nor a link, in batches; the answer says where to
    continue."""
    services = services_of(request)
    _not_in_the_demo(services)
    postman = services.postman
    if postman is None:
        raise Problem(ProblemKind.NO_MAIL, "Make links one by one, and hand them over.")
    base = str(request.base_url).rstrip("/")

    def send(one: Invitee, token: str) -> bool:
        body = _MAIL.format(name=one.full_name, link=f"{base}/welcome#{token}")
        return "@" in one.email and send_now(postman.server, one.email, "Set your password", body)

    sent = password_links.invite_some(services.context.database, wanted.after, _LINKS_AT_ONCE, send)
    request.state.detail = f"{sent.many} password links sent"
    return LinksSent(sent=sent.many, without_mail=list(sent.without_mail), after=sent.after)


_LINKS_AT_ONCE = 50

_MAIL = """{name},

by this link you set your password, once and within seven days:

{link}

Nobody else needs it; if you did not ask for it, ask the registrar's office.
"""


def _not_in_the_demo(services: Services) -> None:
    if services.campus_clock is not None:
        raise Problem(
            ProblemKind.DEMO_PASSWORDS, "Everybody's password in the demo is shown on its first page."
        )
