"""Routes of submissions and confirmations."""

from __future__ import annotations

import math
from collections.abc import Sequence
from typing import Annotated

from fastapi import APIRouter, Header, Query, Request, Response
from fastapi.exceptions import RequestValidationError
from pydantic import StringConstraints, TypeAdapter, ValidationError
from starlette.concurrency import run_in_threadpool

from gremba.actions.permission.codes import normal_code, note_guesses
from gremba.actions.problem import (
    Problem,
    not_expected,
    too_many_changes,
    too_many_submissions,
)
from gremba.actions.problem_kinds import ProblemKind
from gremba.actions.registration.look_at_cart import look_at_cart
from gremba.actions.registration.submission import Submission
from gremba.core.registration.changes import Change, Kind, Mode
from gremba.core.registration.changes import Request as ChangeRequest
from gremba.core.registration.plans import PlanFallback, Plans
from gremba.store.database import connected
from gremba.store.registration.confirmations import find_confirmation
from gremba.store.registration.confirmations import list_confirmations as read_confirmations
from gremba.web.access.guard import SignedIn, guard, signed_in
from gremba.web.access.subject import SubjectId, actor_of, find_student_id
from gremba.web.registration.responses import cart_response, confirmation_json
from gremba.web.schemas import (
    ChangeWanted,
    ConfirmationBody,
    ConfirmationLine,
    ConfirmationList,
    ConfirmationResponse,
    SubmissionWanted,
)
from gremba.web.services import services_of

router = APIRouter(prefix="/api")

_SENT = TypeAdapter(SubmissionWanted)
_STUDENT: TypeAdapter[int | None] = TypeAdapter(int | None)
_KEY = TypeAdapter(Annotated[str, StringConstraints(min_length=8, max_length=200, pattern=r"^[\x21-\x7e]+$")])
Key = Annotated[
    str,
    Header(
        alias="Idempotency-Key",
        min_length=8,
        max_length=200,
        description="A name of the sender's own for this sending; a repetition with the same "
        "key gets the first confirmation",
    ),
]


@router.post("/terms/{term}/submissions", response_model=ConfirmationResponse)
async def send_changes(
    request: Request,
    session: SignedIn,
    term: str,
    sent: SubmissionWanted,
    key: Key,
    student: Annotated[
        int | None, Query(description="For advisors: the id of one of their own students")
    ] = None,
) -> Response:
    """Submit changes; the confirmation holds the result of each."""
    services = services_of(request)
    waits = services.submissions_a_minute.take(session.person.id)
    if waits:
        raise too_many_submissions(math.ceil(waits))
    context = services.context
    catalogue = context.catalogue.known(term)
    if catalogue is None:
        catalogue = await run_in_threadpool(context.term, term)
    person = session.person
    row = session.terms.get(term)
    student_id = person.id
    if person.role != "student" or student is not None:
        student_id = await find_student_id(request, session, student)
        row = await run_in_threadpool(context.student_term, student_id, catalogue)
    if row is None:
        raise not_expected(catalogue.name)
    most = catalogue.policy.most_changes
    if any(len(wanted) > most for wanted in (sent.changes, *sent.plans)):
        raise too_many_changes(most)
    plans = None
    if sent.plans:
        requests = tuple([ChangeRequest(_changes(plan)) for plan in sent.plans])
        plans = Plans(requests, PlanFallback(sent.fallback))
    changes = _changes(sent.changes) if plans is None else plans.requests[0].changes
    every = changes if plans is None else [c for r in plans.requests for c in r.changes]
    codes = [(c.permission_code, catalogue.by_number.get(c.number)) for c in every if c.permission_code]
    if codes:
        await run_in_threadpool(note_guesses, context, person.id, student_id, codes)
    answer = await services.submission_queue.put(
        Submission(
            student_term_id=row,
            term=catalogue,
            request=ChangeRequest(changes, Mode(sent.mode)),
            key=key,
            by=person.id,
            by_name=actor_of(session).signature,
            seen=sent.cart or "",
            plans=plans,
        )
    )
    if isinstance(answer, Problem):
        if answer.kind is ProblemKind.CART_MOVED:
            judged = await run_in_threadpool(look_at_cart, context, student_id, term)
            answer.now = cart_response(judged).model_dump(mode="json")
        raise answer
    return Response(confirmation_json(answer, catalogue.name), media_type="application/json")


def _changes(wanted: Sequence[ChangeWanted]) -> tuple[Change, ...]:
    return tuple(
        [
            Change(
                Kind(c.kind),
                c.number,
                c.grading,
                c.credits,
                c.in_exchange or "",
                normal_code(c.permission_code) if c.permission_code else "",
                tuple([tuple(numbers) for numbers in c.alternatives]),
                wait_if_full=c.wait_if_full,
                leaves_waitlists=c.leaves_waitlists,
            )
            for c in wanted
        ]
    )


async def answer_submission(request: Request) -> Response:
    """The same, on the fast path (see :mod:`gremba.web.requests.fast_path`).

    It passes the same guard, and body and key are read with the same models.
    """
    await guard(request)
    if not request.headers.get("Content-Type", "").partition(";")[0].strip().endswith("json"):
        raise Problem(
            ProblemKind.NOT_JSON, "Send it with Content-Type: application/json. Nothing was changed."
        )
    try:
        sent = _SENT.validate_json(await request.body())
        key = _KEY.validate_python(request.headers.get("Idempotency-Key", ""))
        student = _STUDENT.validate_python(request.query_params.get("student"))
    except ValidationError as problem:
        raise RequestValidationError(problem.errors(include_context=False)) from None
    session = await signed_in(request)
    return await send_changes(request, session, request.path_params["term"], sent, key, student)


@router.get("/terms/{term}/confirmations")
def list_confirmations(
    request: Request,
    subject_id: SubjectId,
    term: str,
    before: Annotated[int | None, Query(ge=1, le=2**62)] = None,
) -> ConfirmationList:
    """A student's confirmations of a term, newest first, fifty at a time."""
    most = 50
    context = services_of(request).context
    row = context.student_term(subject_id, context.term(term))
    with connected(context.database) as database:
        found = read_confirmations(database, row, before, most + 1)
    lines = []
    for confirmation in found[:most]:
        names: dict[str, list[str]] = {"accepted": [], "waiting": [], "refused": []}
        for o in confirmation.body["outcomes"]:
            names[o["result"]].append(f"{o['kind']} {o['name'] or o['number']}")
        lines.append(
            ConfirmationLine(
                id=confirmation.id,
                sent_at=confirmation.sent_at,
                sent_by=confirmation.body["sent_by"],
                credits_after=confirmation.body["after"]["credits"],
                **names,
            )
        )
    return ConfirmationList(confirmations=lines, more=len(found) > most)


@router.get("/confirmations/{confirmation_id}")
def read_confirmation(request: Request, subject_id: SubjectId, confirmation_id: int) -> ConfirmationResponse:
    """One confirmation, as it was issued."""
    found = None
    if 0 < confirmation_id < 2**62:
        with connected(services_of(request).context.database) as database:
            found = find_confirmation(database, confirmation_id, subject_id)
    if found is None:
        raise Problem(
            ProblemKind.CONFIRMATION_UNKNOWN,
            "There is no confirmation of yours with this number. Look in your list of confirmations.",
        )
    return ConfirmationResponse(
        id=found.id,
        term=found.term,
        sent_at=found.sent_at,
        repeated=False,
        body=ConfirmationBody.model_validate(found.body),
    )
