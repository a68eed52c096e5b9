"""Routes of permission requests."""

from __future__ import annotations

from typing import Annotated, Any

from fastapi import APIRouter, Query, Request, Response
from starlette.concurrency import run_in_threadpool

from gremba.actions.permission import answer, ask, to_answer
from gremba.actions.permission import delegates as delegates
from gremba.actions.permission.let_in import let_in
from gremba.core.states import Waiver
from gremba.store.permission.requests import RequestRow
from gremba.web.access.guard import SignedIn
from gremba.web.access.subject import About, SubjectId, actor_of
from gremba.web.files import as_named_file
from gremba.web.once import OnceKey
from gremba.web.permission.responses import answerable_response, asking_response, request_response
from gremba.web.schemas import (
    AnswerBack,
    AskingResponse,
    BegunRequest,
    DelegateWanted,
    LetIn,
    RequestList,
    RequestsToAnswer,
    RequestWanted,
    Said,
    TakenBack,
)
from gremba.web.services import services_of
from gremba.web.values import campus_time, known_id

router = APIRouter(prefix="/api")

_FILE: dict[int | str, dict[str, Any]] = {
    200: {"description": "The file, to be kept", "content": {"application/octet-stream": {}}}
}
_OCTETS = {
    "requestBody": {
        "required": True,
        "content": {"application/octet-stream": {"schema": {"type": "string", "format": "binary"}}},
    }
}


@router.get("/terms/{term}/asking/{number}")
def look_at_asking(request: Request, subject_id: SubjectId, term: str, number: str) -> AskingResponse:
    """What a request for a section would cover, who decides, and what else blocks it."""
    return asking_response(ask.look_at_asking(services_of(request).context, subject_id, term, number))


@router.get("/terms/{term}/requests")
def list_requests(request: Request, subject_id: SubjectId, term: str) -> RequestList:
    """A student's requests for a term, newest first."""
    context = services_of(request).context
    now = context.clock.now()
    found = to_answer.requests_told(context, subject_id, term)
    return RequestList(requests=[request_response(told, now) for told in found])


@router.post("/terms/{term}/requests")
def make_request(request: Request, about: About, term: str, wanted: RequestWanted) -> BegunRequest:
    """Request a section; the decider is told."""
    context = services_of(request).context
    made = ask.ask(context, about, term, wanted.number, wanted.words, wanted.goes_through)
    return BegunRequest(id=made)


@router.post("/requests/{request_id}/files", status_code=204, openapi_extra=_OCTETS)
async def attach_file(
    request: Request,
    about: About,
    request_id: int,
    name: Annotated[str, Query(min_length=1, max_length=400)],
) -> None:
    """Attach a PDF or an image of up to 2 MB to one's own open request."""
    content = await request.body()
    context = services_of(request).context
    await run_in_threadpool(ask.attach, context, about, known_id(request_id), name, content)


@router.get("/requests/{request_id}/files/{file_id}", responses=_FILE, response_class=Response)
def download_request_file(request: Request, session: SignedIn, request_id: int, file_id: int) -> Response:
    """Download a file of a request, as its student or a decider."""
    name, media_type, content = to_answer.attached_file(
        services_of(request).context, actor_of(session), known_id(request_id), known_id(file_id)
    )
    return as_named_file(content, media_type.value, name)


@router.post("/requests/{request_id}/answer-back", status_code=204)
def answer_question(request: Request, about: About, request_id: int, said: AnswerBack) -> None:
    """Answer a question about one's own request."""
    ask.answer_back(services_of(request).context, about, known_id(request_id), said.words)


@router.post("/requests/{request_id}/withdrawal", status_code=204)
def withdraw_request(request: Request, about: About, request_id: int) -> None:
    """Withdraw one's own request."""
    ask.withdraw(services_of(request).context, about, known_id(request_id))


@router.get("/terms/{term}/requests-to-answer")
def list_requests_to_answer(
    request: Request, session: SignedIn, term: str, before: int | None = None
) -> RequestsToAnswer:
    """Everything somebody has to decide, by section, then recent decisions, and delegates. With `before`, the
    next page of decisions."""
    context = services_of(request).context
    behind = None if before is None else known_id(before)
    found = to_answer.requests_to_answer(context, actor_of(session), term, behind)
    standing_in = delegates.delegates_of(context, found.term, session.person.id)
    elsewhere = to_answer.open_elsewhere(context, actor_of(session), term)
    return answerable_response(found, standing_in, elsewhere, session.person.id, context.clock.now())


@router.post("/requests/{request_id}/answer", status_code=204)
def answer_request(request: Request, session: SignedIn, request_id: int, said: Said) -> None:
    """Approve or deny a request, or ask a question."""
    context = services_of(request).context
    actor, row_id = actor_of(session), known_id(request_id)
    _note_about(
        request,
        answer.answer(
            context,
            actor,
            row_id,
            answer.GivenAnswer(said.answer),
            said.words,
            campus_time(said.until, answer.term_of(context, row_id)),
            said.version,
        ),
    )


@router.post("/requests/{request_id}/taking-back", status_code=204)
def take_back_grant(request: Request, session: SignedIn, request_id: int, why: TakenBack) -> None:
    """Withdraw an approval that was not used."""
    context = services_of(request).context
    answer.take_back(context, actor_of(session), known_id(request_id), why.words)


@router.post("/terms/{term}/taught/{number}/let-in", status_code=204)
def let_student_in(
    request: Request, session: SignedIn, term: str, number: str, wanted: LetIn, key: OnceKey
) -> None:
    """Give a student permission for one's own section without a request. The same key does it only once."""
    context = services_of(request).context
    found = context.term(term)
    let_in(
        context,
        actor_of(session),
        found,
        number,
        wanted.student,
        [Waiver(w) for w in wanted.waives],
        wanted.words,
        campus_time(wanted.until, found),
        key=key,
    )


@router.post("/terms/{term}/delegates", status_code=204)
def name_delegate(request: Request, session: SignedIn, term: str, wanted: DelegateWanted) -> None:
    """Delegate one's decisions to a colleague, from one day through another."""
    context = services_of(request).context
    delegates.name_delegate(
        context, context.term(term), session.person.id, wanted.username, wanted.from_on, wanted.until_on
    )


@router.delete("/delegates/{delegate}", status_code=204)
def call_delegate_off(request: Request, session: SignedIn, delegate: int) -> None:
    """End a delegation."""
    delegates.call_off(services_of(request).context, session.person.id, known_id(delegate))


def _note_about(request: Request, row: RequestRow) -> None:
    request.state.about = row.student_id
