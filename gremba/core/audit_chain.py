"""The chain of the record: each entry carries the digest of the one before, so that none can be altered,
taken out or put in between without all after it telling so (SHA-256, FIPS 180-4; chained as in linked
timestamping, Haber and Stornetta 1991, from memory)."""

from __future__ import annotations

import hashlib
import json
from collections.abc import Iterable, Iterator
from dataclasses import dataclass
from datetime import UTC, datetime

FIRST = bytes(32)
"""What the first entry of all has before it."""


@dataclass(frozen=True, slots=True)
class Recorded:
    """An entry, as far as its digest speaks of it.

    Attributes:
        before: the digest of the entry before it; None for an entry older than the chain.
        digest: its own; None likewise.
    """

    id: int
    at: datetime
    kind: str
    person_id: int | None
    account: str
    student_id: int | None
    address: str
    request_id: str
    detail: str
    before: bytes | None
    digest: bytes | None


def digest_of(
    before: bytes,
    at: datetime,
    kind: str,
    person_id: int | None,
    account: str,
    student_id: int | None,
    address: str,
    request_id: str,
    detail: str,
) -> bytes:
    """The digest of an entry: of the one before it and of all that it says."""
    said = [
        at.astimezone(UTC).isoformat(timespec="microseconds"),
        kind,
        person_id,
        account,
        student_id,
        address,
        request_id,
        detail,
    ]
    return hashlib.sha256(before + json.dumps(said, ensure_ascii=False).encode()).digest()


@dataclass(frozen=True, slots=True)
class Break:
    """An entry at which the chain does not hold."""

    id: int
    what: str


@dataclass(slots=True)
class Verified:
    """What going through the chain came to.

    Attributes:
        many: entries of the chain that were looked at.
        older: entries from before there was a chain.
        last: the digest of the last one; whoever has noted it elsewhere can tell later that nothing up to it
            has been altered.
        breaks: the first of them.
    """

    many: int = 0
    older: int = 0
    first_at: datetime | None = None
    last_at: datetime | None = None
    last: bytes = FIRST
    breaks: tuple[Break, ...] = ()


MOST_BREAKS = 20


def verify(entries: Iterable[Recorded]) -> Verified:
    """Go through the chain, from the earliest entry that is kept.

    Args:
        entries: in the order of their ids.
    """
    found = Verified()
    breaks: list[Break] = []
    for entry in entries:
        if entry.digest is None or entry.before is None:
            if found.many:
                breaks.append(Break(entry.id, "has no digest, though it comes after the chain began"))
            else:
                found.older += 1
            continue
        breaks.extend(_look(entry, found))
        found.many += 1
        found.first_at = found.first_at or entry.at
        found.last_at, found.last = entry.at, entry.digest
        if len(breaks) >= MOST_BREAKS:
            break
    found.breaks = tuple(breaks[:MOST_BREAKS])
    return found


def _look(entry: Recorded, found: Verified) -> Iterator[Break]:
    before = entry.before or FIRST
    own = digest_of(
        before,
        entry.at,
        entry.kind,
        entry.person_id,
        entry.account,
        entry.student_id,
        entry.address,
        entry.request_id,
        entry.detail,
    )
    if own != entry.digest:
        yield Break(entry.id, "says something else than when it was written")
    if found.many and before != found.last:
        yield Break(entry.id, "does not follow on the one before it: something was taken out or put in")
