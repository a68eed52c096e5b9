"""Opens, checks and ends sessions, whichever way a person signed in.

Whatever verifies people, the stand-in or a college's own service, opens a session here when it knows them.
See OWASP ASVS 5.0, chapter 7 (from memory).
"""

from __future__ import annotations

import hashlib
import secrets
from dataclasses import dataclass
from datetime import UTC, datetime, timedelta

from playhouse.pool import PooledPostgresqlDatabase

from gremba.store.access.sessions import Person, Session, end_session, open_session
from gremba.store.access.sign_ins import remember_browser
from gremba.store.database import connected

SESSION_LASTS = timedelta(hours=12)
BROWSER_KNOWN = timedelta(days=180)


def token_digest(token: str) -> bytes:
    """The digest that is stored instead of a token."""
    return hashlib.sha256(token.encode()).digest()


@dataclass(frozen=True, slots=True)
class SignedIn:
    """An opened session, with the tokens for the browser."""

    session: Session
    token: str
    browser: str


def open_for(database: PooledPostgresqlDatabase, person: Person, browser: str, browser_name: str) -> SignedIn:
    """Open a session for an authenticated person, within a transaction. Two statements.

    Args:
        browser: the token of a browser that this person has used before; "" for another, which gets one.
        browser_name: told in the list of one's sessions.
    """
    now = datetime.now(UTC)
    token, csrf_token = secrets.token_urlsafe(32), secrets.token_urlsafe(24)
    browser = browser or secrets.token_urlsafe(32)
    session_id = open_session(
        database, token_digest(token), person.id, csrf_token, now, SESSION_LASTS, browser_name
    )
    remember_browser(database, token_digest(browser), person.id, now)
    return SignedIn(Session(session_id, person, csrf_token, now + SESSION_LASTS, now, {}), token, browser)


def sign_out(database: PooledPostgresqlDatabase, token: str) -> None:
    """End the session of a token."""
    with connected(database):
        end_session(database, token_digest(token), datetime.now(UTC))
