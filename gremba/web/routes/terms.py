"""Terms and their days."""

from __future__ import annotations

from fastapi import APIRouter, Request

from gremba.store.database import connected, rows
from gremba.web.schemas import BlockView, BreakView, TermName, TermView
from gremba.web.services import services_of

router = APIRouter(prefix="/api/terms")


@router.get("")
def list_terms(request: Request) -> list[TermName]:
    """All terms, earliest first."""
    with connected(services_of(request).desk.database) as database:
        found = rows(
            database, "SELECT code, name, first_day, last_day FROM terms ORDER BY first_day"
        )
    return [TermName(code=t[0], name=t[1], first_day=t[2], last_day=t[3]) for t in found]


@router.get("/{term}")
def read_term(request: Request, term: str) -> TermView:
    """A term with its blocks, deadlines and breaks."""
    found = services_of(request).desk.term(term)
    calendar = found.calendar
    return TermView(
        code=found.code,
        name=found.name,
        zone=str(calendar.zone),
        first_day=calendar.first,
        last_day=calendar.last,
        breaks=[
            BreakView(name=b.name, first_day=b.first, last_day=b.last) for b in calendar.breaks
        ],
        blocks=[
            BlockView(
                code=b.code, name=b.name, first_day=b.first, last_day=b.last, add_by=b.add_by,
                drop_by=b.drop_by, withdraw_by=b.withdraw_by,
            )
            for b in calendar.blocks.values()
        ],
    )  # fmt: skip
