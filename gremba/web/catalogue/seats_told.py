"""Serializes seat figures once for the thousands of pages that are sent the same."""

from __future__ import annotations

from collections.abc import Iterable, Mapping
from datetime import date

import orjson

from gremba.core.catalogue.seats import SeatFigures
from gremba.core.catalogue.term import TermCatalogue
from gremba.web.registration.responses import seats_response

_Words = dict[str, tuple[SeatFigures | None, bytes]]


class SeatsTold:
    """Caches the last JSON sent for each section, with the figures it was made from."""

    def __init__(self) -> None:
        self._of_term: dict[str, tuple[TermCatalogue, date, _Words]] = {}

    def tell(
        self, term: TermCatalogue, numbers: Iterable[str], seats: Mapping[int, SeatFigures], today: date
    ) -> bytes:
        """A JSON object of SeatsResponse by reference number. Unknown numbers are left out."""
        of_day = self._of_term.get(term.code)
        if of_day is None or of_day[0] is not term or of_day[1] != today:
            of_day = self._of_term[term.code] = (term, today, {})
        told = of_day[2]
        figures = []
        for number in numbers:
            section = term.by_number.get(number)
            if section is None:
                continue
            of_pool = seats.get(section.pool)
            known = told.get(number)
            if known is None or known[0] is not of_pool:
                words = orjson.dumps({number: seats_response(section, seats, today).model_dump()})[1:-1]
                known = told[number] = (of_pool, words)
            figures.append(known[1])
        return b"{" + b",".join(figures) + b"}"
