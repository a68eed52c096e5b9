"""Stores sign-in attempts and the browsers people have signed in with."""

from __future__ import annotations

import zlib
from dataclasses import dataclass
from datetime import datetime

from playhouse.pool import PooledPostgresqlDatabase
from pydantic import TypeAdapter

from gremba.core.states import SignInResult
from gremba.store.database import fetch_records, send_sql
from gremba.store.models import KnownBrowser, SignIn
from gremba.store.queries import fetch_value, has_rows, lock_until_end, write

_ATTEMPTING = 0x73696769
"""Of an account, whoever makes an attempt has this lock together with a number of the account's name."""


@dataclass(frozen=True, slots=True)
class Failures:
    """Failed attempts before this one.

    Attributes:
        of_both: failures of the account from this origin since it last succeeded, those under way
            included.
        last_at: the last of them.
        of_account: failures of the account from anywhere.
        of_origin: failures of this origin at any account.
    """

    of_both: int
    last_at: datetime | None
    of_account: int
    of_origin: int


def write_attempt(database: PooledPostgresqlDatabase, account: str, origin: str, at: datetime) -> int:
    """Record an attempt before it is verified; returns its id. Attempts at one account are serialized
    within the transaction, so that each counts those with a smaller id."""
    lock_until_end(database, _ATTEMPTING, zlib.crc32(account.encode()) & 0x7FFF_FFFF)
    new = SignIn.insert(account=account, origin=origin, at=at, result=SignInResult.OPEN)
    return int(fetch_value(database, new.returning(SignIn.id)))


def settle_attempt(database: PooledPostgresqlDatabase, attempt: int, result: SignInResult) -> None:
    """Record the result of an attempt."""
    write(database, SignIn.update(result=result).where(SignIn.id == attempt))


_FAILURES = """
SELECT count(*) FILTER (WHERE a.origin = %(origin)s) AS of_both,
       max(a.at) FILTER (WHERE a.origin = %(origin)s) AS last_at,
       count(*) FILTER (WHERE a.result = 'wrong' AND a.at > %(since)s) AS of_account,
       (SELECT count(*) FROM sign_ins o
        WHERE o.origin = %(origin)s AND o.result = 'wrong' AND o.at > %(lately)s) AS of_origin
FROM sign_ins a
WHERE a.account = %(account)s AND a.result IN ('open', 'wrong') AND a.id < %(attempt)s
    AND a.at > %(since)s AND (a.origin <> %(origin)s OR a.id > coalesce((
        SELECT max(r.id) FROM sign_ins r WHERE r.account = %(account)s
            AND r.origin = %(origin)s AND r.result = 'right' AND r.at > %(since)s), 0))
"""
_FAILURES_ROWS = TypeAdapter(list[Failures])


def failures_before(
    database: PooledPostgresqlDatabase,
    attempt: int,
    account: str,
    origin: str,
    since: datetime,
    lately: datetime,
) -> Failures:
    """Count the failed attempts before this one.

    Args:
        since: how far back an account's failures count; ``lately`` is the same for an origin's.
    """
    asked = send_sql(
        database,
        _FAILURES,
        {"attempt": attempt, "account": account, "origin": origin, "since": since, "lately": lately},
    )
    [found] = fetch_records(asked, _FAILURES_ROWS)
    return found


def knows_browser(database: PooledPostgresqlDatabase, digest: bytes, person_id: int) -> bool:
    """Whether the person has signed in with that browser before."""
    return has_rows(
        database,
        KnownBrowser.select(KnownBrowser.seen_at).where(
            KnownBrowser.token_digest == digest, KnownBrowser.person == person_id
        ),
    )


def remember_browser(database: PooledPostgresqlDatabase, digest: bytes, person_id: int, at: datetime) -> None:
    """Record that the person has signed in with that browser."""
    new = KnownBrowser.insert(token_digest=digest, person=person_id, seen_at=at)
    write(
        database,
        new.on_conflict(
            conflict_target=[KnownBrowser.token_digest, KnownBrowser.person],
            preserve=[KnownBrowser.seen_at],
        ),
    )
