"""Finds sections. Keeps the index of each term, and schedules judged lately, in memory."""

from __future__ import annotations

from collections import OrderedDict
from collections.abc import Sequence
from threading import Lock

from gremba.core.catalogue.search.filters import Filters
from gremba.core.catalogue.search.find import Found, find
from gremba.core.catalogue.search.fit import Seats, WeekFit
from gremba.core.catalogue.search.index import SearchIndex
from gremba.core.catalogue.term import TermCatalogue
from gremba.store.catalogue.seat_board import SeatBoard

_WEEKS = 500
"""So many weeks are kept as judged; one takes about as much memory as a picture of an icon."""


class Finder:
    """Searches in memory; seat figures come from the board."""

    def __init__(self, board: SeatBoard) -> None:
        self._board = board
        self._indexes: dict[str, SearchIndex] = {}
        self._weeks: OrderedDict[tuple[SearchIndex, tuple[str, ...]], WeekFit] = OrderedDict()
        self._lock = Lock()

    @property
    def seats(self) -> Seats:
        """The figures of every pool, for display."""
        return self._board.figures

    def index(self, term: TermCatalogue) -> SearchIndex:
        """A term's search index; rebuilt after its catalogue was reloaded."""
        known = self._indexes.get(term.code)
        if known is None or known.term is not term:
            with self._lock:
                known = self._indexes.get(term.code)
                if known is None or known.term is not term:
                    known = self._indexes[term.code] = SearchIndex(term)
        return known

    def fit(self, term: TermCatalogue, week: Sequence[str]) -> WeekFit:
        """Judges fit against the sections of a schedule; unknown numbers are ignored."""
        index = self.index(term)
        key = index, tuple(sorted(set(week)))
        with self._lock:
            known = self._weeks.get(key)
            if known is not None:
                self._weeks.move_to_end(key)
                return known
        made = WeekFit(index, [term.by_number[n] for n in key[1] if n in term.by_number])
        with self._lock:
            self._weeks[key] = made
            while len(self._weeks) > _WEEKS:
                self._weeks.popitem(last=False)
        return made

    def find(self, term: TermCatalogue, filters: Filters, week: Sequence[str]) -> Found:
        """Find sections of a term, with fit against a schedule."""
        return find(self.index(term), filters, self.seats, self.fit(term, week))
