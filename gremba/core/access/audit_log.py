"""The chain of the record: each entry carries the digest of the one before, so that none can be altered,
taken out or put in between without all after it telling so (chained as in linked timestamping, Haber and
Stornetta 1991, from memory). Digests are made by the database with a key that the role that serves cannot
read (HMAC-SHA-256, RFC 2104); those of entries from before there was a key, without one (SHA-256, FIPS
180-4). Where the record begins and ends is noted and sealed, so that neither end can be cut off."""

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
    """An entry, as far as its digest covers it.

    Attributes:
        before: the digest of the entry before it; None for an entry older than the chain.
        digest: its own; None likewise.
        is_keyed: the digest is made with the key.
        is_right: it is keyed, and says what it said when it was written.
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
    is_keyed: bool = False
    is_right: bool = False


@dataclass(frozen=True, slots=True)
class Head:
    """What is stored about both ends of the log.

    Attributes:
        last_id, last_digest: of the last entry.
        aged_out_digest: of the last entry that has gone by age; ``FIRST`` where none has.
        is_right: it is as the database has sealed it.
        beyond: the first entry behind the one noted as the last; None where there is none.
    """

    last_id: int
    last_digest: bytes
    aged_out_digest: bytes = FIRST
    is_right: bool = True
    beyond: int | None = None


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
    """The digest of an entry from before there was a key: of the previous digest and the entry's fields."""
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
class ChainBreak:
    """An entry at which the chain is broken."""

    id: int
    what: str


@dataclass(slots=True)
class Verified:
    """The result of verifying the chain.

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
    breaks: tuple[ChainBreak, ...] = ()


MOST_BREAKS = 20


def verify(entries: Iterable[Recorded], head: Head) -> Verified:
    """Verify the chain from the earliest entry kept.

    Args:
        entries: in the order of their ids, up to the one that the head names.
        head: read before them.
    """
    found = Verified()
    breaks: list[ChainBreak] = []
    is_keyed = False
    last_id = 0
    for entry in entries:
        last_id = entry.id
        if entry.digest is None or entry.before is None:
            if found.many:
                breaks.append(ChainBreak(entry.id, "has no digest, though it comes after the chain began"))
            else:
                found.older += 1
            continue
        breaks.extend(_look(entry, found, head, is_keyed))
        is_keyed |= entry.is_keyed
        found.many += 1
        found.first_at = found.first_at or entry.at
        found.last_at, found.last = entry.at, entry.digest
        if len(breaks) >= MOST_BREAKS:
            break
    else:
        breaks.extend(_look_at_end(found, head, last_id))
    if head.beyond is not None:
        breaks.append(ChainBreak(head.beyond, "was put in behind the last one"))
    if not head.is_right:
        breaks.append(ChainBreak(head.last_id, "is noted as the last one, and that note was altered"))
    found.breaks = tuple(breaks[:MOST_BREAKS])
    return found


def _look(entry: Recorded, found: Verified, head: Head, after_keyed: bool) -> Iterator[ChainBreak]:
    before = entry.before or FIRST
    if entry.is_keyed:
        is_right = entry.is_right
    else:
        is_right = entry.digest == digest_of(
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
    if not is_right:
        yield ChainBreak(entry.id, "says something else than when it was written")
    if after_keyed and not entry.is_keyed:
        yield ChainBreak(entry.id, "has a digest without the key, though it comes after those that have one")
    if not found.many:
        if before != head.aged_out_digest:
            yield ChainBreak(
                entry.id, "is the first that is left: those before it were taken out, not by age"
            )
    elif before != found.last:
        yield ChainBreak(entry.id, "does not follow on the one before it: something was taken out or put in")


def _look_at_end(found: Verified, head: Head, last_id: int) -> Iterator[ChainBreak]:
    last = found.last if found.many else head.aged_out_digest
    if last != head.last_digest:
        yield ChainBreak(
            last_id, f"is the last that is left: those up to entry {head.last_id} were taken out"
        )
