"""Routes of terms and their days."""

from __future__ import annotations

from fastapi import APIRouter, Request

from gremba.store.catalogue import terms
from gremba.store.database import connected
from gremba.web.access.guard import sees_prepared
from gremba.web.registration.responses import term_response
from gremba.web.schemas import TermName, TermResponse
from gremba.web.services import services_of

router = APIRouter(prefix="/api/terms")


@router.get("")
def list_terms(request: Request) -> list[TermName]:
    """All terms, earliest first."""
    with connected(services_of(request).context.database) as database:
        found = terms.list_terms(database, with_prepared=sees_prepared(request.state.session))
    return [TermName.model_validate(term, from_attributes=True) for term in found]


@router.get("/{term}")
def read_term(request: Request, term: str) -> TermResponse:
    """A term with its sessions, deadlines and breaks."""
    return term_response(services_of(request).context.term(term))
