"""Finds and notifies the students whom an import affects."""

from __future__ import annotations

from collections.abc import Iterable, Iterator, Mapping, Sequence
from dataclasses import dataclass
from datetime import datetime

from playhouse.pool import PooledPostgresqlDatabase

from gremba.core.catalogue.term import Section, TermCatalogue
from gremba.core.exchange.affected_students import SectionChange, changed_sections, new_clashes
from gremba.core.messages import Message, MessageKind, message
from gremba.core.states import TermState
from gremba.core.windows.window_messages import Span, changed_windows
from gremba.core.wording import listed, times_text
from gremba.store.catalogue.read_term import read_term
from gremba.store.exchange.affected_students import count_registered, held_with, in_carts, waiting_for
from gremba.store.messages.inbox import put_notices
from gremba.store.windows import windows_to_come


@dataclass(frozen=True, slots=True)
class AffectedSection:
    """A section with a change that students notice, and how many are affected.

    Attributes:
        clashing: of the registered those whose week it clashes with now.
    """

    change: SectionChange
    registered: int
    waiting: int
    in_carts: int
    clashing: int


@dataclass(frozen=True, slots=True)
class AffectedStudents:
    """Everybody an import affects.

    Attributes:
        told: what each student is told, by their row.
        windows: of how many students windows are others now, in terms that they see.
        charged: how many are registered in terms that cost something else now.
    """

    sections: tuple[AffectedSection, ...] = ()
    told: tuple[tuple[int, Message], ...] = ()
    windows: int = 0
    charged: int = 0


@dataclass(frozen=True, slots=True)
class TermBefore:
    """A term before an import.

    Attributes:
        term: None where there is none yet.
        windows: that are not over and that students have been told of, by the row of each student; None
            where the folder has nothing of windows.
    """

    term: TermCatalogue | None
    windows: Mapping[int, Sequence[Span]] | None


def as_it_is(
    database: PooledPostgresqlDatabase, code: str, now: datetime, *, with_windows: bool
) -> TermBefore:
    """A term as it is, for comparison after the import."""
    term = read_term(database, code)
    if not with_windows:
        return TermBefore(term, None)
    is_seen = term is not None and term.state is not TermState.PREPARED
    return TermBefore(term, windows_to_come(database, term.id, now) if term and is_seen else {})


def find_affected_students(
    database: PooledPostgresqlDatabase, before: Mapping[str, TermBefore], now: datetime
) -> AffectedStudents:
    """Find the students affected by changes of terms, by term code."""
    sections: list[AffectedSection] = []
    told: list[tuple[int, Message]] = []
    students: set[int] = set()
    charged = 0
    for code, was in before.items():
        term = read_term(database, code)
        if term is None:
            continue
        if was.windows is not None and term.state is not TermState.PREPARED:
            of_windows = list(changed_windows(term, was.windows, windows_to_come(database, term.id, now)))
            told.extend(of_windows)
            students.update(row for row, _ in of_windows)
        if was.term is None:
            continue
        if was.term.policy.tariff != term.policy.tariff:
            charged += count_registered(database, term.id)
        changes = changed_sections(was.term, term)
        if changes:
            affected, messages = _of_term(database, changes, was.term, term)
            sections.extend(affected)
            told.extend(messages)
    return AffectedStudents(tuple(sections), tuple(told), len(students), charged)


def notify_affected_students(
    database: PooledPostgresqlDatabase, affected: AffectedStudents, at: datetime
) -> None:
    """Message everybody affected. Students waiting for a cancelled section are told when the entry ends."""
    put_notices(database, affected.told, at)


def _of_term(
    database: PooledPostgresqlDatabase,
    changes: list[SectionChange],
    before: TermCatalogue,
    after: TermCatalogue,
) -> tuple[Iterator[AffectedSection], list[tuple[int, Message]]]:
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
        AffectedSection(change, registered[key], waiting.get(key, 0), carts.get(key, 0), clashing[key])
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
