"""Terms and their days."""

from __future__ import annotations

from fastapi import APIRouter, Request

from gremba.store.database import connected, rows
from gremba.web.schemas import TermName, TermView
from gremba.web.services import services_of
from gremba.web.views import term_view

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
    return term_view(services_of(request).desk.term(term))
