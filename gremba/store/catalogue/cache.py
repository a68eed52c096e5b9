"""Keeps the catalogue in memory and reloads it when the database announces a change."""

from __future__ import annotations

import gc
import threading

from playhouse.pool import PooledPostgresqlDatabase

from gremba.core.catalogue.term import TermCatalogue
from gremba.store.catalogue.read_term import read_term
from gremba.store.database import connected, reading
from gremba.store.models import Term
from gremba.store.queries import fetch_tuples


class CatalogueCache:
    """Caches terms by code in each process. A term is loaded on first use."""

    def __init__(self, database: PooledPostgresqlDatabase) -> None:
        self._database = database
        self._terms: dict[str, TermCatalogue] = {}
        self._lock = threading.Lock()

    def known(self, code: str) -> TermCatalogue | None:
        """The term if it is in memory; never queries the database."""
        return self._terms.get(code)

    def in_memory(self) -> list[TermCatalogue]:
        """The terms loaded so far."""
        return list(self._terms.values())

    def term(self, code: str) -> TermCatalogue | None:
        """The term with this code; None if there is none."""
        found = self._terms.get(code)
        return found if found is not None else self.reload(code)

    def reload(self, code: str) -> TermCatalogue | None:
        """Load a term again, whatever is in memory.

        The old one stays in use until the new one is complete, and whoever is deciding with
        it goes on with it.
        """
        with self._lock:
            return self._read(code)

    def catch_up(self, code: str) -> TermCatalogue | None:
        """Reload a term if it has changed. Of several threads asking at once, one loads it."""
        with self._lock:
            known = self._terms.get(code)
            if known is not None:
                with connected(self._database):
                    if _versions(self._database).get(code) == known.version:
                        return known
            return self._read(code)

    def _read(self, code: str) -> TermCatalogue | None:
        with reading(self._database):
            term = read_term(self._database, code)
        if term is not None:
            term.warm_up()
            self._terms[code] = term
            # It stays; the garbage collector need not look through it again and again.
            gc.collect()
            gc.freeze()
        return term

    def outdated(self) -> list[str]:
        """The terms that have changed since they were loaded."""
        with connected(self._database):
            found = _versions(self._database)
        return [code for code, term in self._terms.items() if found.get(code) != term.version]


def _versions(database: PooledPostgresqlDatabase) -> dict[str, int]:
    return dict(fetch_tuples(database, Term.select(Term.code, Term.catalogue_version)))
