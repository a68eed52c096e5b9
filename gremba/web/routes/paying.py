"""Payments by card: begun here, made on the payment service's page, told by its signed answers. And that
page, where the stand-in is the service."""

from __future__ import annotations

import secrets
import threading
from typing import Annotated
from urllib.parse import parse_qs

from fastapi import APIRouter, Header, Request
from fastapi.responses import HTMLResponse, RedirectResponse, Response
from starlette.concurrency import run_in_threadpool

from gremba.actions import pay
from gremba.actions.payment_service import BegunPayment, SignedAnswer
from gremba.actions.problem import Problem
from gremba.actions.problem_kinds import ProblemKind
from gremba.core.states import PaymentState
from gremba.core.wording import amount
from gremba.standins.payment import ADDRESS, StandInPayments
from gremba.standins.payment_page import payment_page
from gremba.store.payments import PaymentLine
from gremba.web.access import SignedIn
from gremba.web.schemas import BegunResponse, PaymentResponse
from gremba.web.services import Services, services_of

router = APIRouter()

_FORM = 1_000
"""Signs of a form that are read: more than a card number has."""


@router.post("/api/holds/{hold_id}/payment")
def pay_hold(
    request: Request, session: SignedIn, hold_id: int, back: Annotated[str, Header()] = ""
) -> BegunResponse:
    """Begin to pay a fee hold of one's own; an approved payment lifts it."""
    services = services_of(request)
    if not 0 < hold_id < 2**31:
        raise Problem(ProblemKind.HOLD_UNKNOWN, "Look at Clearance again.")
    begun = pay.pay_hold(services.context, services.payments, session.person.id, hold_id, _way_back(back))
    return BegunResponse(reference=begun.reference, page=begun.page)


def _way_back(address: str) -> str:
    """An address of this server, whatever is asked for."""
    is_ours = address.startswith("/") and not address.startswith(("//", "/\\")) and len(address) < 200
    return address if is_ours and address.isascii() and address.isprintable() else "/"


@router.get("/api/payments/{reference}")
def read_payment(request: Request, session: SignedIn, reference: str) -> PaymentResponse:
    """What became of a payment of one's own, as far as it is known."""
    payment = pay.own_payment(services_of(request).context, session.person.id, reference)
    return _payment_response(payment)


@router.post("/api/payments/{reference}/question")
def ask_about_payment(request: Request, session: SignedIn, reference: str) -> PaymentResponse:
    """Ask the payment service what became of a payment that has had no answer."""
    services = services_of(request)
    return _payment_response(pay.ask(services.context, services.payments, session.person.id, reference))


@router.post("/api/payments/answers")
async def take_payment_answer(
    request: Request,
    signature: Annotated[str, Header(alias="X-Payment-Signature", max_length=200)] = "",
) -> PaymentResponse:
    """Where the payment service posts its signed answers; each may come any number of times."""
    services = services_of(request)
    answer = SignedAnswer(await request.body(), signature)
    payment = await run_in_threadpool(pay.take_answer, services.context, services.payments, answer)
    return _payment_response(payment)


def _payment_response(payment: PaymentLine) -> PaymentResponse:
    sum_ = amount(payment.amount_cents)
    texts = {
        PaymentState.WAITING: "The payment service has not answered. Nothing is lost: ask again in a "
        "moment, before you try another card.",
        PaymentState.APPROVED: f"Paid. {sum_} is on your account.",
        PaymentState.DECLINED: "The payment was not made. Nothing was charged.",
        PaymentState.RETURNED: "The hold was lifted already, so this payment is paid back.",
    }
    if payment.hold_id is not None:
        texts[PaymentState.APPROVED] = "Paid. The hold is lifted."
    return PaymentResponse(
        reference=payment.reference,
        state=payment.state.value,
        amount_cents=payment.amount_cents,
        hold=payment.hold_id,
        text=texts[payment.state],
    )


@router.get(ADDRESS + "/{token}", include_in_schema=False)
def show_payment_page(request: Request, token: str) -> Response:
    """The stand-in's page: what is to be paid, and a field for the card."""
    _, payment = _stand_in(services_of(request), token)
    return _page(token, payment)


@router.post(ADDRESS + "/{token}", include_in_schema=False)
async def make_payment(request: Request, token: str) -> Response:
    """Pay with a card, or go back without paying; the stand-in's page posts it as a form."""
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
