"""Whom a folder reaches that changes sections of a running term, and telling them."""

from __future__ import annotations

from collections.abc import Iterable, Iterator, Mapping
from dataclasses import dataclass
from datetime import datetime

from playhouse.pool import PooledPostgresqlDatabase

from gremba.core.catalogue import Section, TermCatalogue
from gremba.core.exchange.reach import SectionChange, changed_sections, new_clashes
from gremba.core.messages import Message, MessageKind, message
from gremba.core.wording import listed, times_text
from gremba.store.exchange.reach import held_with, in_carts, waiting_for
from gremba.store.messages import put_notices


@dataclass(frozen=True, slots=True)
class Reached:
    """A section that students notice a change of, and how many.

    Attributes:
        clashing: of the registered those whose week it clashes with now.
    """

    change: SectionChange
    registered: int
    waiting: int
    in_carts: int
    clashing: int


@dataclass(frozen=True, slots=True)
class Reach:
    """All that a folder reaches.

    Attributes:
        told: what each student is told, by their row.
    """

    sections: tuple[Reached, ...]
    told: tuple[tuple[int, Message], ...]


def look_at_reach(
    database: PooledPostgresqlDatabase,
    before: Mapping[str, TermCatalogue],
    after: Mapping[str, TermCatalogue],
) -> Reach:
    """Whom it reaches that terms are other than they were, by the code of each."""
    sections: list[Reached] = []
    told: list[tuple[int, Message]] = []
    for code, was in before.items():
        changes = changed_sections(was, after[code])
        if changes:
            reached, messages = _of_term(database, changes, was, after[code])
            sections.extend(reached)
            told.extend(messages)
    return Reach(tuple(sections), tuple(told))


def tell_reached(database: PooledPostgresqlDatabase, reach: Reach, at: datetime) -> None:
    """Leave everybody their message; those who wait for what is off are told when their place ends."""
    put_notices(database, reach.told, at)


def _of_term(
    database: PooledPostgresqlDatabase,
    changes: list[SectionChange],
    before: TermCatalogue,
    after: TermCatalogue,
) -> tuple[Iterator[Reached], list[tuple[int, Message]]]:
    ids = {change.after.id for change in changes}
    held = held_with(database, ids)
    waiting, carts = waiting_for(database, ids), in_carts(database, ids)
    registered = dict.fromkeys(ids, 0)
    clashing = dict.fromkeys(ids, 0)
    told = []
    for student, theirs in held.items():
        own = [after.by_id[section] for section in sorted(theirs) if section in after.by_id]
        for change in changes:
            if change.after.id not in theirs:
                continue
            registered[change.after.id] += 1
            clashes = new_clashes(change, own, before)
            clashing[change.after.id] += bool(clashes)
            told.append((student, _message(change, clashes)))
    counted = (
        Reached(change, registered[key], waiting.get(key, 0), carts.get(key, 0), clashing[key])
        for change, key in ((change, change.after.id) for change in changes)
    )
    return counted, told


def _message(change: SectionChange, clashes: Iterable[Section]) -> Message:
    if change.is_off:
        return message(MessageKind.SECTION_OFF, change.after)
    names = listed([f"{other.name} {other.reference_number}" for other in clashes])
    return message(
        MessageKind.SECTION_MOVED,
        change.after,
        times=_where(change.after),
        before=_where(change.before),
        clashes=names or None,
    )


def _where(section: Section) -> str:
    rooms = listed(list(dict.fromkeys(meeting.room for meeting in section.meetings if meeting.room)))
    return f"{times_text(section.meetings)}, {rooms}" if rooms else times_text(section.meetings)
