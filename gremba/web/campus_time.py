"""Times as people write them: without a zone they are the college's."""

from __future__ import annotations

from datetime import datetime

from gremba.core.catalogue.term import TermCatalogue


def campus_time(moment: datetime | None, term: TermCatalogue | None) -> datetime | None:
    """A time that says its zone; where it says none, the term's."""
    if moment is None or moment.tzinfo is not None or term is None:
        return moment
    return moment.replace(tzinfo=term.calendar.zone)
