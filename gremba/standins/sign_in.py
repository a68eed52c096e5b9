"""Sign-in by username and password, in place of the college's own sign-in service.

The sessions it opens are real: see OWASP ASVS 5.0, chapters 6 and 7 (from memory).
"""

from __future__ import annotations

import hashlib
import secrets
from datetime import UTC, datetime, timedelta

from argon2 import PasswordHasher
from argon2.exceptions import Argon2Error, InvalidHashError
from playhouse.pool import PooledPostgresqlDatabase

from gremba.actions.problem import Problem
from gremba.store.database import connected
from gremba.store.sessions import (
    Session,
    count_attempts,
    end_session,
    find_person,
    note_attempt,
    open_session,
)

SESSION_LASTS = timedelta(hours=12)
ATTEMPTS_WITHIN = timedelta(minutes=15)
MOST_PER_ACCOUNT = 10
MOST_PER_ADDRESS = 60

_hasher = PasswordHasher(time_cost=2, memory_cost=19 * 1024, parallelism=1)
_hash_of_nobody = _hasher.hash(secrets.token_hex(16))


def hash_password(password: str) -> str:
    """An Argon2id hash with its salt."""
    return _hasher.hash(password)


def token_digest(token: str) -> bytes:
    """What is kept of a session's token."""
    return hashlib.sha256(token.encode()).digest()


def sign_in(
    database: PooledPostgresqlDatabase, username: str, password: str, address: str
) -> tuple[str, Session]:
    """Check a password and open a session; gives its token.

    Raises:
        Problem: the name or password is wrong, or there were too many attempts.
    """
    now = datetime.now(UTC)
    account = username.strip().casefold()
    limits = {f"account {account}"[:200]: MOST_PER_ACCOUNT, f"address {address}": MOST_PER_ADDRESS}
    with connected(database):
        for subject, most in limits.items():
            if count_attempts(database, subject, now - ATTEMPTS_WITHIN) >= most:
                raise _too_many()
        found = find_person(database, account)
        # A password is checked even where there is no such person, so that the time taken
        # does not tell whether there is one.
        right = _verify(found[1] if found else _hash_of_nobody, password)
        if found is None or not right:
            note_attempt(database, list(limits), now)
            raise _wrong()
        token, csrf_token = secrets.token_urlsafe(32), secrets.token_urlsafe(24)
        person = found[0]
        open_session(database, token_digest(token), person.id, csrf_token, now, SESSION_LASTS)
        return token, Session(person, csrf_token, now + SESSION_LASTS, {})


def sign_out(database: PooledPostgresqlDatabase, token: str) -> None:
    """End the session of a token."""
    with connected(database):
        end_session(database, token_digest(token), datetime.now(UTC))


def _verify(hashed: str, password: str) -> bool:
    try:
        return _hasher.verify(hashed, password)
    except (Argon2Error, InvalidHashError):
        return False


def _wrong() -> Problem:
    return Problem(
        "sign-in-wrong",
        "The name or the password is not right",
        "Check both and try again. The password is case-sensitive.",
        401,
    )


def _too_many() -> Problem:
    return Problem(
        "sign-in-limited",
        "Too many attempts",
        "Wait fifteen minutes, then try again.",
        429,
        retry_after=900,
    )
