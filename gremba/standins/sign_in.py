"""Signs people in by username and password, in place of the college's sign-in service.

The sessions it opens are those of actions.sessions. See OWASP ASVS 5.0, chapter 6 (from memory).
"""

from __future__ import annotations

import math
from dataclasses import dataclass
from datetime import UTC, datetime

from playhouse.pool import PooledPostgresqlDatabase

from gremba.actions.access.sessions import SignedIn, open_for, token_digest
from gremba.actions.problem import Problem
from gremba.actions.problem_kinds import ProblemKind
from gremba.core.access.sign_in_delays import GUESSED, SPRAYING, SPRAYING_WITHIN, WITHIN, seconds_left
from gremba.core.states import SignInResult
from gremba.store.access.sessions import (
    Person,
    find_person,
)
from gremba.store.access.sign_ins import (
    failures_before,
    knows_browser,
    settle_attempt,
    write_attempt,
)
from gremba.store.database import connected


def account_of(username: str) -> str:
    """A user name in its stored form."""
    return username.strip().casefold()[:200]


@dataclass(frozen=True, slots=True)
class SignInAttempt:
    """An attempt that was recorded and may be verified.

    Attributes:
        person: who it would be; None if nobody has that name.
        hashed: the hash of their password.
        browser: the token of a browser that this person has used before; "" otherwise.
    """

    id: int
    account: str
    person: Person | None
    hashed: str | None
    browser: str


def begin(database: PooledPostgresqlDatabase, username: str, address: str, browser: str) -> SignInAttempt:
    """Record an attempt, and check whether it may be verified now. Five statements.

    Args:
        browser: the token that a browser keeps of having been signed in with; "" for none.

    Raises:
        Problem: too many attempts failed lately, and it is to be made again later.
    """
    now = datetime.now(UTC)
    account = account_of(username)
    digest = token_digest(browser) if browser else b""
    with connected(database):
        found = find_person(database, account)
        is_known = bool(found and digest and knows_browser(database, digest, found[0].id))
        origin = f"browser {digest.hex()}" if is_known else f"address {address}"
        with database.atomic():
            attempt = write_attempt(database, account, origin, now)
            before = failures_before(database, attempt, account, origin, now - WITHIN, now - SPRAYING_WITHIN)
            is_unusual = not is_known and (before.of_account >= GUESSED or before.of_origin >= SPRAYING)
            seconds = seconds_left(before.of_both, before.last_at, is_unusual, now)
            if seconds:
                settle_attempt(database, attempt, SignInResult.PUT_OFF)
    if seconds:
        raise _later(math.ceil(seconds))
    person, hashed = found or (None, None)
    return SignInAttempt(attempt, account, person, hashed, browser if is_known else "")


def put_off(database: PooledPostgresqlDatabase, attempt: SignInAttempt) -> None:
    """Record that an attempt was not verified and does not count."""
    with connected(database):
        settle_attempt(database, attempt.id, SignInResult.PUT_OFF)


def settle(database: PooledPostgresqlDatabase, attempt: SignInAttempt, is_right: bool) -> None:
    """Record the result of an attempt that opens no session."""
    with connected(database):
        settle_attempt(database, attempt.id, SignInResult.RIGHT if is_right else SignInResult.WRONG)


def finish(
    database: PooledPostgresqlDatabase, attempt: SignInAttempt, is_right: bool, browser_name: str
) -> SignedIn:
    """Open a session if the password was right. Three statements.

    Args:
        browser_name: told in the list of one's sessions.

    Raises:
        Problem: the name or password is wrong.
    """
    person = attempt.person
    with connected(database), database.atomic():
        result = SignInResult.RIGHT if is_right and person else SignInResult.WRONG
        settle_attempt(database, attempt.id, result)
        if is_right and person is not None:
            return open_for(database, person, attempt.browser, browser_name)
    raise Problem(ProblemKind.SIGN_IN_WRONG, "Check both and try again. The password is case-sensitive.")


def _later(seconds: int) -> Problem:
    wait = f"{seconds} seconds" if seconds < 90 else f"{math.ceil(seconds / 60)} minutes"
    return Problem(
        ProblemKind.SIGN_IN_LIMITED,
        f"Wait {wait}, then try again. A browser that you have signed in with before is not held up.",
        retry_after=seconds,
    )
