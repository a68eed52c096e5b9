"""Routes of Find: search, a section, stars. Public but for the stars."""

from __future__ import annotations

import time
from typing import Annotated

import orjson
from fastapi import APIRouter, Query, Request, Response
from pydantic import StringConstraints

from gremba.actions.catalogue.look_at_section import look_at_section, section_of
from gremba.actions.problem import Problem
from gremba.actions.problem_kinds import ProblemKind
from gremba.core.catalogue.term import TermCatalogue
from gremba.store.catalogue.stars import read_stars, star, unstar
from gremba.store.database import connected
from gremba.web.access.subject import SubjectId
from gremba.web.catalogue.find_responses import Rows, details_response, outlook_response, search_data
from gremba.web.catalogue.find_schemas import MOST_OF_WEEK, Numbers
from gremba.web.catalogue.search_query import SearchQuery, split_numbers
from gremba.web.schemas import OutlookResponse, SearchResponse, SectionDetails, StarsResponse
from gremba.web.services import Services, services_of

router = APIRouter(prefix="/api/terms/{term}")

_MOST_QUERY = 16_000

Number = Annotated[str, StringConstraints(max_length=12)]


@router.get("/search", response_model=SearchResponse)
def search_sections(request: Request, term: str, query: Annotated[SearchQuery, Query()]) -> Response:
    """Find sections. No filter is required. Sections match all filters given, and any value of each.
    Server-Timing reports the time the search took."""
    services = services_of(request)
    found_term = _term_for(services, request, term)
    begun = time.perf_counter()
    finder = services.finder
    week = _week(query.against)
    index = finder.index(found_term)
    found = finder.find(found_term, query.filters(), week)
    rows = _rows(services, found_term, week)
    body = orjson.dumps(search_data(rows, index, found, query.offset, query.limit, _unknown(request)))
    took = (time.perf_counter() - begun) * 1000
    return Response(body, media_type="application/json", headers={"Server-Timing": f"search;dur={took:.2f}"})


def _term_for(services: Services, request: Request, term: str) -> TermCatalogue:
    if len(request.url.query) > _MOST_QUERY:
        raise Problem(ProblemKind.QUERY_TOO_LONG, "Look for fewer words, or take some filters out.")
    return services.context.term(term)


def _unknown(request: Request) -> list[str]:
    strange = sorted({name for name in request.query_params if name not in SearchQuery.model_fields})
    return [f"Left aside: there is no filter “{name[:40]}”." for name in strange[:5]]


def _week(against: str) -> list[str]:
    """The schedule that fit is judged against.

    Raises:
        Problem: nobody has such a week.
    """
    week = split_numbers(against)
    if len(week) > MOST_OF_WEEK:
        raise Problem(
            ProblemKind.WEEK_TOO_LONG, f"Name at most {MOST_OF_WEEK} sections to be judged against."
        )
    return week


def _rows(services: Services, term: TermCatalogue, week: list[str]) -> Rows:
    finder = services.finder
    today = term.calendar.local_date(services.context.clock.now())
    return Rows(finder.index(term), finder.seats, finder.fit(term, week), today)


@router.get("/sections/{number}")
def read_section(
    request: Request,
    term: str,
    number: Number,
    against: Annotated[Numbers, Query(description="The week that fit is judged against")] = "",
) -> SectionDetails:
    """Everything about one section, its linked sections, and the other sections of its course."""
    services = services_of(request)
    found_term = services.context.term(term)
    section = section_of(found_term, number)
    today = found_term.calendar.local_date(services.context.clock.now())
    rows = _rows(services, found_term, _week(against))
    return details_response(rows, found_term, section, services.finder.seats, today)


@router.get("/sections/{number}/outlook")
def read_outlook(request: Request, subject_id: SubjectId, term: str, number: Number) -> OutlookResponse:
    """What the section would mean for the student, given their cart."""
    return outlook_response(look_at_section(services_of(request).context, subject_id, term, number))


@router.get("/stars")
def list_stars(request: Request, subject_id: SubjectId, term: str) -> StarsResponse:
    """List the sections the student has starred."""
    context = services_of(request).context
    found = context.term(term)
    row = context.student_term(subject_id, found)
    with connected(context.database) as database:
        ids = read_stars(database, row)
    return StarsResponse(numbers=[found.by_id[i].reference_number for i in ids if i in found.by_id])


@router.put("/stars/{number}")
def star_section(request: Request, subject_id: SubjectId, term: str, number: Number) -> StarsResponse:
    """Star a section."""
    context = services_of(request).context
    found = context.term(term)
    section = section_of(found, number)
    row = context.student_term(subject_id, found)
    with connected(context.database) as database, database.atomic():
        star(database, row, found.id, section, context.clock.now())
    return list_stars(request, subject_id, term)


@router.delete("/stars/{number}")
def unstar_section(request: Request, subject_id: SubjectId, term: str, number: Number) -> StarsResponse:
    """Remove a star."""
    context = services_of(request).context
    found = context.term(term)
    section = section_of(found, number)
    row = context.student_term(subject_id, found)
    with connected(context.database) as database:
        unstar(database, row, section)
    return list_stars(request, subject_id, term)
