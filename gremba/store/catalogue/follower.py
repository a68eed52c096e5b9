"""Reloads changed terms on a thread of its own."""

from __future__ import annotations

import threading
from collections.abc import Callable

from gremba.store.catalogue.cache import CatalogueCache
from gremba.store.long_lived_thread import LongLivedThread


class CatalogueFollower(LongLivedThread):
    """Reloads terms when their changes are announced. Repeated announcements are combined.

    Args:
        follow: told the code of each, once it is in memory as it is now.
    """

    def __init__(self, catalogue: CatalogueCache, follow: Callable[[str], None]) -> None:
        super().__init__("catalogue", often=None, patience=300.0)
        self._catalogue = catalogue
        self._follow = follow
        self._announced: set[str] = set()
        self._missed = False
        self._lock = threading.Lock()

    def announced(self, code: str) -> None:
        """Note that a term has changed."""
        with self._lock:
            self._announced.add(code)
        self.wake()

    def missed(self) -> None:
        """Note that announcements may have been missed: every term is checked."""
        with self._lock:
            self._missed = True
        self.wake()

    def turn(self) -> None:
        """Reload what was announced. A term that fails to load stays announced."""
        with self._lock:
            codes, self._announced = self._announced, set()
            missed, self._missed = self._missed, False
        try:
            if missed:
                codes |= set(self._catalogue.outdated())
            while codes:
                code = min(codes)
                self._catalogue.reload(code)
                self._follow(code)
                codes.remove(code)
        except BaseException:
            with self._lock:
                self._announced |= codes
                self._missed |= missed
            raise
