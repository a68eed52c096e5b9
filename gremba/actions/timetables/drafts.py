"""Saves timetables as drafts, reopens them, and shares them by links that expire."""

from __future__ import annotations

import hashlib
import secrets
from collections.abc import Mapping, Sequence
from dataclasses import dataclass
from datetime import datetime, time, timedelta
from typing import Any

from gremba.actions.context import ActionContext
from gremba.actions.problem import Problem
from gremba.actions.problem_kinds import ProblemKind
from gremba.core.catalogue.term import Section, TermCatalogue
from gremba.core.timetables.drafts import MOST_DRAFTS, changed_since, seen_of
from gremba.store.catalogue.seat_board import SeatBoard
from gremba.store.database import connected
from gremba.store.registration.carts import lock_cart
from gremba.store.timetables.drafts import (
    SharedDraft,
    StoredDraft,
    count_drafts,
    find_shared,
    keep_draft,
    let_draft_go,
    link_draft,
    list_drafts,
    rename_draft,
)


@dataclass(frozen=True, slots=True)
class OpenedDraft:
    """A saved timetable, with what has changed since, a sentence each."""

    draft: StoredDraft
    changed: Sequence[str]


@dataclass(frozen=True, slots=True)
class ShownDraft:
    """A saved timetable as the holder of a link sees it."""

    term: TermCatalogue
    shared: SharedDraft
    sections: Sequence[Section]
    changed: Sequence[str]


class Drafts:
    """Students' saved timetables; seat figures come from the board."""

    def __init__(self, context: ActionContext, board: SeatBoard) -> None:
        self._context = context
        self._board = board

    def list(self, student_id: int, term_code: str) -> Sequence[OpenedDraft]:
        """Saved timetables, newest first, each with what has changed since. One statement.

        Raises:
            Problem: no such term, or the student is not expected in it.
        """
        term, row = self._row(student_id, term_code)
        with connected(self._context.database) as database:
            found = list_drafts(database, row)
        figures = self._board.figures
        return [OpenedDraft(d, changed_since(term, d.seen, figures)) for d in found]

    def keep(
        self,
        student_id: int,
        term_code: str,
        name: str,
        question: Mapping[str, Any],
        numbers: Sequence[str],
    ) -> None:
        """Save a timetable with its question. Three statements.

        Raises:
            Problem: there are as many as may be kept, a section is unknown, or the term is over.
        """
        term, row = self._row(student_id, term_code)
        unknown = [n for n in numbers if n not in term.by_number]
        if unknown:
            raise Problem(
                ProblemKind.SECTION_UNKNOWN,
                "Look at the timetables that work now, and keep one of them.",
                term=term.name,
                number=unknown[0],
            )
        now = self._context.clock.now()
        if self._ends(term) <= now:
            raise Problem(ProblemKind.TERM_OVER, "What was kept of it can still be read.", term=term.name)
        seen = seen_of(term, numbers, self._board.figures)
        with connected(self._context.database) as database, database.atomic():
            lock_cart(database, row)
            if count_drafts(database, row) >= MOST_DRAFTS:
                raise Problem(
                    ProblemKind.TOO_MANY_DRAFTS, "Let one go that is not needed any more.", most=MOST_DRAFTS
                )
            keep_draft(database, row, name, question, sorted(numbers), seen, now)

    def rename(self, student_id: int, term_code: str, draft: int, name: str) -> None:
        """Rename a saved timetable.

        Raises:
            Problem: there is no such draft.
        """
        _, row = self._row(student_id, term_code)
        with connected(self._context.database) as database:
            _there(rename_draft(database, row, _id(draft), name))

    def let_go(self, student_id: int, term_code: str, draft: int) -> None:
        """Hide a saved timetable and end its link.

        Raises:
            Problem: there is no such draft.
        """
        _, row = self._row(student_id, term_code)
        with connected(self._context.database) as database:
            _there(let_draft_go(database, row, _id(draft), self._context.clock.now()))

    def link(self, student_id: int, term_code: str, draft: int, days: int) -> str:
        """Create a link to a saved timetable, replacing any other; returns its token, which is not shown
        again. It expires with the term at the latest.

        Raises:
            Problem: there is no such draft, or the term is over.
        """
        term, row = self._row(student_id, term_code)
        now = self._context.clock.now()
        ends = self._ends(term)
        if ends <= now:
            raise Problem(
                ProblemKind.TERM_OVER, "Links are made for terms that run or are to come.", term=term.name
            )
        token = secrets.token_urlsafe(32)
        with connected(self._context.database) as database:
            until = min(now + timedelta(days=days), ends)
            _there(link_draft(database, row, _id(draft), _digest(token), until))
        return token

    def unlink(self, student_id: int, term_code: str, draft: int) -> None:
        """Deactivate the link to a saved timetable for good.

        Raises:
            Problem: there is no such draft.
        """
        _, row = self._row(student_id, term_code)
        with connected(self._context.database) as database:
            _there(link_draft(database, row, _id(draft), None, None))

    def shared(self, token: str) -> ShownDraft:
        """The timetable that a link shows. One statement.

        Raises:
            Problem: the link is not in force. Whether there ever was one is not told.
        """
        with connected(self._context.database) as database:
            found = find_shared(database, _digest(token), self._context.clock.now())
        if found is None:
            raise Problem(
                ProblemKind.LINK_GONE,
                "It was withdrawn or has ended, or the address is incomplete. Ask whoever gave it to you for "
                "a new one.",
            )
        term = self._context.term(found.term)
        sections = [term.by_number[n] for n in found.numbers if n in term.by_number]
        return ShownDraft(term, found, sections, changed_since(term, found.seen, self._board.figures))

    def _row(self, student_id: int, term_code: str) -> tuple[TermCatalogue, int]:
        term = self._context.term(term_code)
        return term, self._context.student_term(student_id, term)

    @staticmethod
    def _ends(term: TermCatalogue) -> datetime:
        return datetime.combine(term.calendar.last + timedelta(days=1), time(), term.calendar.zone)


def _id(draft: int) -> int:
    return draft if 0 < draft < 2**31 else 0


def _there(changed: int) -> None:
    if not changed:
        raise Problem(ProblemKind.DRAFT_UNKNOWN, "It was let go in another window. Look at those there are.")


def _digest(token: str) -> bytes:
    return hashlib.sha256(token.encode(errors="replace")).digest()
