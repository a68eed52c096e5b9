"""Serves the stand-in payment service on an address of its own, without a session."""

from __future__ import annotations

import secrets
import threading
from urllib.parse import parse_qs

from fastapi import APIRouter, Request
from fastapi.responses import HTMLResponse, RedirectResponse, Response
from starlette.concurrency import run_in_threadpool

from gremba.actions.account import pay
from gremba.actions.account.payment_service import BegunPayment
from gremba.actions.problem import Problem
from gremba.actions.problem_kinds import ProblemKind
from gremba.standins.payment import ADDRESS, StandInPayments
from gremba.standins.payment_page import payment_page
from gremba.web.services import Services, services_of

router = APIRouter(prefix=ADDRESS)

_FORM = 1_000
"""Signs of a form that are read: more than a card number has."""


@router.get("/{token}", include_in_schema=False)
def show_payment_page(request: Request, token: str) -> Response:
    """The stand-in's payment page: the amount, and a field for the card."""
    _, payment = _stand_in(services_of(request), token)
    return _page(token, payment)


@router.post("/{token}", include_in_schema=False)
async def make_payment(request: Request, token: str) -> Response:
    """Pay with a card, or return without paying."""
    form = parse_qs((await request.body()).decode(errors="replace")[:_FORM])
    return await run_in_threadpool(_make_payment, services_of(request), token, form)


def _make_payment(services: Services, token: str, form: dict[str, list[str]]) -> Response:
    service, payment = _stand_in(services, token)
    if form.get("leave"):
        pay.take_answer(services.context, service, service.refuse(payment))
        return _go_back(payment)
    try:
        chosen, answers = service.charge(payment, "".join(form.get("card", [])))
    except Problem as problem:
        return _page(token, payment, f"{problem.title}. {problem.detail}")
    for answer in answers:
        if chosen.after:
            later = threading.Timer(chosen.after, _answer_late, (services, service, payment))
            later.daemon = True
            later.start()
        else:
            pay.take_answer(services.context, service, answer)
    return _go_back(payment)


def _answer_late(services: Services, service: StandInPayments, payment: BegunPayment) -> None:
    pay.take_answer(services.context, service, service.inquire(payment))


def _stand_in(services: Services, token: str) -> tuple[StandInPayments, BegunPayment]:
    service = services.payments
    payment = service.asked_for(token) if isinstance(service, StandInPayments) else None
    if not isinstance(service, StandInPayments) or payment is None:
        raise Problem(ProblemKind.NOT_FOUND, "Begin the payment again where you came from.")
    return service, payment


def _go_back(payment: BegunPayment) -> Response:
    return RedirectResponse(f"{payment.back}?payment={payment.reference}", 303)


def _page(token: str, payment: BegunPayment, problem: str = "") -> Response:
    nonce = secrets.token_urlsafe(16)
    policy = (
        f"default-src 'none'; style-src 'nonce-{nonce}'; form-action 'self'; base-uri 'none'; "
        "frame-ancestors 'none'"
    )
    headers = {"Content-Security-Policy": policy, "Cache-Control": "no-store", "X-Robots-Tag": "noindex"}
    page = payment_page(token, payment, nonce, problem)
    return HTMLResponse(page, 422 if problem else 200, headers)
