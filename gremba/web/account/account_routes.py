"""Routes of a student's account."""

from __future__ import annotations

import math

from fastapi import APIRouter, Request, Response
from starlette.concurrency import run_in_threadpool

from gremba.actions.account.pay import pay_account
from gremba.actions.account.statement import AccountOverview, join_installments, look_at_account, request_back
from gremba.actions.problem import Problem, too_many_submissions
from gremba.actions.registration.submission import Submission
from gremba.formats import statement_file, table_file
from gremba.web.access.guard import SignedIn
from gremba.web.account.responses import account_response, told_by
from gremba.web.files import TABLE, as_file
from gremba.web.once import OnceKey
from gremba.web.registration.responses import confirmation_json
from gremba.web.schemas import AccountResponse, BegunResponse, ConfirmationResponse, JoinWanted, SumWanted
from gremba.web.services import services_of

router = APIRouter(prefix="/api/terms/{term}/account")


def _look(request: Request, session: SignedIn, term: str) -> AccountOverview:
    return look_at_account(services_of(request).context, session.person.id, term)


@router.get("")
def read_account(request: Request, session: SignedIn, term: str) -> AccountResponse:
    """The statement line by line, what is due when, and how to pay it."""
    return account_response(_look(request, session, term))


@router.get("/file", responses=TABLE, response_class=Response)
def download_statement(request: Request, session: SignedIn, term: str) -> Response:
    """Download the statement as CSV."""
    found = _look(request, session, term)
    body = statement_file.write_statement(found.statement, told_by)
    return as_file(body, table_file.MEDIA_TYPE, f"statement-{term}.csv")


@router.post("/payments")
def pay_to_account(request: Request, session: SignedIn, term: str, wanted: SumWanted) -> BegunResponse:
    """Start a payment; it is made on the payment service's page."""
    services = services_of(request)
    begun = pay_account(
        services.context,
        services.payments,
        session.person.id,
        term,
        wanted.amount_cents,
        f"/{term}/account",
        wanted.paid_cents,
    )
    return BegunResponse(reference=begun.reference, page=begun.page)


@router.post("/installments")
def join_installment_plan(
    request: Request, session: SignedIn, term: str, wanted: JoinWanted
) -> AccountResponse:
    """Join an installment plan."""
    join_installments(services_of(request).context, session.person.id, term, wanted.plan)
    return read_account(request, session, term)


@router.post("/asking-back", response_model=ConfirmationResponse)
async def ask_seats_back(
    request: Request,
    session: SignedIn,
    term: str,
    key: OnceKey,
) -> Response:
    """Ask for sections dropped for nonpayment: an ordinary submission, with a confirmation."""
    services = services_of(request)
    waits = services.submissions_a_minute.take(session.person.id)
    if waits:
        raise too_many_submissions(math.ceil(waits))
    context = services.context
    wanted = await run_in_threadpool(request_back, context, session.person.id, term, key)
    catalogue = context.term(term)
    answer = wanted.before or await services.submission_queue.put(
        Submission(
            wanted.row, catalogue, wanted.request, wanted.key, session.person.id, session.person.full_name
        )
    )
    if isinstance(answer, Problem):
        raise answer
    return Response(confirmation_json(answer, catalogue.name), media_type="application/json")
